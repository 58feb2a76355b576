// Scrolls a page to its very end and back, a window at a time, so that all that waits for being near comes. Pages that
// grow while one scrolls are followed to `most` px; returns whether the end was reached.
async (most) => {
  const watch = window[Symbol.for("unladen.watch")], root = document.scrollingElement ?? document.documentElement;
  const end = () => root.scrollHeight - innerHeight;
  const tall = root.scrollHeight, limit = Math.max(most, tall);
  let y = 0;
  for (; y < end() && y < limit; ) {
    y = Math.min(y + innerHeight * 0.9, end());
    scrollTo(0, y);
    await watch.frame();
    const near = [...document.images].filter((i) => { const b = i.getBoundingClientRect(); return (i.currentSrc || i.src) && !i.complete && i.getClientRects().length && i.checkVisibility() && b.bottom > 0 && b.top < innerHeight; });
    if (near.length) await Promise.race([Promise.all(near.map((i) => i.decode().catch(() => 0))), watch.wait(5000)]);
  }
  scrollTo(0, 0);
  // Whatever waits for a visitor's first move has had it, also on a page too short to scroll.
  window.dispatchEvent(new Event("scroll"));
  await watch.frame();
  return y >= end() - 2;
}
