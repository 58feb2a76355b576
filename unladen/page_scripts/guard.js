// Keeps a walk on its page: links, forms, windows and navigations by script come to nothing.
() => {
  const stop = (event) => { event.preventDefault(); };
  addEventListener("submit", stop, true);
  HTMLFormElement.prototype.submit = () => {};
  HTMLFormElement.prototype.requestSubmit = () => {};
  window.open = () => null;
  window.print = () => {};
  addEventListener("click", (event) => {
    const link = event.target.closest?.("a[href],area[href]");
    const href = link?.getAttribute("href") ?? "#";
    if (!href.startsWith("#") && !/^javascript:/i.test(href)) event.preventDefault();
  }, true);
  window.navigation?.addEventListener("navigate", (event) => { if (!event.hashChange && event.cancelable) event.preventDefault(); });
  return true;
}
