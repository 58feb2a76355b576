// What shows to a visitor without scripts: texts, pictures and controls by place. With scripts off none of ours runs as the
// page loads, so this one brings its own way to name a place, the same as in places.js.
() => {
  const out = {};
  const walk = (parent, place) => {
    const counts = {};
    for (const e of [...parent.children].flatMap((c) => c.localName === "picture" ? [...c.children].filter((x) => x.localName !== "source") : [c])) {
      if (e.dataset?.unladen || ["script", "style", "link", "meta", "template", "source", "head", "title"].includes(e.localName)) continue;
      const tag = e.dataset?.instead ?? e.localName;
      counts[tag] = (counts[tag] ?? 0) + 1;
      const here = `${place} > ${tag}${e.id ? "#" + e.id : counts[tag] > 1 ? ":nth-of-type(" + counts[tag] + ")" : ""}`;
      const shown = e.checkVisibility({ visibilityProperty: true }) && e.getClientRects().length > 0;
      const text = [...e.childNodes].filter((n) => n.nodeType === 3).map((n) => n.data).join(" ").replace(/\s+/g, " ").trim();
      if (shown && (text || ["img", "iframe", "video", "input", "button"].includes(e.localName))) out[here] = text || e.localName;
      if (!e.dataset?.instead && !("still" in (e.dataset ?? {}))) walk(e, here);
    }
  };
  walk(document.documentElement, "html");
  return out;
}
