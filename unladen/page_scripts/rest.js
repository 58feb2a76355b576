// Waits until a page is at rest, by conditions: all is loaded that should be there, nothing is under way, nothing changes.
// Returns what stands in the way if that does not come within the limit (ms), otherwise "". A busy machine gets to ask less often
// in that time: it has as many turns as an idle one has at least.
async ({ limit, quiet }) => {
  const watch = window[Symbol.for("unladen.watch")], begin = watch.time();
  const near = (e) => { const b = e.getBoundingClientRect(); return b.bottom > -200 && b.top < innerHeight + 200 && b.right > -200 && b.left < innerWidth + 200; };
  // What a closed part holds has a place and comes only once it is opened.
  const shown = (e) => e.getClientRects().length > 0 && e.checkVisibility();
  const waiting = (i) => (i.currentSrc || i.src) && !i.complete && (i.loading !== "lazy" || (shown(i) && near(i)));
  const reason = () => {
    if (document.readyState !== "complete") return "the page is still loading";
    const image = [...document.images].find(waiting);
    if (image) return `the picture ${(image.currentSrc || image.src).split("/").pop().slice(0, 80)} does not come`;
    if (document.fonts.status === "loading") return "a font does not come";
    return watch.busy() || (watch.drawing() ? "a script keeps drawing" : "");
  };
  const TURN = 16;
  for (let calm = 0, why = "", before = -1, turns = 0; ; turns++) {
    for (const a of document.getAnimations()) {
      if (a.playState !== "finished") watch.expect();
      try { a.finish(); } catch { try { a.cancel(); } catch { /* it has no end and no effect */ } }
    }
    why = reason() || (watch.since() < quiet ? "the page keeps changing" : "");
    // Counted too: a machine that stands still for a while makes no page rest.
    calm = why ? 0 : watch.changes() === before ? calm + 1 : 1;
    before = watch.changes();
    if (calm >= 2) return "";
    if (watch.time() - begin > limit && turns * TURN > limit) return why || "the page keeps changing";
    await (why ? watch.wait(4) : watch.turn());
  }
}
