// How the page is built: nodes and their depth, sections, moving animations, and which characters each font shows, also in
// the first view.
() => {
  const name = window[Symbol.for("unladen.selector")], counts = new Map();
  let nodes = 0, depth = 0, deepest = null;
  const measure = (element, level) => {
    let own = 1;
    nodes++;
    if (level > depth) { depth = level; deepest = element; }
    for (const child of element.children) own += measure(child, level + 1);
    counts.set(element, own);
    return own;
  };
  measure(document.documentElement, 1);
  // The parts of the page that hold the most: the largest is taken apart until there are enough of them.
  const parts = [document.body ?? document.documentElement], size = (e) => counts.get(e) ?? 0;
  for (let i = 0; i < 40 && parts.length < 8; i++) {
    parts.sort((a, b) => size(b) - size(a));
    const split = parts.findIndex((e) => e.children.length > 0 && size(e) > 6);
    if (split < 0) break;
    parts.push(...parts.splice(split, 1)[0].children);
  }
  // What a part is called by somebody who looks at it: its label, its first heading, its first words.
  const words = (text) => (text ?? "").trim().replace(/\s+/g, " ").slice(0, 60);
  const label = (e) => words(e.getAttribute("aria-label")) || words(e.querySelector("h1,h2,h3,h4,h5,h6,legend,caption,figcaption")?.textContent)
    || words(e.getAttribute("alt") ?? e.title) || words(e.innerText);
  const part = (e) => {
    const box = e.getBoundingClientRect();
    return { selector: name(e), label: label(e), nodes: size(e), x: Math.round(box.left + scrollX), y: Math.round(box.top + scrollY), width: Math.round(box.width), height: Math.round(box.height) };
  };
  const sections = parts.filter((e) => size(e) > 1).sort((a, b) => size(b) - size(a)).slice(0, 8).map(part);

  const running = document.getAnimations().filter((a) => a.playState === "running" && a.effect?.getComputedTiming?.().iterations === Infinity)
    .map((a) => a.effect.target).filter(Boolean);
  const moving = [...new Set(running)], within = moving.filter((e) => moving.some((other) => other !== e && other.contains(e)));

  const plain = (family) => family.trim().replace(/^["']|["']$/g, ""), loaded = new Set([...document.fonts].map((face) => plain(face.family)));
  const fonts = new Map(), note = (text, style, first) => {
    for (const raw of style.fontFamily.split(",")) {
      const family = plain(raw), key = `${family}|${style.fontWeight}|${style.fontStyle}`;
      const entry = fonts.get(key) ?? { family, weight: style.fontWeight, style: style.fontStyle, characters: new Set(), first: false };
      entry.first ||= Boolean(first);
      for (const c of text) entry.characters.add(c);
      fonts.set(key, entry);
      // A family that is not there, or lacks a character, leaves the text to the next.
      if (loaded.has(family) && !/[\ue000-\uf8ff]/.test(text)) break;
    }
  };
  const cased = (text, style) => style.textTransform === "none" && style.fontVariantCaps === "normal" ? text : text + text.toUpperCase() + text.toLowerCase();
  const walker = document.createTreeWalker(document.body ?? document.documentElement, NodeFilter.SHOW_TEXT);
  for (let node = walker.nextNode(), left = 20000; node && left; node = walker.nextNode(), left--) {
    const parent = node.parentElement;
    if (!parent || !node.data.trim() || ["SCRIPT", "STYLE", "NOSCRIPT", "TEMPLATE"].includes(parent.tagName)) continue;
    const style = getComputedStyle(parent);
    const box = parent.getBoundingClientRect(), top = box.top + scrollY;
    note(cased(node.data, style), style, box.width && box.height && top < innerHeight && top + box.height > 0 && style.visibility === "visible");
  }
  // What is generated, what lists count by, and what fields say.
  for (const e of [...document.querySelectorAll("*")].slice(0, 20000)) {
    for (const pseudo of ["::before", "::after"]) {
      const style = getComputedStyle(e, pseudo), content = style.content;
      if (content && content !== "none" && content !== "normal") note(cased(content, style), style);
    }
    const own = e.localName === "input" || e.localName === "textarea" ? e.value : e.localName === "optgroup" || e.localName === "option" ? e.label : "";
    const said = [e.placeholder, own, e.alt].filter((text) => typeof text === "string" && text).join("");
    if (said) note(said, getComputedStyle(e));
    if (e.localName === "li") note("0123456789.•◦▪", getComputedStyle(e));
  }
  const used = [...fonts.values()].map((f) => ({ ...f, characters: [...f.characters].filter((c) => c.trim()).sort().join("") }));
  return {
    nodes, depth, deepest: deepest ? part(deepest) : null, sections, moving: moving.slice(0, 20).map(part), nested: within.slice(0, 20).map(name), fonts: used,
  };
}
