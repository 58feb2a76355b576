// Does one thing to a page as a visitor would: press, point, keys, type, choose, slide, fill, scroll.
async ({ place, action, name, wrongly, text }) => {
  const { places } = window[Symbol.for("unladen.places")], watch = window[Symbol.for("unladen.watch")];
  const e = places().find((row) => row[1] === place)?.[0];
  if (!e) return { there: false };
  watch.attempts.length = 0;
  const pointer = (on, type, kind = MouseEvent) => {
    const b = on.getBoundingClientRect();
    return on.dispatchEvent(new kind(type, { bubbles: !type.endsWith("enter") && !type.endsWith("leave"), cancelable: true, composed: true, view: window, clientX: b.left + b.width / 2, clientY: b.top + b.height / 2, button: 0, buttons: type.endsWith("down") ? 1 : 0, detail: 1, pointerType: "mouse", isPrimary: true }));
  };
  const key = (on, k) => {
    const code = { Enter: 13, " ": 32, Escape: 27, ArrowLeft: 37, ArrowUp: 38, ArrowRight: 39, ArrowDown: 40 }[k] ?? 0;
    for (const type of ["keydown", "keyup"]) on.dispatchEvent(new KeyboardEvent(type, { key: k, code: k === " " ? "Space" : k, keyCode: code, which: code, bubbles: true, cancelable: true, composed: true }));
  };
  const put = (on, value) => {
    if (on.value === value) return;
    for (const [type, bubbles] of [["focus", false], ["focusin", true]]) on.dispatchEvent(new FocusEvent(type, { bubbles, composed: true }));
    on.value = value;
    on.dispatchEvent(new InputEvent("input", { bubbles: true, composed: true }));
    if (on.matches("input,textarea")) key(on, value.slice(-1) || "Backspace");
    on.dispatchEvent(new Event("change", { bubbles: true }));
  };
  const right = (f) => {
    if (f.type === "checkbox" || f.type === "radio") { if (f.required && !f.checked) f.click(); return; }
    if (f.localName === "select") { const o = [...f.options].find((o) => o.value && !o.disabled); if (o) put(f, o.value); return; }
    if (["hidden", "submit", "button", "image", "reset", "file"].includes(f.type) || f.readOnly || f.disabled) return;
    put(f, { email: "mill@example.org", url: "https://mill.example/", tel: "0123 456789", number: f.min || "1", date: f.min || "2030-05-01", time: "10:00", month: "2030-05", week: "2030-W20", color: "#336699", range: f.value, "datetime-local": "2030-05-01T10:00" }[f.type] ?? "The mill turns".padEnd(Math.max(f.minLength, 0), ".").slice(0, f.maxLength > 0 ? f.maxLength : undefined));
  };
  const seen = { there: true };
  if (action === "press") {
    for (const [type, kind] of [["pointerover", PointerEvent], ["mouseover", MouseEvent], ["pointerdown", PointerEvent], ["mousedown", MouseEvent]]) pointer(e, type, kind);
    e.focus?.({ preventScroll: true });
    for (const [type, kind] of [["pointerup", PointerEvent], ["mouseup", MouseEvent]]) pointer(e, type, kind);
    if (typeof e.click === "function") e.click(); else pointer(e, "click");
  } else if (action === "point") {
    for (const [type, kind] of [["pointerover", PointerEvent], ["pointerenter", PointerEvent], ["mouseover", MouseEvent], ["mouseenter", MouseEvent], ["mousemove", MouseEvent]]) pointer(e, type, kind);
  } else if (action === "leave") {
    for (const [type, kind] of [["pointerout", PointerEvent], ["pointerleave", PointerEvent], ["mouseout", MouseEvent], ["mouseleave", MouseEvent]]) pointer(e, type, kind);
  } else if (action === "keys") {
    e.focus?.({ preventScroll: true });
    key(e, name);
  } else if (action === "press twice") {
    for (const type of ["mousedown", "mouseup", "click", "mousedown", "mouseup", "click", "dblclick"]) pointer(e, type);
  } else if (action === "menu") {
    pointer(e, "contextmenu");
  } else if (action === "key") {
    const focus = document.activeElement;
    key(focus && focus !== document.body ? focus : document.body, name);
    const open = document.querySelector("dialog[open]");
    if (name === "Escape" && open) open.close();
  } else if (action === "type") {
    e.focus({ preventScroll: true });
    put(e, text ?? "mill");
    key(e, "l");
  } else if (action === "choose") {
    const next = [...e.options].find((o) => !o.selected && !o.disabled);
    if (next) put(e, next.value);
  } else if (action === "slide") {
    const top = Number(e.max || 100), now = Number(e.value);
    put(e, String(now < top ? Math.min(top, now + Math.max(Number(e.step) || 1, top / 4)) : Number(e.min || 0)));
  } else if (action === "scroll sideways") {
    e.scrollLeft = e.scrollWidth;
    await watch.frame();
    seen.reached = Math.round(e.scrollLeft);
  } else if (action === "scroll") {
    scrollTo(0, name === "end" ? document.documentElement.scrollHeight : name === "top" ? 0 : innerHeight);
    window.dispatchEvent(new Event("scroll"));
    await watch.frame();
  } else if (action === "fill") {
    const fields = [...e.elements].filter((f) => f.matches("input,select,textarea,button"));
    if (wrongly) {
      for (const f of fields) if (f.matches("input:not([type=hidden],[type=submit],[type=button],[type=checkbox],[type=radio],[type=range],[type=color],[type=image],[type=reset],[type=file]),textarea") && !f.readOnly) put(f, f.required ? "" : f.type === "email" || f.pattern ? "?" : f.value);
    } else fields.forEach(right);
    for (const f of fields) { f.dispatchEvent(new FocusEvent("blur")); f.dispatchEvent(new FocusEvent("focusout", { bubbles: true })); }
    seen.invalid = fields.filter((f) => f.willValidate && !f.validity.valid).map((f) => `${f.name || f.id}: ${Object.keys(ValidityState.prototype).filter((k) => k !== "valid" && f.validity[k]).join(" ")}`);
    const send = fields.find((f) => f.type === "submit" || f.type === "image");
    if (send) send.click();
    else if (e.checkValidity()) e.dispatchEvent(new SubmitEvent("submit", { bubbles: true, cancelable: true }));
    try { seen.sends = [...new FormData(e)].map(([k, v]) => `${k}=${typeof v === "string" ? v : v.name}`); } catch { seen.sends = []; }
  }
  seen.attempts = watch.attempts.slice(0, 20);
  return seen;
}
