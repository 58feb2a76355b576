// The elements that a step may be about, with their boxes in CSS px from the top left of the page.
() => {
  const name = window[Symbol.for("unladen.selector")], found = [];
  for (const e of document.querySelectorAll("a,button,input,select,textarea,summary,label,[role],[onclick],[tabindex],nav li,video,[aria-haspopup]")) {
    const box = e.getBoundingClientRect();
    if (box.width < 8 || box.height < 8 || found.length >= 400) continue;
    found.push({
      selector: name(e), label: (e.getAttribute("aria-label") || e.textContent || e.getAttribute("name") || e.localName).trim().replace(/\s+/g, " ").slice(0, 40),
      x: Math.round(box.left + scrollX), y: Math.round(box.top + scrollY), width: Math.round(box.width), height: Math.round(box.height),
      field: e.matches("input:not([type=button],[type=submit],[type=checkbox],[type=radio]),textarea"),
    });
  }
  return found;
}
