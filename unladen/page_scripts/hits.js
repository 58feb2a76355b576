// For each control, link and field that shows: whether a press on its middle reaches it; else the place of what lies above.
async () => {
  const { places } = window[Symbol.for("unladen.places")], watch = window[Symbol.for("unladen.watch")];
  const wanted = "a[href],button,input,select,textarea,summary,label,[role=button],[role=tab],[role=link],[role=menuitem],[onclick],video[controls]";
  const all = places(), placeOf = new Map(all), hits = {};
  const rows = all.filter(([e]) => e.matches(wanted) && e.checkVisibility?.({ visibilityProperty: true, opacityProperty: false }))
    .map(([e, place]) => { const b = e.getClientRects()[0]; return b && b.width > 1 && b.height > 1 ? [e, place, b.top + scrollY + b.height / 2] : null; })
    .filter(Boolean).sort((a, b) => a[2] - b[2]).slice(0, 1500);
  const root = document.scrollingElement ?? document.documentElement;
  const reached = (e) => {
    const b = e.getClientRects()[0];
    if (!b) return "gone";
    const x = b.left + b.width / 2, y = b.top + b.height / 2;
    if (x < 0 || x >= innerWidth || y < 0 || y >= innerHeight) return "outside";
    let hit = document.elementFromPoint(x, y);
    while (hit?.shadowRoot && hit.shadowRoot.elementFromPoint(x, y) && hit.shadowRoot.elementFromPoint(x, y) !== hit) hit = hit.shadowRoot.elementFromPoint(x, y);
    if (!hit) return "nothing";
    if (hit === e || e.contains(hit) || hit.contains(e) || (e.labels && [...e.labels].some((l) => l.contains(hit))) || hit.closest?.("label")?.control === e) return "";
    for (let up = hit; up; up = up.parentElement ?? up.getRootNode().host) if (placeOf.has(up)) return placeOf.get(up);
    return "another layer";
  };
  let at = -1;
  for (const [e, place, y] of rows) {
    if (at < 0 || y < at + innerHeight * 0.15 || y > at + innerHeight * 0.75) {
      at = Math.max(0, Math.min(y - innerHeight * 0.4, root.scrollHeight - innerHeight));
      if (Math.abs(scrollY - at) > 1) scrollTo(0, at);
    }
    hits[place] = reached(e);
  }
  if (scrollY) { scrollTo(0, 0); await watch.frame(); }
  return hits;
}
