// How wide every img is shown in the window as it is now, in CSS px, and where the page's styles change with the window.
// An img that keeps its shape differently (object-fit) is as wide as its whole bitmap is painted. Frames are the boxes that
// a picture covers, whatever its shape: width, height, and where in them it lies, from 0 to 1.
() => {
  const widths = {}, mixed = [], points = new Set(), frames = {};
  const frame = (url, width, height, position) => {
    const [x, y] = position.split(" ").map((part) => part.endsWith("%") ? parseFloat(part) / 100 : part === "0px" ? 0 : -1);
    if (width > 0 && height > 0) (frames[url] ??= []).push([width, height, x, y ?? -1]);
  };
  const backgrounds = window[Symbol.for("unladen.backgrounds")];
  const covers = (element) => backgrounds(getComputedStyle(element)).filter((layer) => layer.size === "cover");
  const kept = Symbol.for("unladen.covers");
  window[kept] ??= [...document.querySelectorAll("*")].filter((element) => covers(element).length);
  for (const element of window[kept]) {
    for (const layer of covers(element)) {
      const plain = layer.origin === "padding-box" && layer.attachment === "scroll";
      frame(layer.url, element.clientWidth, element.clientHeight, plain ? layer.position : "");
    }
  }
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
    if (style.objectFit === "cover") frame(url, width, height, style.objectPosition);
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
  return { widths, mixed, widest, frames, points: [...points] };
}
