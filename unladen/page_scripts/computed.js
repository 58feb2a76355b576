// Computed styles as far as they say something of the page: without what follows from where things are, from a picture's own
// file, or from what we do to hold the page still.
(() => {
  const OUT = /^(-webkit-|width$|height$|inline-size|block-size|min-inline|min-block|max-inline|max-block|perspective-origin|transform-origin|content-visibility|contain-intrinsic|content$|inset|margin-(block|inline)|padding-(block|inline)|border-(block|inline|start|end)|overflow-(block|inline)|overscroll-behavior-(block|inline)|scroll-(margin|padding)-(block|inline)|scroll-behavior|caret-color|d$|x$|y$|cx$|cy$|r$|rx$|ry$)/;
  // Read with the holding style out, as it sets them.
  const MOVING = /^(animation|transition)/;
  const USED = new Set(["top", "left", "right", "bottom", "margin-top", "margin-left", "margin-right", "margin-bottom", "grid-template-columns", "grid-template-rows", "translate"]);
  const OF_FILE = new Set(["aspect-ratio"]);
  const KEPT = ["-webkit-line-clamp", "-webkit-text-fill-color", "-webkit-text-stroke-width", "-webkit-text-stroke-color", "-webkit-box-orient", "-webkit-text-security", "-webkit-user-drag"];
  const all = [...getComputedStyle(document.documentElement)].filter((n) => !n.startsWith("--"));
  const NAMES = [...all.filter((n) => !OUT.test(n) && !MOVING.test(n)), ...KEPT];
  const MOVES = all.filter((n) => MOVING.test(n));
  // A fallback of ours stands between a family and the next, and shows only while the former is not there.
  const plain = (value) => value.includes("unladen ") ? value.replace(/, ?"unladen [^"]*"/g, "") : value;
  const tidy = (said) => files(plain(said));
  const files = (value) => value.includes("url(") ? value.replace(/image-set\(.*\)|url\((?!["']?#)[^)]*\)( \w+\([^)]*\))?/g, "url") : value;
  const used = (e, pseudo, style) => pseudo === null && e.getClientRects().length > 0 && style.display !== "none";
  const row = (e, pseudo, names) => {
    const style = getComputedStyle(e, pseudo);
    const shown = used(e, pseudo, style), file = e.localName === "img" || e.localName === "video" || e.localName === "canvas";
    return names.map((n) => {
      if (file && OF_FILE.has(n)) return "";
      // A film's own picture lies behind it until it plays, in its place or as a background.
      if (e.localName === "video" && n.startsWith("background")) return "";
      if (USED.has(n) && (shown || pseudo) && !n.startsWith("margin")) return "";
      if (n.startsWith("margin") && shown) return ""; // "auto" resolves to what is left over; boxes tell of it
      return tidy(style.getPropertyValue(n));
    });
  };
  // Where an element is put and how large it is meant to be, in whole px: for what a rule says of it in a state.
  const PLACING = ["top", "left", "right", "bottom", "width", "height", "margin-top", "margin-left", "margin-right", "margin-bottom", "min-width", "min-height", "max-width", "max-height", "translate"];
  const placing = (e, pseudo) => {
    const style = getComputedStyle(e, pseudo);
    return PLACING.map((n) => style.getPropertyValue(n).replace(/-?\d+\.\d+/g, (v) => String(Math.round(Number(v)))));
  };
  return { NAMES, MOVES, PLACING, row, placing, tidy };
})()
