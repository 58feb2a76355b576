// Which of these selectors something in the page matches, in trees of its own too, and the names that are in it.
(selectors) => {
  const roots = [document], names = new Set();
  for (let i = 0; i < roots.length; i++) {
    for (const e of roots[i].querySelectorAll("*")) {
      if (e.shadowRoot) roots.push(e.shadowRoot);
      if (e.localName === "template") roots.push(e.content);
      names.add(e.localName.toLowerCase());
      if (e.id && typeof e.id === "string") names.add(`#${e.id}`);
      for (const c of e.classList) names.add(`.${c}`);
      for (const a of e.attributes) names.add(`[${a.name.toLowerCase()}]`);
    }
  }
  const matched = selectors.filter((s) => {
    try { return roots.some((root) => root.querySelector(s) !== null); } catch { return true; }
  });
  return { matched, names: [...names] };
}
