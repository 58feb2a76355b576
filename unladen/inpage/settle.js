// Bring a page to rest: everything loaded, nothing moving, scrolled back to the top. Lazy pictures come by scrolling alone:
// whatever in the page waits for one that stays hidden has to wait here too.
async () => {
  const style = document.createElement("style");
  style.dataset.unladen = "still";
  style.textContent = "*,*::before,*::after{animation-delay:-1ms!important;animation-duration:1ms!important;"
    + "animation-iteration-count:1!important;animation-play-state:paused!important;transition:none!important;"
    + "scroll-behavior:auto!important;caret-color:transparent!important}video,canvas{visibility:hidden!important}";
  document.documentElement.append(style);
  const wait = (ms) => new Promise((done) => setTimeout(done, ms));
  const steps = Math.min(60, Math.ceil(document.documentElement.scrollHeight / (innerHeight / 2)));
  for (let i = 0; i < steps; i++) { scrollTo(0, i * innerHeight / 2); await wait(20); }
  scrollTo(0, 0);
  // Whatever waits for a visitor's first move has had it, also on a page too short to scroll.
  window.dispatchEvent(new Event("scroll"));
  const unseen = (i) => i.loading === "lazy" && !i.complete && i.getClientRects().length === 0;
  const within = (i) => (i.loading === "lazy" && !i.complete ? 1500 : 6000);
  const decoded = Promise.all([...document.images].filter((i) => (i.currentSrc || i.src) && !unseen(i))
    .map((i) => Promise.race([i.decode().catch(() => 0), wait(within(i))])));
  await Promise.race([decoded, wait(6000)]);
  await Promise.race([document.fonts.ready, wait(2000)]);
  document.getAnimations().forEach((a) => { try { a.finish(); } catch { a.cancel(); } });
  document.activeElement?.blur?.();
  await Promise.race([new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))), wait(500)]);
  return true;
}
