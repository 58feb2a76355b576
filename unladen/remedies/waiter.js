// Runs the scripts that wait, in their order, once a visitor moves the pointer, presses, types, touches or scrolls, and
// does again what was pressed or sent meanwhile. Every page that needs it carries it; `npm run loader` in web/ makes it short.
((page, view) => {
  const own = page.currentScript.dataset;
  const FAR = 3; // CSS px: browsers move the pointer by themselves as a page is laid out
  const ENDS = ["DOMContentLoaded", "load", "pageshow", "readystatechange"];
  const STARTS = ["pointerdown", "touchstart", "keydown", "wheel", "scroll"];
  const AGAIN = ["click", "submit", "input", "change"];
  const WATCHED = { capture: true, passive: true };
  const later = [];
  const done = [];
  let begun, over, where, pointed;
  const listen = page.addEventListener;
  // For a script that waits the page is still being read, so what it wants at the end of that is told then.
  const hear = function (name, then, options) {
    const target = this || view;
    if (ENDS.includes(name) && (target === page || target === view)) later.push([target, name, then]);
    listen.call(target, name, then, options);
  };
  const tell = (names) => {
    for (const [target, name, then] of later.filter((entry) => names.includes(entry[1]))) {
      try {
        const event = new Event(name);
        if (then && then.handleEvent) then.handleEvent(event);
        else then && then.call(target, event);
      } catch (error) {
        view.reportError(error);
      }
    }
  };
  const run = (held) =>
    new Promise((next) => {
      const script = page.createElement("script");
      const sort = held.dataset.wait;
      for (const { name, value } of held.attributes) {
        if (name !== "type" && name !== "data-wait") script.setAttribute(name, value);
      }
      if (held.nonce) script.nonce = held.nonce;
      if (sort) script.type = sort;
      const loads = script.src || sort === "module";
      script.onload = script.onerror = next;
      script.async = script.hasAttribute("async");
      script.text = held.text;
      held.replaceWith(script);
      if (!loads || script.async) next();
    });
  const again = ([event, target]) => {
    const at = target.isConnected ? target : page.elementFromPoint(event.clientX || 0, event.clientY || 0);
    if (!at) return;
    if (event.type === "submit") at.requestSubmit(event.submitter);
    else
      at.dispatchEvent(
        new event.constructor(event.type, {
          ...inits(event),
          bubbles: true,
          cancelable: event.cancelable,
          composed: true,
        }),
      );
  };
  const inits = (event) =>
    event.type === "click"
      ? {
          view,
          detail: 1,
          clientX: event.clientX,
          clientY: event.clientY,
          screenX: event.screenX,
          screenY: event.screenY,
        }
      : {};
  const wake = async () => {
    if (begun) return;
    begun = true;
    // Deferred ones and modules come after all others, as they would have.
    const last = (script) => (script.dataset.wait || (script.defer && script.getAttribute("src")) ? 1 : 0);
    const held = [...page.querySelectorAll("script[data-wait]")].sort((one, other) => last(one) - last(other));
    for (const script of held) {
      const address = script.getAttribute("src");
      if (!address) continue;
      const link = page.createElement("link");
      link.rel = script.dataset.wait ? "modulepreload" : "preload";
      link.as = "script";
      link.dataset.unladen = "wait";
      if (script.crossOrigin !== null) link.crossOrigin = script.crossOrigin;
      if (script.integrity) link.integrity = script.integrity;
      link.href = address;
      page.head.append(link);
    }
    // Not before the page's own ends have come and gone.
    if (page.readyState !== "complete") await new Promise((next) => listen.call(view, "load", () => setTimeout(next)));
    const wanted = view.onload;
    let state = "loading";
    Object.defineProperty(page, "readyState", {
      configurable: true,
      get: () => state,
    });
    page.addEventListener = view.addEventListener = hear;
    for (const script of held) await run(script);
    state = "interactive";
    tell(["readystatechange", "DOMContentLoaded"]);
    delete page.readyState;
    delete page.addEventListener;
    delete view.addEventListener;
    tell(["readystatechange", "load", "pageshow"]);
    if (view.onload !== wanted && view.onload) view.onload(new Event("load"));
    over = true;
    const under = pointed && page.elementFromPoint(...pointed);
    if (under)
      under.dispatchEvent(
        new MouseEvent("mouseover", {
          view,
          bubbles: true,
          clientX: pointed[0],
          clientY: pointed[1],
        }),
      );
    // By then what the scripts have put off to the end of their turn is done.
    setTimeout(() => done.splice(0).forEach(again));
  };
  for (const name of STARTS) listen.call(view, name, wake, WATCHED);
  listen.call(
    view,
    "pointermove",
    (event) => {
      const { clientX: x, clientY: y } = event;
      pointed = [x, y];
      where ??= pointed;
      if (Math.abs(x - where[0]) > FAR || Math.abs(y - where[1]) > FAR) wake();
    },
    WATCHED,
  );
  for (const name of AGAIN) {
    listen.call(
      view,
      name,
      (event) => {
        if (
          over ||
          !event.isTrusted ||
          event.button ||
          event.ctrlKey ||
          event.metaKey ||
          event.shiftKey ||
          event.altKey
        )
          return;
        wake();
        // A window of its own opens only while the browser knows who asked for it.
        if (name === "click" && event.target.closest && event.target.closest("a[target]")) return;
        // A field has its new value all the same.
        if (event.cancelable) {
          event.preventDefault();
          event.stopImmediatePropagation();
        }
        done.push([event, event.target]);
      },
      true,
    );
  }
  listen.call(view, "load", () => {
    if (own.limit) setTimeout(wake, 1000 * own.limit);
    if (own.idle) (view.requestIdleCallback || setTimeout)(wake);
  });
})(document, window);
