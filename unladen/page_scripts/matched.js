// Which of these selectors something in the page matches, in trees of its own too, and the names that are in it. `first`: those
// that match something which is in the first view, or might be without its styles.
(selectors) => {
  const roots = [document], names = new Set(), first = new Set();
  const early = (e) => {
    const box = e.getBoundingClientRect();
    if (!box.width && !box.height) return true;
    if (box.top + scrollY < innerHeight) return true;
    const place = getComputedStyle(e).position;
    return place === "fixed" || place === "absolute";
  };
  for (let i = 0; i < roots.length; i++) {
    for (const e of roots[i].querySelectorAll("*")) {
      if (e.shadowRoot) roots.push(e.shadowRoot);
      if (e.localName === "template") roots.push(e.content);
      names.add(e.localName.toLowerCase());
      if (e.id && typeof e.id === "string") names.add(`#${e.id}`);
      for (const c of e.classList) names.add(`.${c}`);
      for (const a of e.attributes) names.add(`[${a.name.toLowerCase()}]`);
      if (roots[i] === document && early(e)) first.add(e);
    }
  }
  const soon = [];
  const matched = selectors.filter((s) => {
    try {
      const found = roots[0].querySelectorAll(s);
      for (const e of found) if (first.has(e)) { soon.push(s); break; }
      return found.length > 0 || roots.some((root) => root.querySelector(s) !== null);
    } catch { soon.push(s); return true; }
  });
  return { matched, first: soon, names: [...names] };
}
