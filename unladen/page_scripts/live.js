// Runs first in each page of a live copy. Where it is served, a page may keep nothing and has another address, so it gets
// storage of its own that ends with it, and what its scripts ask of hosts of the recording is asked of where these are now.
// A page that stands in the application says where it is scrolled to and is told where to scroll.
(({ hosts }) => {
  document.currentScript?.remove();
  const memory = () => {
    const kept = new Map(), name = String;
    return {
      getItem: (key) => kept.get(name(key)) ?? null, setItem: (key, value) => { kept.set(name(key), name(value)); },
      removeItem: (key) => { kept.delete(name(key)); }, clear: () => kept.clear(), key: (n) => [...kept.keys()][n] ?? null,
      get length() { return kept.size; },
    };
  };
  for (const name of ["localStorage", "sessionStorage"]) {
    try { void window[name]; } catch { Object.defineProperty(window, name, { value: memory(), configurable: true }); }
  }
  try { void document.cookie; } catch {
    const jar = new Map();
    Object.defineProperty(document, "cookie", {
      get: () => [...jar].map((pair) => pair.join("=")).join("; "),
      set: (text) => { const [pair] = String(text).split(";"), at = pair.indexOf("="); jar.set(pair.slice(0, at).trim(), pair.slice(at + 1).trim()); },
    });
  }

  const moved = (url) => {
    try {
      const to = new URL(url, document.baseURI), origin = hosts[to.host];
      return origin && !to.href.startsWith(`${origin}/`) ? origin + to.pathname + to.search + to.hash : url;
    } catch { return url; }
  };
  const fetching = window.fetch, open = XMLHttpRequest.prototype.open;
  window.fetch = (what, ...rest) => fetching(what instanceof Request ? new Request(moved(what.url), what) : moved(String(what)), ...rest);
  XMLHttpRequest.prototype.open = function (method, url, ...rest) { return open.call(this, method, moved(String(url)), ...rest); };
  for (const [kind, name] of [
    [HTMLScriptElement, "src"], [HTMLImageElement, "src"], [HTMLIFrameElement, "src"], [HTMLMediaElement, "src"],
    [HTMLSourceElement, "src"], [HTMLLinkElement, "href"], [HTMLVideoElement, "poster"],
  ]) {
    const field = Object.getOwnPropertyDescriptor(kind.prototype, name);
    Object.defineProperty(kind.prototype, name, { ...field, set(url) { field.set.call(this, moved(String(url))); } });
  }
  const setting = Element.prototype.setAttribute;
  Element.prototype.setAttribute = function (name, value) {
    const asks = /^(src|poster)$/i.test(name) || (/^href$/i.test(name) && this instanceof HTMLLinkElement);
    return setting.call(this, name, asks ? moved(String(value)) : value);
  };

  if (window === top || parent !== top) return;
  const say = (what) => parent.postMessage({ unladen: "live", ...what }, "*");
  let asked = -1, waits = false;
  const at = () => ({ what: "at", y: Math.round(scrollY), path: location.pathname + location.search });
  addEventListener("scroll", () => {
    if (waits) return;
    waits = true;
    requestAnimationFrame(() => { waits = false; if (Math.abs(scrollY - asked) > 1) say(at()); asked = -1; });
  }, { passive: true });
  addEventListener("message", (event) => {
    if (event.source !== parent || event.data?.unladen !== "live" || !Number.isFinite(event.data.y)) return;
    asked = Math.max(0, Math.min(event.data.y, document.documentElement.scrollHeight - innerHeight));
    if (Math.abs(scrollY - asked) > 1) scrollTo({ top: asked, behavior: "instant" }); else asked = -1;
  });
  addEventListener("securitypolicyviolation", (event) => say({ what: "held", url: String(event.blockedURI).slice(0, 300) }));
  addEventListener("error", (event) => { if (event instanceof ErrorEvent) say({ what: "error", text: String(event.message).slice(0, 300) }); });
  // The words of a key go to the application, as if it had the focus; what is typed stays here.
  addEventListener("keydown", (event) => {
    const typing = event.target instanceof Element && event.target.closest("input, textarea, select, [contenteditable]");
    if (!typing && !event.ctrlKey && !event.metaKey && !event.altKey && event.key.length === 1) say({ what: "key", key: event.key });
  });
  say({ ...at(), what: "there" });
})
