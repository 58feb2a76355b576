// How wide every img is shown in the window as it is now, in CSS px, and where the page's styles change with the window.
// An img that keeps its shape differently (object-fit) is as wide as its whole bitmap is painted.
() => {
  const widths = {}, mixed = [], points = new Set();
  let widest = 0;
  for (const img of document.images) {
    const url = img.currentSrc || img.src;
    if (!/^https?:/.test(url) || !img.naturalWidth || !img.naturalHeight) continue;
    widest = Math.max(widest, img.naturalWidth);
    const style = getComputedStyle(img), box = img.getBoundingClientRect();
    const px = (...names) => names.reduce((sum, name) => sum + (parseFloat(style[name]) || 0), 0);
    const width = box.width - px("paddingLeft", "paddingRight", "borderLeftWidth", "borderRightWidth");
    const height = box.height - px("paddingTop", "paddingBottom", "borderTopWidth", "borderBottomWidth");
    const across = width / img.naturalWidth, down = height / img.naturalHeight;
    const scale = { contain: Math.min(across, down), cover: Math.max(across, down), "scale-down": Math.min(1, across, down), none: 1 }[style.objectFit];
    const painted = width > 0 && height > 0 ? (scale ? img.naturalWidth * scale : width) : 0;
    if (url in widths && Math.abs(widths[url] - painted) > 0.1 * Math.max(widths[url], painted)) mixed.push(url);
    widths[url] = Math.max(widths[url] || 0, painted);
  }
  const read = (rules, depth) => {
    for (const rule of rules) {
      if (rule.media) for (const m of rule.media.mediaText.matchAll(/(min|max)-width:\s*([\d.]+)(px|em|rem)/g)) {
        const px = parseFloat(m[2]) * (m[3] === "px" ? 1 : 16);
        points.add(m[1] === "min" ? Math.ceil(px) : Math.floor(px) + 1);
      }
      if (rule.cssRules && depth < 4) read(rule.cssRules, depth + 1);
      if (rule.styleSheet) try { read(rule.styleSheet.cssRules, depth + 1); } catch { /* another origin's */ }
    }
  };
  for (const sheet of document.styleSheets) try { read(sheet.cssRules, 0); } catch { /* another origin's */ }
  return { widths, mixed, widest, points: [...points] };
}
