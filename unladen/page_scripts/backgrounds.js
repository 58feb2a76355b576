// The images that a style has behind its element, each with what belongs to its layer: gradients may lie above it, and
// every list of values goes round where it has fewer than there are layers (CSS Backgrounds 3, 3.1).
Object.defineProperty(window, Symbol.for("unladen.backgrounds"), { value: (style) => {
  const layers = (value) => {
    const parts = [""];
    let depth = 0;
    for (const c of value) {
      depth += c === "(" ? 1 : c === ")" ? -1 : 0;
      if (c === "," && !depth) parts.push(""); else parts[parts.length - 1] += c;
    }
    return parts.map((part) => part.trim());
  };
  const nth = (value, n) => { const parts = layers(value); return parts[n % parts.length]; };
  return layers(style.backgroundImage).flatMap((image, n) => {
    const named = /^url\("(https?:(?:[^"\\]|\\.)*)"\)$/.exec(image);
    const [size, position, origin, attachment] = ["backgroundSize", "backgroundPosition", "backgroundOrigin", "backgroundAttachment"].map((name) => nth(style[name], n));
    return named ? [{ url: named[1], size, position, origin, attachment }] : [];
  });
} });
