// What shows in the window before a visitor has done anything: by place, where it is and what it is painted with. Style sheets
// that come late are put aside meanwhile.
() => {
  const { places } = window[Symbol.for("unladen.places")];
  const MOST = 4000;
  const shown = {};
  const sheets = [...document.querySelectorAll("link[data-media]")].filter((e) => e.sheet);
  for (const e of sheets) e.sheet.disabled = true;
  const over = new Map(), roots = new Set();
  const path = (e) => {
    if (e === document.body || !e.parentElement) return e.localName;
    if (e.id) return `${e.localName}#${CSS.escape(e.id)}`;
    const alike = [...e.parentElement.children].filter((other) => other.localName === e.localName);
    return `${path(e.parentElement)} > ${e.localName}:nth-of-type(${alike.indexOf(e) + 1})`;
  };
  // What lies over the page in a layer of its own: the element that makes it, by a selector that others can look up.
  const layer = (e) => {
    if (!e || e === document.body || e === document.documentElement) return "";
    if (!over.has(e)) {
      const fixed = getComputedStyle(e).position === "fixed";
      over.set(e, fixed ? path(e) : layer(e.parentElement ?? e.getRootNode().host));
    }
    return over.get(e);
  };
  let count = 0;
  for (const [e, place] of places()) {
    if (count >= MOST) break;
    const box = e.getBoundingClientRect();
    if (!box.width || !box.height || box.bottom <= 0 || box.right <= 0 || box.top >= innerHeight || box.left >= innerWidth) continue;
    if (!e.checkVisibility({ opacityProperty: true, visibilityProperty: true })) continue;
    const style = getComputedStyle(e);
    const late = e.dataset?.late !== undefined || e.dataset?.instead !== undefined || "still" in (e.dataset ?? {});
    const there = e.localName === "img" ? e.complete && e.naturalWidth > 0 : sheets.length ? null : style.backgroundImage !== "none";
    count += 1;
    // What lies beyond the window is not seen yet.
    const left = Math.max(0, box.left), top = Math.max(0, box.top);
    const seen = [left, top, Math.min(innerWidth, box.right) - left, Math.min(innerHeight, box.bottom) - top];
    shown[place] = [...seen.map(Math.round), style.color, style.backgroundColor, late ? null : there, layer(e)];
    roots.add(layer(e));
  }
  for (const e of sheets) e.sheet.disabled = false;
  return { shown, layers: [...roots].filter(Boolean), waits: sheets.length > 0 || Boolean(document.querySelector("script[data-wait]")) };
}
