// What a visitor would point at or open without leaving the page: menus to hover over, buttons, tabs and details to open.
() => {
  const name = window[Symbol.for("unladen.selector")];
  const shown = (e) => { const b = e.getBoundingClientRect(); return b.width > 1 && b.height > 1 && (!e.checkVisibility || e.checkVisibility({ visibilityProperty: true })); };
  const words = (e) => (e.getAttribute("aria-label") || e.textContent || e.getAttribute("title") || "").trim().replace(/\s+/g, " ").slice(0, 40);
  const leaves = (e) => {
    const link = e.closest("a[href]"), form = e.closest("form");
    if (link && !link.getAttribute("href").startsWith("#") && !/^javascript:/i.test(link.getAttribute("href"))) return true;
    return Boolean(form) && (e.type === "submit" || e.type === "image" || e.type === "reset" || (e.localName === "button" && !e.hasAttribute("type")));
  };
  const hover = [...document.querySelectorAll("[aria-haspopup],nav li,[role=menubar]>*,header li,.menu>li,.nav>li")].filter(shown)
    .filter((e) => e.matches("[aria-haspopup]") || e.querySelector("ul,ol,[role=menu],div") || e.querySelector("a"));
  const open = [...document.querySelectorAll(
    "summary,[aria-expanded],[aria-controls],[data-toggle],[data-bs-toggle],[role=tab],[role=button],button,input[type=button],label[for],[onclick]",
  )].filter((e) => shown(e) && !leaves(e) && !e.disabled && !(e.localName === "label" && document.getElementById(e.htmlFor)?.type !== "checkbox"));
  const row = (action) => (e) => ({ action, selector: name(e), label: words(e) });
  const few = (list, most) => [...new Set(list)].slice(0, most);
  return [...few(hover, 15).map(row("hover")), ...few(open, 25).map(row("open"))];
}
