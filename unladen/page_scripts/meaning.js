// What machines and aids read: title, language, what is said of the page, headings, landmarks, labels, ids in use, tab order.
() => {
  const { places, clean } = window[Symbol.for("unladen.places")];
  const root = document.documentElement, page = {}, labels = {}, parts = [], ids = [];
  page["title"] = clean(document.title);
  page["language"] = root.lang; page["direction"] = root.dir; page["mode"] = document.compatMode; page["charset"] = document.characterSet;
  for (const m of document.querySelectorAll("meta[name],meta[property],meta[itemprop],meta[http-equiv]")) {
    const name = (m.getAttribute("name") || m.getAttribute("property") || m.getAttribute("itemprop") || m.getAttribute("http-equiv") || "").toLowerCase();
    // What only browsers of the past and the platform itself read.
    if (name && !["generator", "x-ua-compatible", "imagetoolbar", "cleartype", "mssmarttagspreventparsing"].includes(name)) page[`meta ${name}`] = [page[`meta ${name}`], clean(m.content)].filter((v) => v !== undefined).join(" | ");
  }
  for (const l of document.querySelectorAll("link[rel]")) {
    const rel = l.rel.toLowerCase();
    if (rel === "alternate" && (/\+oembed$/i.test(l.type) || (/^application\/(rss|atom)\+xml$/i.test(l.type) && /\/comments\//i.test(l.href)))) continue;
    // Icons may be coded anew; that there are as many of them is what counts.
    if (/\bicon\b|apple-touch-icon|mask-icon/.test(rel)) page[`icon ${rel} ${l.sizes?.value ?? ""}`.trim()] = String(1 + Number(page[`icon ${rel} ${l.sizes?.value ?? ""}`.trim()] ?? 0));
    if (["canonical", "alternate", "next", "prev", "license", "author", "manifest", "amphtml", "me", "search", "shortlink", "pingback", "webmention", "hub", "privacy-policy", "terms-of-service", "help"].includes(rel)) page[`link ${rel} ${l.hreflang || ""}`.trim()] = [page[`link ${rel} ${l.hreflang || ""}`.trim()], l.href].filter(Boolean).join(" | ");
  }
  let number = 0;
  for (const s of document.querySelectorAll('script[type="application/ld+json"]')) {
    let said = clean(s.textContent);
    try { said = JSON.stringify(JSON.parse(s.textContent)); } catch { /* compared as it is */ }
    page[`structured data ${++number}`] = said.slice(0, 20000);
  }
  number = 0;
  for (const t of document.querySelectorAll("template")) {
    const said = clean(t.content.textContent), parts = [...t.content.querySelectorAll("*")].map((e) => `${e.localName}${e.id ? "#" + e.id : ""}${typeof e.className === "string" && e.className ? "." + e.className : ""}`);
    page[`template ${t.id || ++number}`] = `${said} ${parts.join(" ")}`.slice(0, 20000);
  }
  // What scripts read later: data in blocks that are no scripts themselves.
  number = 0;
  const CODE = /^(|module|(text|application)\/(x-)?(java|ecma|live)script.*|text\/jscript|application\/ld\+json)$/i;
  for (const s of document.querySelectorAll("script[type]")) {
    let said = clean(s.textContent);
    // With an address it is a script that waits to become one.
    if (CODE.test(s.type.trim()) || !said || s.hasAttribute("src") || s.dataset.unladen !== undefined) continue;
    try { said = JSON.stringify(JSON.parse(s.textContent)); } catch { /* compared as it is */ }
    page[`data block ${s.id || ++number}`] = said.slice(0, 20000);
  }
  // How the page is cut into sheets of paper.
  const sheets = (list) => [...list].flatMap((rule) => rule instanceof CSSPageRule ? [rule.cssText.replace(/\s+/g, " ")] : rule.cssRules ? sheets(rule.cssRules) : []);
  const paper = [...document.styleSheets].flatMap((sheet) => { try { return sheets(sheet.cssRules); } catch { return []; } });
  if (paper.length) page["sheet of paper"] = paper.join(" ");
  const wanted = ["role", "lang", "dir", "tabindex", "scope", "headers", "colspan", "rowspan", "itemprop", "itemscope", "itemtype", "itemid", "accesskey", "contenteditable", "spellcheck", "draggable", "start", "reversed", "datetime", "cite", "translate", "inert", "popover", "usemap", "ismap", "shape", "coords", "slot", "part", "is"];
  const named = new Set();
  for (const e of document.querySelectorAll("a[href^='#'],label[for],[aria-controls],[aria-labelledby],[aria-describedby],[aria-owns],[list],[form],use")) {
    for (const name of ["href", "for", "aria-controls", "aria-labelledby", "aria-describedby", "aria-owns", "list", "form"]) {
      for (const id of (e.getAttribute(name) ?? "").split(/\s+/)) if (id) named.add(id.replace(/^#/, ""));
    }
  }
  const texts = [...document.scripts].filter((s) => !s.src && !s.dataset.unladen).map((s) => s.textContent).join("\n");
  for (const [e, place] of places()) {
    const said = wanted.filter((n) => e.hasAttribute(n)).map((n) => `${n}=${e.getAttribute(n)}`);
    said.push(...[...e.attributes].filter((a) => a.name.startsWith("aria-")).map((a) => `${a.name}=${a.value}`));
    if (e.id && (named.has(e.id) || texts.includes(e.id))) ids.push(e.id);
    if (/^h[1-6]$/.test(e.localName)) parts.push([place, e.localName, clean(e.textContent).slice(0, 120)]);
    else if (["main", "nav", "header", "footer", "aside", "article", "dialog", "table", "form"].includes(e.localName)) parts.push([place, e.localName, ""]);
    if (e.labels) said.push("labels=" + [...e.labels].map((l) => clean(l.textContent)).join(" | "));
    if (said.length) labels[place] = said.join("; ");
  }
  const order = places().filter(([e]) => e.tabIndex >= 0 && e.matches("a[href],area[href],button,input,select,textarea,summary,iframe,audio[controls],video[controls],[tabindex],[contenteditable]") && !e.disabled && e.checkVisibility?.({ visibilityProperty: true }))
    .map(([e, place], i) => [e.tabIndex || Infinity, i, place]).sort((a, b) => a[0] - b[0] || a[1] - b[1]).map((row) => row[2]);
  const there = [...new Set(places().map(([e]) => e.id).filter((id) => id && typeof id === "string"))].sort();
  return { page, labels, parts, ids: ids.sort(), there, order: order.slice(0, 3000) };
}
