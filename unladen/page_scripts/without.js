// What shows to a visitor without scripts: texts, pictures and controls by place.
() => {
  const { places, clean } = window[Symbol.for("unladen.places")], out = {};
  for (const [e, place] of places()) {
    if (!e.checkVisibility({ visibilityProperty: true }) || !e.getClientRects().length) continue;
    const text = clean([...e.childNodes].filter((n) => n.nodeType === 3).map((n) => n.data).join(" "));
    if (text || ["img", "iframe", "video", "input", "button"].includes(e.localName)) out[place] = text || e.localName;
  }
  return out;
}
