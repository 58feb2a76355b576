// Brings what a page puts off once it is near the window, once its still is pressed, or once the visitor does anything.
// Every page that needs it carries it, so it is short; it is minified by `npm run loader` in web/.
((page, view) => {
  const FAR = 800; // CSS px around the window; MARGIN of the core
  const BEGUN = 300; // ms after load, since many pages set their classes only then
  const all = (selector) => page.querySelectorAll(selector);
  const on = (target, name, then) => target.addEventListener(name, then);
  on(page, "DOMContentLoaded", () => {
    const scripts = [];
    const shown = [];
    const run = (list) => list.splice(0).forEach((then) => then());
    const start = (held) => {
      const script = held.cloneNode(true);
      script.removeAttribute("type");
      script.async = held.hasAttribute("async"); // what is held counts as asynchronous by itself
      held.replaceWith(script);
    };
    const near = (target, then) =>
      new IntersectionObserver(
        (entries, watch) => {
          if (entries.some((entry) => entry.isIntersecting)) {
            watch.disconnect();
            then();
          }
        },
        { rootMargin: FAR + "px" },
      ).observe(target);
    for (const held of all("script[data-hold]")) {
      const name = held.dataset.hold;
      const go = () => start(held);
      const still = all(`[data-for="${name}"]`)[0];
      if (still) {
        on(still, "wanted", () => {
          still.remove();
          go();
        });
      } else if (name === "act") scripts.push(go);
      else near(all(`[data-near="${name}"]`)[0] || held.parentNode, go);
    }
    for (const target of all("[data-late]")) {
      const picture = target.dataset.picture;
      const show = () => {
        target.dataset.seen = "";
        if (picture) target.poster = picture;
        else if (target.play) target.play();
      };
      if (target.dataset.late === "act") shown.push(show);
      else near(target, show);
    }
    for (const name of ["scroll", "wheel", "pointerdown", "keydown"]) {
      on(view, name, () => {
        run(shown);
        run(scripts);
      });
    }
    // Slides that move by themselves change classes or styles.
    on(view, "load", () =>
      setTimeout(
        () =>
          new MutationObserver(() => run(shown)).observe(page.body, {
            subtree: true,
            attributeFilter: ["class", "style"],
          }),
        BEGUN,
      ),
    );
  });
})(document, window);
