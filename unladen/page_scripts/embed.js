// One frame as its page sees it, brought into sight for that. Lengths in CSS px, positions from the top left of the page.
(frame) => {
  frame.scrollIntoView({ block: "center", behavior: "instant" });
  const box = frame.getBoundingClientRect(), talk = window[Symbol.for("unladen.talk")], above = [];
  for (let e = frame.parentElement; e && above.length < 8; e = e.parentElement) {
    const style = getComputedStyle(e), px = (name) => parseFloat(style[name]) || 0, outer = e.getBoundingClientRect().height;
    const rest = px("paddingTop") + px("paddingBottom") + px("borderTopWidth") + px("borderBottomWidth");
    above.push({
      tag: e.localName, attrs: Object.fromEntries([...e.attributes].map((a) => [a.name, a.value])),
      height: style.boxSizing === "border-box" ? outer : outer - rest,
    });
  }
  const visible = box.width > 1 && box.height > 1
    && (!frame.checkVisibility || frame.checkVisibility({ opacityProperty: true, visibilityProperty: true }));
  const middle = document.elementFromPoint(box.left + box.width / 2, box.top + box.height / 2);
  return {
    reachable: !visible || middle === frame, url: frame.hasAttribute("srcdoc") ? "" : frame.src, selector: window[Symbol.for("unladen.selector")](frame), above,
    title: (frame.title || frame.getAttribute("aria-label") || "").trim().slice(0, 200),
    x: box.left + scrollX, y: box.top + scrollY, width: box.width, height: box.height, visible, loading: frame.loading ?? "",
    first_view: visible && box.top + scrollY < innerHeight && box.bottom + scrollY > 0 && box.left + scrollX < innerWidth && box.right + scrollX > 0,
    allows: frame.hasAttribute("allowfullscreen") ? `${frame.allow} fullscreen` : frame.allow ?? "",
    heard: talk?.heard.get(frame.contentWindow) ?? 0, resized: Boolean(talk?.resized.has(frame)),
  };
}
