// Before a picture of the page is taken, waits until its own pictures are decoded and two frames have been drawn with them;
// afterwards (`done`) until the window is what it was.
async (done) => {
  const watch = window[Symbol.for("unladen.watch")];
  if (done) return watch.hush(false);
  const there = [...document.images].filter((i) => i.complete && i.naturalWidth && i.getClientRects().length);
  await Promise.race([Promise.all(there.map((i) => i.decode().catch(() => 0))), watch.wait(5000)]);
  await watch.frame();
  await watch.frame();
  return watch.hush(true);
}
