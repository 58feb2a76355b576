// Which rules of the style sheets match which elements, in any state: two pages in which these are the same have the same
// computed styles, whatever is pointed at, pressed or printed. Every selector is relaxed to one that matches at least as much
// (states and pseudo-elements out); each element gets a mark of all that is declared of it, in the order of the cascade.
(() => {
  const { places } = window[Symbol.for("unladen.places")];
  const { tidy } = window[Symbol.for("unladen.computed")];
  const STATES = window[Symbol.for("unladen.states")](), MOST_DEEP = 40;
  // What is no matter of where an element stands may be another at any moment.
  const STANDING = new Set(["root", "scope", "defined", "any-link", "first-child", "last-child", "only-child", "first-of-type", "last-of-type", "only-of-type"]);
  const OF_OTHERS = new Set(["is", "where", "matches", "any", "-webkit-any", "has", "not", "lang", "dir", "nth-child", "nth-last-child", "nth-of-type", "nth-last-of-type"]);
  const LEGACY = new Set(["before", "after", "first-line", "first-letter"]);

  // The end of a bracket that opens at `from`, strings and escapes passed over.
  const closing = (text, from) => {
    let depth = 0;
    for (let i = from; i < text.length; i++) {
      const c = text[i];
      if (c === "\\") i++;
      else if (c === '"' || c === "'") { for (i++; i < text.length && text[i] !== c; i++) if (text[i] === "\\") i++; }
      else if (c === "(" || c === "[") depth++;
      else if ((c === ")" || c === "]") && --depth === 0) return i;
    }
    return text.length - 1;
  };
  const split = (text) => {
    const parts = [];
    let from = 0;
    for (let i = 0; i < text.length; i++) {
      if (text[i] === "\\") i++;
      else if (text[i] === "(" || text[i] === "[") i = closing(text, i);
      else if (text[i] === ",") { parts.push(text.slice(from, i).trim()); from = i + 1; }
    }
    return [...parts, text.slice(from).trim()];
  };
  const IDENT = /(?:[-\w\u0080-\uffff]|\\.)+/y;
  const ident = (text, from) => { IDENT.lastIndex = from; return IDENT.exec(text)?.[0] ?? ""; };
  // One selector: `wide` matches at least as much in any state, `now` what the rule is about at this moment; `states` that it
  // names; `needs`: names without which it matches nothing; `host`: it is about the element that holds a shadow tree.
  const relax = (text) => {
    const found = { wide: "", now: "", states: [], needs: [], host: false };
    let empty = [true, true];
    const put = (wide, now) => { found.wide += wide; found.now += now; empty = [empty[0] && !wide, empty[1] && !now]; };
    const end = () => { if (empty[0]) found.wide += "*"; if (empty[1]) found.now += "*"; };
    for (let i = 0; i < text.length; ) {
      const c = text[i];
      if (c === "[") { const to = closing(text, i) + 1; put(text.slice(i, to), text.slice(i, to)); i = to; continue; }
      if (c === "." || c === "#") {
        const name = ident(text, i + 1);
        if (!name.includes("\\")) found.needs.push(c + name);
        put(c + name, c + name);
        i += 1 + Math.max(name.length, 1);
        continue;
      }
      if (c === ":") {
        const two = text[i + 1] === ":", name = ident(text, i + (two ? 2 : 1)), low = name.toLowerCase();
        let to = i + (two ? 2 : 1) + name.length, inner = "";
        if (text[to] === "(") { const close = closing(text, to); inner = text.slice(to + 1, close); to = close + 1; }
        const from = i;
        i = Math.max(to, i + 1);
        if (two || LEGACY.has(low)) { if (low === "slotted" || low === "part") found.host = true; continue; }
        if (low === "host" || low === "host-context") { found.host = true; continue; }
        if (!inner && STANDING.has(low)) { put(`:${name}`, `:${name}`); continue; }
        if (!OF_OTHERS.has(low)) { found.states.push(low); put("", text.slice(from, i)); continue; }
        const parts = low.startsWith("nth-") ? [] : split(inner).map(relax);
        const states = parts.flatMap((part) => part.states);
        found.states.push(...states);
        if (parts.some((part) => part.host)) found.host = true;
        if (["is", "where", "matches", "any", "-webkit-any", "has"].includes(low)) {
          put(`:${name}(${parts.map((part) => part.wide).join(",")})`, `:${name}(${parts.map((part) => part.now).join(",")})`);
        } else if (low === "not" && states.length) put("", `:not(${inner})`);
        // What counts among others that are in a state may be any of them.
        else if (low.startsWith("nth-") && / of /.test(inner) && relax(inner.split(/ of /)[1]).states.length) { found.states.push(...relax(inner.split(/ of /)[1]).states); put("", `:${name}(${inner})`); }
        else put(`:${name}(${inner})`, `:${name}(${inner})`);
        continue;
      }
      if (/[\s>+~]/.test(c)) {
        let to = i;
        while (to < text.length && /[\s>+~]/.test(text[to])) to++;
        if (i > 0) end();
        const between = text.slice(i, to).trim();
        found.wide += i > 0 || !between ? ` ${between} ` : `${between} `; // relative ones begin with it
        found.now += i > 0 || !between ? ` ${between} ` : `${between} `;
        empty = [true, true];
        i = to;
        continue;
      }
      const name = c === "*" ? "*" : c === "|" ? "|" : ident(text, i) || c;
      if (name !== "*" && name !== "|" && !name.includes("\\") && text[i + name.length] !== "|" && text[i - 1] !== "|") found.needs.push(name.toLowerCase());
      put(name, name);
      i += name.length;
    }
    end();
    return found;
  };
  const known = new Map();
  const relaxed = (text) => { if (!known.has(text)) known.set(text, split(text).map((part) => [part, relax(part)])); return known.get(text); };

  // Two sums of 32 bits as one number of 53 (after cyrb53, which is in the public domain).
  const sum = (text) => {
    let a = 0xdeadbeef, b = 0x41c6ce57;
    for (let i = 0; i < text.length; i++) { const c = text.charCodeAt(i); a = Math.imul(a ^ c, 2654435761); b = Math.imul(b ^ c, 1597334677); }
    a = Math.imul(a ^ (a >>> 16), 2246822507) ^ Math.imul(b ^ (b >>> 13), 3266489909);
    b = Math.imul(b ^ (b >>> 16), 2246822507) ^ Math.imul(a ^ (a >>> 13), 3266489909);
    return [a >>> 0, b >>> 0];
  };
  const said = ([a, b]) => a.toString(36) + b.toString(36);
  const plain = (text) => tidy(text).replace(/\s+/g, " ").replace(/ ?([,(){};]) ?/g, "$1");

  // All rules of a tree in order: `visit` gets the text of what stands around, the rule, and the selectors of those it is nested in.
  const walk = (list, around, above, foreign, visit, deep = 0) => {
    if (deep > MOST_DEEP) return;
    for (const rule of list) {
      if (rule instanceof CSSImportRule) {
        const under = [rule.media?.mediaText, rule.layerName === null || rule.layerName === undefined ? "" : `layer ${rule.layerName}`, rule.supportsText ?? ""].filter(Boolean).join(" ");
        if (rule.styleSheet) sheet(rule.styleSheet, `${around}${under && `@import ${under} `}`, foreign, visit, deep + 1, rule.href);
        continue;
      }
      if (rule instanceof CSSStyleRule) {
        visit(around, rule, above);
        if (rule.cssRules?.length) walk(rule.cssRules, around, [...above, rule.selectorText], foreign, visit, deep + 1);
      } else if (rule.cssRules && !(rule instanceof CSSKeyframesRule)) {
        const head = rule.cssText.slice(0, rule.cssText.indexOf("{")).trim();
        visit(around, rule, above);
        walk(rule.cssRules, `${around}${head} `, above, foreign, visit, deep + 1);
      } else visit(around, rule, above);
    }
  };
  const sheet = (one, around, foreign, visit, deep, address) => {
    const media = one.media?.mediaText && !address ? `@media ${one.media.mediaText} ` : "";
    const under = `${around}${media}${one.disabled ? "disabled " : ""}`;
    let list = null;
    try { list = one.cssRules; } catch { list = null; }
    if (list) { walk(list, under, [], foreign, visit, deep); return; }
    const text = foreign?.[one.href];
    if (text === undefined) { visit(under, { closed: one.href }, []); return; }
    // What no script may read is read again as a sheet of ours, which brings no others of its own: these go before.
    for (const [, name, rest] of text.matchAll(/@import\s+(?:url\(\s*)?["']?([^"')\s;]+)["']?\s*\)?([^;]*);/g)) {
      const url = new URL(name, one.href).href;
      if (deep < MOST_DEEP && foreign[url] !== undefined && url !== one.href) sheet({ href: url, media: null, disabled: false, get cssRules() { throw new Error("closed"); } }, `${under}@import ${rest.trim()} `, foreign, visit, deep + 1, url);
    }
    try {
      const copy = new CSSStyleSheet({ baseURL: one.href });
      copy.replaceSync(text);
      walk(copy.cssRules, under, [], foreign, visit, deep);
    } catch { visit(under, { closed: one.href }, []); }
  };
  const sheetsOf = (root) => [...root.styleSheets, ...root.adoptedStyleSheets].filter((one) => one.ownerNode?.dataset?.unladen !== "still");

  // What of a rule says something of the elements that it is about: a custom property only where it is read (each of them where
  // nobody knows what is `read`), and nothing of what lies behind a film, as with computed styles.
  const NAME = /--[-\w\u0080-\uffff]+/g, PLAIN = /^--[-\w\u0080-\uffff]+$/, ESCAPED = /--[-\w\u0080-\uffff]*\\/;
  const loose = document.createElement("i").style;
  const counting = (style, read, ofFilms) => {
    const unread = (name) => read && PLAIN.test(name) && !read.has(name);
    const idle = [...style].filter((name) => (name.startsWith("--") ? unread(name) : ofFilms && name.startsWith("background")));
    if (!idle.length) return style.cssText;
    loose.cssText = style.cssText;
    for (const name of idle) loose.removeProperty(name);
    return loose.cssText;
  };
  // The custom properties that anything of these reads, by itself or through others: texts, and declarations that apply. Null where
  // one is named with escapes, which may be any.
  const readIn = (texts, styles) => {
    const read = new Set(), by = new Map(), next = [];
    let odd = false;
    const names = (text, into) => {
      if (!text.includes("--")) return;
      odd ||= ESCAPED.test(text);
      for (const [name] of text.matchAll(NAME)) into(name);
    };
    const found = (name) => { if (!read.has(name)) { read.add(name); next.push(name); } };
    for (const text of texts) names(text, found);
    for (const style of styles) {
      if (!style.cssText.includes("--")) continue;
      const own = [...style].filter((name) => name.startsWith("--"));
      for (const name of own) names(style.getPropertyValue(name), (other) => by.set(name, (by.get(name) ?? new Set()).add(other)));
      loose.cssText = style.cssText;
      for (const name of own) loose.removeProperty(name);
      names(loose.cssText, found);
    }
    for (let name; (name = next.pop()) !== undefined; ) for (const other of by.get(name) ?? []) found(other);
    return odd ? null : read;
  };

  const NAMED = /^(class|id|style|src|srcset|sizes|loading|decoding|fetchpriority|href|xlink:href|alt|title|poster|preload|name|for|action|method|target|rel|integrity|crossorigin|referrerpolicy|content|property|data-.*|aria-.*|on.*)$/;
  const OF_FILE = new Set(["img", "video", "iframe", "source", "embed", "object"]);
  const attributes = (e, more) => [...e.attributes].filter((a) => more.has(a.name) || (!NAMED.test(a.name) && !((a.name === "width" || a.name === "height") && OF_FILE.has(e.localName)))).map((a) => `${a.name}=${a.value}`).sort().join(" ");

  // `foreign`: texts of sheets that no script may read, by address; `kinds`: media of interest, each with what tells of it.
  return ({ foreign, kinds }) => {
    const MEDIA = kinds.map(([name, asked]) => [name, new RegExp(asked, "i")]);
    const all = places(), at = new Map(all.map(([e], n) => [e, n]));
    const one = new Int32Array(all.length), two = new Int32Array(all.length), states = new Int32Array(all.length), media = new Int8Array(all.length);
    const mix = (n, a, b) => { one[n] = Math.imul(one[n] ^ a, 2654435761) + (one[n] << 5); two[n] = Math.imul(two[n] ^ b, 1597334677) ^ (two[n] >>> 3); };
    const present = new Set(), quirks = document.compatMode !== "CSS1Compat", roots = [document];
    for (const root of roots) {
      for (const e of root.querySelectorAll("*")) {
        present.add(e.localName.toLowerCase());
        if (e.id && typeof e.id === "string") present.add(`#${e.id}`);
        for (const name of e.classList) present.add(`.${name}`);
        if (e.shadowRoot) roots.push(e.shadowRoot);
      }
    }
    // Rules that are about elements, in order, each with their numbers: in any state, and as it is now.
    const hold = [], surroundings = new Set();
    const closed = [], whole = [], order = [], waiting = {}, rules = {}, layers = [], frames = new Map(), faces = new Set(), named = [], taken = new Set();
    const bits = (names) => names.reduce((mask, name) => (STATES.includes(name) ? mask | (1 << STATES.indexOf(name)) : mask), 0);
    for (const root of roots) {
      const found = [];
      for (const each of sheetsOf(root)) sheet(each, "", foreign, (around, rule, above) => found.push([around, rule, above]), 0);
      const seen = new Set();
      // From the last to the first: of two that are the same the later one decides, so the earlier says nothing.
      for (const [around, rule, above] of found.reverse()) {
        if (rule.closed !== undefined) { closed.push(rule.closed); continue; }
        if (rule instanceof CSSKeyframesRule) { if (!frames.has(rule.name)) frames.set(rule.name, plain(around + rule.cssText)); continue; }
        if (rule instanceof CSSFontFaceRule) { faces.add(rule.style.getPropertyValue("font-family").replace(/["']/g, "").trim().toLowerCase()); continue; }
        if (window.CSSLayerBlockRule && rule instanceof CSSLayerBlockRule) { layers.push(around + (rule.name || "@")); continue; }
        if (window.CSSLayerStatementRule && rule instanceof CSSLayerStatementRule) { layers.push(...[...rule.nameList].reverse().map((name) => around + name)); continue; }
        const own = rule instanceof CSSStyleRule;
        if (!own && !(rule.style && above.length && !rule.selectorText)) {
          if (!rule.cssRules) whole.push(plain(around + rule.cssText));
          continue;
        }
        let selectors = own ? rule.selectorText : "&";
        for (const outer of [...above].reverse()) selectors = split(selectors).map((part) => (part.includes("&") ? part.replaceAll("&", `:is(${outer})`) : `:is(${outer}) ${part}`)).join(",");
        let text = null;
        for (const [part, { wide, now, states: in_, needs, host }] of [...relaxed(selectors)].reverse()) {
          text ??= plain(rule.style.cssText);
          if (!text) continue;
          const key = `${around}\u0001${part}\u0001`, id = said(sum(key + text));
          if (seen.has(id)) continue;
          seen.add(id);
          order.push(id);
          if (!quirks && !host && needs.some((name) => !present.has(name))) { waiting[id] = needs.join(" "); continue; }
          let hits = null, here = null;
          try { hits = root.querySelectorAll(wide); here = in_.length ? root.querySelectorAll(now) : null; } catch { hits = root.querySelectorAll("*"); here = null; }
          const holds = host ? [...(root.host ? [root.host, ...root.host.children] : all.map(([e]) => e).filter((e) => e.shadowRoot)), ...hits] : hits;
          const mask = bits(in_), about = MEDIA.reduce((found, [, asked], n) => (asked.test(around) ? found | (1 << n) : found), 0);
          const numbers = (some) => [...some].map((e) => at.get(e)).filter((n) => n !== undefined);
          const elements = numbers(holds);
          if (!elements.length) continue;
          hold.push({ key, style: rule.style, elements, here: here ? numbers(here) : [], mask, media: about });
          surroundings.add(around);
          rules[id] = [around, part, text];
          named.push(text);
          for (const [, name] of text.matchAll(/attr\(\s*([-\w]+)/g)) taken.add(name);
        }
      }
    }
    // Attributes of drawings read them too, such as fill="var(--ink)".
    const values = all.flatMap(([e]) => [...e.attributes].filter((a) => a.name !== "style").map((a) => a.value));
    const inline = all.map(([e]) => e.style).filter((style) => style?.length);
    const readers = [...surroundings, ...frames.values(), ...whole, ...values];
    const read = closed.length ? null : readIn(readers, [...hold.map((rule) => rule.style), ...inline]);
    for (const rule of hold) {
      const says = plain(counting(rule.style, read, rule.elements.every((n) => all[n][0].localName === "video")));
      if (!says) continue;
      const mark = sum(rule.key + says);
      for (const n of rule.elements) { mix(n, mark[0], mark[1]); states[n] |= rule.mask; media[n] |= rule.media; }
      for (const n of rule.here) mix(n, mark[1], mark[0]);
    }
    all.forEach(([e], n) => {
      const inline = e.style?.cssText ?? e.getAttribute("style") ?? "", more = attributes(e, taken);
      if (inline) named.push(inline);
      if (inline || more) mix(n, ...sum(`${plain(inline)}\u0001${more}`));
    });
    // What is named anywhere counts as in use.
    const words = new Set(named.join(" ").toLowerCase().match(/[-\w\u0080-\uffff]+/g));
    for (const [name, text] of frames) if (words.has(name.toLowerCase())) whole.push(text);
    const texts = named.join(" ").toLowerCase();
    for (const meta of document.querySelectorAll("meta[name=viewport],meta[name=color-scheme]")) whole.push(`${meta.name}: ${meta.content}`);
    whole.push(document.compatMode, `layers ${[...new Set(layers.reverse())].join(" ")}`);
    const chosen = (mask, names) => names.filter((_, n) => mask & (1 << n));
    const moods = {};
    all.forEach((_, n) => { const key = `${states[n]} ${media[n]}`; moods[key] ??= [chosen(states[n], STATES), chosen(media[n], kinds.map(([name]) => name))]; });
    return {
      marks: Object.fromEntries(all.map(([, place], n) => [place, `${(one[n] >>> 0).toString(36)}.${(two[n] >>> 0).toString(36)} ${states[n]} ${media[n]}`])),
      rules, moods, order, waiting, names: [...present].sort(), quirks, whole: whole.sort(), closed,
      faces: [...faces].filter((name) => texts.includes(name)).sort(),
    };
  };
})()
