// Keeps a check on its page: links, forms, windows, prints and navigations by script come to nothing, but are noted.
() => {
  const { attempts, listen } = window[Symbol.for("unladen.watch")];
  const note = (text) => { if (attempts.length < 50) attempts.push(String(text).slice(0, 300)); };
  HTMLFormElement.prototype.submit = function () { note(`sends ${this.action} ${this.method}`); };
  window.open = (url) => { note(`opens ${url ?? "a window"}`); return null; };
  window.print = () => { note("prints"); };
  for (const name of ["alert", "confirm", "prompt"]) window[name] = (text) => { note(`${name}: ${text ?? ""}`); return name === "confirm" ? false : null; };
  listen(window, "click", (event) => {
    const link = event.composedPath().find((e) => e.localName === "a" && e.hasAttribute?.("href"));
    if (!link?.target || link.target === "_self" || event.defaultPrevented) return;
    note(`opens ${link.href}`);
    event.preventDefault();
  });
  // The browser's own bubble comes and goes by time; what a page shows of it stays.
  listen(window, "invalid", (event) => event.preventDefault(), true);
  if (window.navigation) listen(window.navigation, "navigate", (event) => {
    if (event.hashChange || !event.cancelable) return;
    note(`${event.formData ? "sends" : "goes to"} ${event.destination.url}`);
    event.preventDefault();
  });
  return true;
}
