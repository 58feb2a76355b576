// All elements with what people would call them, where they are, and which pictures are shown where; of `what` is
// "pictures" these alone.
(what) => {
  const { places, called, most, count } = window[Symbol.for("unladen.places")];
  const boxes = [], names = {}, images = [], broken = [], closed = [];
  const round = (v) => Math.round(v * 100) / 100;
  const boxOf = (e) => { const b = e.getBoundingClientRect(); return [b.left + scrollX, b.top + scrollY, b.width, b.height].map(round); };
  const url = (text) => [...text.matchAll(/url\(["']?([^"')]+)["']?\)/g)].map((m) => m[1]);
  for (const [e, place] of places()) {
    const box = boxOf(e);
    if (what !== "pictures") {
      if (box[2] || box[3]) boxes.push([place, box]);
      else closed.push(place);
      names[place] = called(e);
    }
    if (e instanceof HTMLImageElement && (e.currentSrc || e.src)) {
      if (e.complete && !e.naturalWidth) broken.push(place);
      if (box[2] && box[3]) images.push([place, e.currentSrc || e.src, box]);
    }
    if (!box[2] && !box[3]) continue;
    const poster = e.localName === "video" && e.getAttribute("poster");
    if (poster) images.push([place, e.poster, box]);
    if (e.localName === "input" && e.type === "image") images.push([place, e.src, box]);
    if (e.localName === "image" && e.href?.baseVal) images.push([place, new URL(e.href.baseVal, document.baseURI).href, box]);
    for (const pseudo of ["", "::before", "::after"]) {
      const style = getComputedStyle(e, pseudo || null);
      if (pseudo && (style.content === "none" || style.content === "normal")) continue;
      for (const name of ["backgroundImage", "listStyleImage", "borderImageSource", "maskImage", "content"]) {
        const found = style[name];
        if (!found?.includes("url(")) continue;
        const wide = name === "listStyleImage" || pseudo ? 48 : 0;
        for (const at of url(found)) images.push([place, at, [box[0] - wide, box[1] - wide, box[2] + 2 * wide, box[3] + 2 * wide]]);
      }
    }
  }
  // What a still or a film shows is not what the frame showed, so only its place is compared, and that its picture is there.
  const stills = [...document.querySelectorAll("iframe[data-still],video[data-instead]")].map((e) => {
    if (e.localName === "video" && e.readyState < 2 && e.getClientRects().length) broken.push("a film for a picture");
    const pictures = [...(e.contentDocument?.images ?? [])];
    if (pictures.some((i) => i.complete && !i.naturalWidth)) broken.push("a still");
    return boxOf(e).map(Math.round);
  });
  const root = document.scrollingElement ?? document.documentElement;
  return { elements: count(), most, boxes, names, images, broken, closed, stills, width: root.scrollWidth, height: root.scrollHeight, zoom: Math.min(1, window.visualViewport?.scale ?? 1) };
}
