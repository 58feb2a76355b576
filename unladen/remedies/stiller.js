// Animations without an end stand still while what they move is outside the window. `npm run loader` in web/ makes it short.
((page, view) => {
  const ours = new WeakSet();
  const endless = (animation) => animation.effect && animation.effect.getTiming().iterations === Infinity;
  const watch = new IntersectionObserver((entries) => {
    for (const { target, isIntersecting } of entries) {
      for (const animation of target.getAnimations().filter(endless)) {
        if (isIntersecting && ours.delete(animation)) animation.play();
        else if (!isIntersecting && animation.playState === "running") {
          ours.add(animation);
          animation.pause();
        }
      }
    }
  });
  view.addEventListener("load", () => {
    for (const animation of page.getAnimations().filter(endless)) {
      if (animation.effect.target && !animation.effect.pseudoElement) watch.observe(animation.effect.target);
    }
  });
})(document, window);
