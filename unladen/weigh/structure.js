// How the page is built: nodes and their depth, sections, endless animations, and which characters each font shows.
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
  // The parts of the page that hold the most: down from the body until a part falls into several.
  let parts = [document.body];
  while (parts.length === 1 && parts[0]?.children.length) parts = [...parts[0].children];
  const sections = parts.filter(Boolean).map((e) => ({ selector: name(e), nodes: counts.get(e) ?? 0 })).sort((a, b) => b.nodes - a.nodes).slice(0, 8);

  const moving = document.getAnimations().filter((a) => a.playState === "running" && a.effect?.getComputedTiming?.().iterations === Infinity)
    .map((a) => a.effect.target).filter(Boolean);
  const endless = [...new Set(moving)], within = endless.filter((e) => endless.some((other) => other !== e && other.contains(e)));

  const fonts = new Map(), walker = document.createTreeWalker(document.body ?? document.documentElement, NodeFilter.SHOW_TEXT);
  for (let node = walker.nextNode(), left = 20000; node && left; node = walker.nextNode(), left--) {
    const parent = node.parentElement;
    if (!parent || !node.data.trim() || ["SCRIPT", "STYLE", "NOSCRIPT", "TEMPLATE"].includes(parent.tagName)) continue;
    const style = getComputedStyle(parent);
    for (const raw of style.fontFamily.split(",")) {
      const family = raw.trim().replace(/^["']|["']$/g, ""), key = `${family}|${style.fontWeight}|${style.fontStyle}`;
      const entry = fonts.get(key) ?? { family, weight: style.fontWeight, style: style.fontStyle, characters: new Set() };
      for (const c of node.data) entry.characters.add(c);
      fonts.set(key, entry);
      if (![...document.fonts].some((face) => face.family.replace(/^["']|["']$/g, "") === family) && !/^(serif|sans-serif|monospace)$/.test(family)) continue;
      break;
    }
  }
  const used = [...fonts.values()].map((f) => ({ ...f, characters: [...f.characters].filter((c) => c.trim()).sort().join("") }));
  return {
    nodes, depth, deepest: deepest ? name(deepest) : "", sections, endless: endless.slice(0, 20).map(name), nested: within.slice(0, 20).map(name), fonts: used,
  };
}
