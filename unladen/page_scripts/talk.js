// Runs before anything else in a page and in each of its frames: who sends messages to whom, and whose frames change their size.
(() => {
  const seen = { heard: new Map(), messages: 0, resized: new WeakSet() };
  Object.defineProperty(window, Symbol.for("unladen.talk"), { value: seen });
  addEventListener("message", (event) => {
    if (window !== top && event.source === parent) seen.messages++;
    else if (event.source && event.source !== window) seen.heard.set(event.source, (seen.heard.get(event.source) ?? 0) + 1);
  }, true);
  if (window !== top) return;
  new MutationObserver((changes) => {
    for (const change of changes) if (change.target.localName === "iframe") seen.resized.add(change.target);
  }).observe(document, { subtree: true, attributes: true, attributeFilter: ["style", "width", "height"] });
})();
