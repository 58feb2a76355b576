// A selector that finds an element again: from the nearest unique id, or from the root by position.
Object.defineProperty(window, Symbol.for("unladen.selector"), { value: (element) => {
  const parts = [];
  for (let e = element; e && e.nodeType === 1; e = e.parentElement) {
    if (e.id && document.querySelectorAll("#" + CSS.escape(e.id)).length === 1) { parts.unshift("#" + CSS.escape(e.id)); break; }
    const tag = e.localName;
    if (tag === "html" || tag === "body") { parts.unshift(tag); continue; }
    const alike = e.parentElement ? [...e.parentElement.children].filter((c) => c.localName === tag) : [e];
    parts.unshift(alike.length > 1 ? `${tag}:nth-of-type(${alike.indexOf(e) + 1})` : tag);
  }
  return parts.join(">");
} });
