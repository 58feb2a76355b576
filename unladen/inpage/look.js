// The boxes of all elements that have one, by their place in the tree, and the images that could not be shown.
// A picture element only offers files for the image in it, so its image counts as standing in its place.
() => {
  const boxes = [], broken = [];
  const throughPicture = (element) => element.localName === "picture" ? [...element.children].filter((e) => e.localName !== "source") : [element];
  const walk = (element, place) => {
    const box = element.getBoundingClientRect();
    if (box.width || box.height) {
      boxes.push([place, [box.left + scrollX, box.top + scrollY, box.width, box.height].map((v) => Math.round(v * 100) / 100)]);
    }
    if (element instanceof HTMLImageElement && (element.currentSrc || element.src) && element.complete && !element.naturalWidth) {
      broken.push(place);
    }
    const counts = {};
    for (const child of [...element.children].flatMap(throughPicture)) {
      if (child.dataset?.unladen) continue;
      const tag = child.dataset?.instead ?? child.localName;
      counts[tag] = (counts[tag] ?? 0) + 1;
      const name = child.id ? `${tag}#${child.id}` : counts[tag] > 1 ? `${tag}:nth-of-type(${counts[tag]})` : tag;
      walk(child, `${place} > ${name}`);
    }
  };
  walk(document.documentElement, "html");
  // What a still or a film shows is not what the frame showed, so only its place is compared, and that its picture is there.
  const stills = [...document.querySelectorAll("iframe[data-still],video[data-instead]")].map((e) => {
    if (e.localName === "video" && e.readyState < 2 && e.getClientRects().length) broken.push("a film for a picture");
    const box = e.getBoundingClientRect(), pictures = [...(e.contentDocument?.images ?? [])];
    if (pictures.some((i) => i.complete && !i.naturalWidth)) broken.push("a still");
    return [box.left + scrollX, box.top + scrollY, box.width, box.height].map(Math.round);
  });
  return { stills, boxes: boxes.slice(0, 20000), broken, width: document.documentElement.scrollWidth, height: document.documentElement.scrollHeight };
}
