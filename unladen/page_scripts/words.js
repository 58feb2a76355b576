// All that can be read, shown or not: text, and what attributes and generated content say.
() => {
  const { places, clean } = window[Symbol.for("unladen.places")];
  const words = {}, made = {};
  for (const [e, place] of places()) {
    const own = clean([...e.childNodes].filter((n) => n.nodeType === 3).map((n) => n.data).join(" "));
    if (own) words[place] = own;
    for (const name of ["alt", "title", "placeholder", "aria-label", "aria-description", "summary", "label"]) {
      const said = e.getAttribute(name);
      if (said) words[`${place} @${name}`] = clean(said);
    }
    if (["input", "textarea", "select", "option", "meter", "progress"].includes(e.localName) && e.type !== "hidden") {
      const value = e.localName === "option" ? e.getAttribute("value") ?? "" : String(e.value ?? "");
      if (value) words[`${place} @value`] = value.slice(0, 300);
    }
    for (const pseudo of ["::before", "::after", "::marker"]) {
      const content = getComputedStyle(e, pseudo).content;
      if (content && content !== "none" && content !== "normal" && content !== '""') made[place + pseudo] = content.replace(/url\([^)]*\)/g, "url").slice(0, 300);
    }
  }
  const without = [...document.querySelectorAll("noscript")].map((n) => clean(n.textContent.replace(/<[^>]*>/g, " ")).slice(0, 2000)).filter(Boolean);
  const pictures = [...document.querySelectorAll("noscript")].reduce((sum, n) => sum + (n.textContent.match(/<(img|iframe|a|link|video)\b/gi)?.length ?? 0), 0);
  return { words, made, without, pictures };
}
