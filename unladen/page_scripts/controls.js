// What a visitor can press, turn, fill or move on a page, by what it is and by its listeners; of many alike a few. `known`
// are the places that have had their turn.
(known) => {
  const { places, called } = window[Symbol.for("unladen.places")], watch = window[Symbol.for("unladen.watch")];
  const had = new Set(known), all = places(), SAMPLE = 2;
  const shown = (e) => { const b = e.getBoundingClientRect(); return b.width > 1 && b.height > 1 && e.checkVisibility({ visibilityProperty: true }); };
  const PRESSED = ["click", "mousedown", "mouseup", "pointerdown", "pointerup", "touchstart", "touchend"];
  const POINTED = ["mouseenter", "mouseover", "pointerenter", "pointerover", "mousemove"];
  const KEYED = ["keydown", "keyup", "keypress"];
  const says = (e, kinds) => { const own = watch.kinds(e); return kinds.some((k) => own.includes(k)) || kinds.some((k) => typeof e["on" + k] === "function"); };
  const local = (e) => { const href = e.getAttribute("href"); return href === null || href.startsWith("#") || /^javascript:/i.test(href); };
  const delegated = says(document, PRESSED) || says(document.body ?? document, PRESSED) || says(window, PRESSED);
  const press = (e) => {
    if (e.localName === "summary" || e.localName === "button" && e.type !== "submit" && e.type !== "reset") return true;
    if (e.localName === "button" && !e.form) return true;
    if (e.localName === "input" && ["button", "checkbox", "radio"].includes(e.type)) return true;
    if (e.matches("[role=button],[role=tab],[role=switch],[role=menuitem],[role=option],[role=checkbox],[role=radio],[aria-expanded],[aria-controls],[aria-haspopup],[data-toggle],[data-target],[data-bs-toggle],[data-bs-target],[popovertarget],[commandfor]")) return true;
    if (e.localName === "label" && e.control && !shown(e.control)) return true;
    if (e.localName === "a" && local(e)) return true;
    if (e === document.body || e === document.documentElement || e.localName === "form") return false;
    return says(e, PRESSED) || (delegated && e.localName === "a" && /\.(jpe?g|png|gif|webp|avif|svg)([?#]|$)/i.test(e.getAttribute("href") ?? ""));
  };
  const found = [], groups = new Map(), skipped = [];
  const sign = (e, action) => {
    const classes = (x) => typeof x?.className === "string" ? x.className.replace(/\b(active|current|selected|open|show|is-\w+)\b/g, "").trim() : "";
    const up = e.parentElement;
    return [action, e.localName, e.type ?? "", e.getAttribute("role") ?? "", classes(e), up?.localName, classes(up), up?.parentElement?.localName, watch.kinds(e).join()].join("|");
  };
  const note = (e, place, action, more = {}) => {
    const key = `${action} ${place}`;
    if (had.has(key)) return;
    const group = sign(e, action), list = groups.get(group) ?? [];
    groups.set(group, list);
    const row = { key, place, action, called: called(e), ...more };
    list.push(row);
    found.push(row);
  };
  for (const [e, place] of all) {
    if (!shown(e) || e.disabled || e.closest("[inert]")) continue;
    if (e.localName === "select") note(e, place, "choose");
    else if (e.localName === "input" && e.type === "range") note(e, place, "slide");
    else if (e.localName === "form") note(e, place, "fill");
    else if (press(e)) note(e, place, "press");
    if (says(e, POINTED) || (e.localName === "li" && e.closest("nav,[role=menubar]") && e.querySelector("ul,ol,[role=menu]"))) note(e, place, "point");
    if (says(e, KEYED) && !["input", "textarea", "select"].includes(e.localName) && e !== document.body) note(e, place, "keys");
    if (e !== document.body && e !== document.documentElement) {
      if (says(e, ["dblclick"])) note(e, place, "press twice");
      if (says(e, ["contextmenu"])) note(e, place, "menu");
    }
    if (["input", "textarea"].includes(e.localName) && !e.closest("form") && !["button", "checkbox", "radio", "submit", "image", "hidden", "range"].includes(e.type)) note(e, place, "type");
    if (e.scrollWidth > e.clientWidth + 16 && e !== document.body && e !== document.documentElement && /auto|scroll/.test(getComputedStyle(e).overflowX)) note(e, place, "scroll sideways");
  }
  // Of many alike the first two and the last.
  const kept = new Set();
  for (const list of groups.values()) {
    const chosen = list.length <= SAMPLE + 1 ? list : [...list.slice(0, SAMPLE), list.at(-1)];
    for (const row of chosen) kept.add(row);
    if (list.length > chosen.length) skipped.push([list[0].called.join(" "), list.length - chosen.length]);
  }
  const top = window === window.top;
  const keys = top && (says(document, KEYED) || says(window, KEYED) || (document.body && says(document.body, KEYED)));
  const rows = found.filter((row) => kept.has(row));
  if (keys) for (const name of ["ArrowRight", "ArrowLeft", "ArrowDown", "Enter", " ", "/", "Escape"]) if (!had.has(`key ${name}`)) rows.push({ key: `key ${name}`, place: "html", action: "key", name, called: ["key", name === " " ? "Space" : name] });
  return { rows, skipped, shown: all.filter(([e]) => shown(e)).length };
}
