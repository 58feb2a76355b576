// Before a picture is taken, waits until the page's own pictures are decoded and two frames have been drawn with them. One of
// more than the window makes this larger for a moment: afterwards (`part` is "done") waits until it is what it was.
async (part) => {
  const watch = window[Symbol.for("unladen.watch")];
  if (part === "done") return watch.hush(false);
  const there = [...document.images].filter((i) => i.complete && i.naturalWidth && i.getClientRects().length);
  await Promise.race([Promise.all(there.map((i) => i.decode().catch(() => 0))), watch.wait(5000)]);
  await watch.frame();
  await watch.frame();
  return part === "window" || watch.hush(true);
}
