// Where and how large every image of the page is shown. Lengths in CSS px, positions from the top left of the page.
// Natural sizes of CSS images are filled in by the caller, who has the files.
() => {
  const viewWidth = innerWidth, viewHeight = innerHeight, found = [];
  const selectorOf = window[Symbol.for("unladen.selector")], backgrounds = window[Symbol.for("unladen.backgrounds")];
  const isVisible = (e) => !e.checkVisibility || e.checkVisibility({ opacityProperty: true, visibilityProperty: true, contentVisibilityAuto: true });
  const clipped = (element, box) => {
    let { left, top, right, bottom } = box;
    for (let e = element.parentElement; e && e !== document.body && e !== document.documentElement; e = e.parentElement) {
      const style = getComputedStyle(e);
      if (style.overflowX === "visible" && style.overflowY === "visible") continue;
      const outer = e.getBoundingClientRect();
      left = Math.max(left, outer.left); top = Math.max(top, outer.top);
      right = Math.min(right, outer.right); bottom = Math.min(bottom, outer.bottom);
    }
    return { left, top, right, bottom, seen: right > left && bottom > top };
  };
  // Whether something opaque lies over all of five points of what the window shows of a box.
  const isCovered = (element, part) => {
    const left = Math.max(0, part.left), top = Math.max(0, part.top), right = Math.min(viewWidth, part.right), bottom = Math.min(viewHeight, part.bottom);
    return [[0.5, 0.5], [0.2, 0.2], [0.8, 0.2], [0.2, 0.8], [0.8, 0.8]].every(([x, y]) => {
      for (let hit = document.elementFromPoint(left + (right - left) * x, top + (bottom - top) * y); hit; hit = hit.parentElement) {
        if (hit === element || hit.contains(element)) return false;
        const style = getComputedStyle(hit), tone = style.backgroundColor;
        const opaque = style.opacity === "1" && (style.backgroundImage !== "none" || /^rgb\(/.test(tone) || /^(img|video|canvas)$/.test(hit.localName));
        if (opaque) return true;
      }
      return false;
    });
  };
  // What lies over the whole of a box, see-through and of one colour: a layer of its own background, a pseudo-element or
  // something positioned over it, or a filter that darkens. The strongest one, as red, green, blue and cover in percent.
  const tone = (text) => {
    const part = /^rgba?\((\d+), (\d+), (\d+)(?:, ([\d.]+))?\)$/.exec(text);
    return part && [+part[1], +part[2], +part[3], Math.floor(100 * (part[4] === undefined ? 1 : +part[4]))];
  };
  const layer = (style) => {
    const stops = style.backgroundImage.split(/url\(/)[0].match(/rgba?\([^)]*\)/g) ?? [];
    const tones = stops.map(tone);
    const uniform = tones.length && tones.every((t) => t && t.slice(0, 3).join() === tones[0].slice(0, 3).join());
    return uniform ? [...tones[0].slice(0, 3), Math.min(...tones.map((t) => t[3]))] : null;
  };
  const lies = (style) => {
    const over = tone(style.backgroundColor);
    const shown = over && over[3] ? over : style.backgroundImage.startsWith("linear-gradient") ? layer(style) : null;
    return shown && [...shown.slice(0, 3), Math.floor(shown[3] * parseFloat(style.opacity))];
  };
  const covers = (a, b) => a.left <= b.left + 1 && a.top <= b.top + 1 && a.right >= b.right - 1 && a.bottom >= b.bottom - 1;
  const veilOver = (element, box) => {
    // A gradient behind an img lies beneath it.
    const style = getComputedStyle(element), found = element.localName === "img" ? [] : [layer(style)];
    for (const pseudo of ["::before", "::after"]) {
      const look = getComputedStyle(element, pseudo);
      const whole = parseFloat(look.width) >= box.width - 1 && parseFloat(look.height) >= box.height - 1;
      if (look.content !== "none" && look.content !== "normal" && look.position === "absolute" && whole && !(parseInt(look.zIndex) < 0)) found.push(lies(look));
    }
    const above = [...element.children];
    for (let next = element.nextElementSibling; next; next = next.nextElementSibling) above.push(next);
    for (const other of above.slice(0, 50)) {
      const look = getComputedStyle(other);
      if (/^(absolute|fixed)$/.test(look.position) && !(parseInt(look.zIndex) < 0) && isVisible(other) && covers(other.getBoundingClientRect(), box)) found.push(lies(look));
    }
    const dark = /^brightness\(([\d.]+)\)$/.exec(style.filter);
    if (dark && +dark[1] < 1) found.push([0, 0, 0, Math.floor(100 - 100 * dark[1])]);
    const best = found.filter((veil) => veil && veil[3] > 0 && veil[3] < 100).sort((a, b) => b[3] - a[3]);
    return best[0] ?? [];
  };
  // What moves by a style sheet alone may come to the front without anything that a script could see.
  const isMoving = (element) => { for (let e = element; e; e = e.parentElement) if (e.getAnimations?.().length) return true; return false; };
  const record = (element, via, url, facts) => {
    const box = element.getBoundingClientRect(), part = clipped(element, box);
    const visible = isVisible(element) && part.seen;
    const within = part.seen && part.top + scrollY < viewHeight && part.bottom + scrollY > 0
      && part.left + scrollX < viewWidth && part.right + scrollX > 0;
    const first_view = visible && within;
    found.push({
      url, via, selector: selectorOf(element), x: box.left + scrollX, y: box.top + scrollY, width: box.width, height: box.height,
      paint_width: box.width, paint_height: box.height, natural_width: 0, natural_height: 0, visible, first_view, loading: "",
      covered: (within ? !visible || isCovered(element, part) : !visible && via === "background") && !isMoving(element), by_srcset: false, fit: "", reserved: true, reservable: false, scalable: true, free: true, closed: false, by_ratio: false, boxed: false,
      veil: visible && box.width > 200 && box.height > 100 ? veilOver(element, box) : [], ...facts,
    });
  };
  const innerSize = (element, style) => {
    const box = element.getBoundingClientRect(), px = (...names) => names.reduce((sum, n) => sum + (parseFloat(style[n]) || 0), 0);
    return [
      Math.max(0, box.width - px("paddingLeft", "paddingRight", "borderLeftWidth", "borderRightWidth")),
      Math.max(0, box.height - px("paddingTop", "paddingBottom", "borderTopWidth", "borderBottomWidth")),
    ];
  };
  // What stands in a closed menu, tab, slide or dialog is measured as it would be opened: everything around it that has
  // no box gets one, without any background, so that nothing is fetched for it, and all of it is taken back at once.
  const opened = (element, work) => {
    const undo = [], bare = new CSSStyleSheet();
    bare.replaceSync("*,*::before,*::after{background-image:none!important;mask-image:none!important;transition:none!important;animation:none!important}");
    document.adoptedStyleSheets = [...document.adoptedStyleSheets, bare];
    for (let e = element; e && e !== document.documentElement; e = e.parentElement) {
      if (getComputedStyle(e).display !== "none") continue;
      const before = e.getAttribute("style");
      undo.push(() => before === null ? e.removeAttribute("style") : e.setAttribute("style", before));
      e.style.setProperty("display", e === element ? "inline" : "block", "important");
    }
    try { return work(); } finally {
      undo.forEach((f) => f());
      document.adoptedStyleSheets = document.adoptedStyleSheets.filter((sheet) => sheet !== bare);
    }
  };
  const frameWidth = (element) => { for (let e = element.parentElement; e; e = e.parentElement) if (e.clientWidth) return e.clientWidth; return viewWidth; };
  const image = (element, style) => {
    if (!element.getClientRects().length && !isVisible(element)) {
      const count = found.length;
      opened(element, () => boxed(element, getComputedStyle(element)));
      // What has no box even so cannot be wider than the frame that it stands in.
      for (const one of found.slice(count)) {
        const width = one.paint_width || Math.min(one.natural_width, frameWidth(element));
        const height = one.paint_height || (one.natural_width ? width * one.natural_height / one.natural_width : 0);
        Object.assign(one, { closed: true, visible: false, first_view: false, covered: false, width: 0, height: 0, paint_width: width, paint_height: height });
      }
    } else boxed(element, style);
  };
  const boxed = (element, style) => {
    const natural_width = element.naturalWidth, natural_height = element.naturalHeight;
    const [width, height] = innerSize(element, style);
    let paint_width = width, paint_height = height;
    if (natural_width && natural_height && width && height) {
      const across = width / natural_width, down = height / natural_height;
      const scale = { contain: Math.min(across, down), cover: Math.max(across, down), "scale-down": Math.min(1, across, down), none: 1 }[style.objectFit];
      if (scale) { paint_width = natural_width * scale; paint_height = natural_height * scale; }
    }
    const inPicture = element.parentElement?.localName === "picture";
    record(element, inPicture ? "picture" : "img", element.currentSrc || element.src, {
      natural_width, natural_height, paint_width, paint_height, fit: style.objectFit, loading: element.loading,
      by_srcset: Boolean(element.srcset) || inPicture, scalable: style.objectFit !== "none", ...reservation(element),
    });
  };
  // Tried in the page: would width and height attributes, or a ratio, move anything? They are taken away again at once.
  const reservation = (element) => {
    const before = element.getBoundingClientRect(), names = ["width", "height"];
    if (!element.complete || !element.naturalWidth || !before.width || !before.height) return {};
    const facts = { reserved: isHeld(element), free: isFree(element), boxed: isBoxed(element), reservable: false, by_ratio: false };
    const stretch = document.documentElement.scrollHeight;
    const stays = () => {
      const after = element.getBoundingClientRect();
      return Math.abs(after.width - before.width) < 0.1 && Math.abs(after.height - before.height) < 0.1
        && Math.abs(document.documentElement.scrollHeight - stretch) <= 1;
    };
    if (!names.some((name) => element.hasAttribute(name))) {
      const put = (values) => names.forEach((name, i) => values[i] === null ? element.removeAttribute(name) : element.setAttribute(name, values[i]));
      put([element.naturalWidth, element.naturalHeight]);
      facts.reservable = stays();
      put([null, null]);
    }
    // Where attributes stand or would move something a ratio may hold the space: a side is given, the other follows.
    if (!facts.reserved && !facts.reservable && facts.free) {
      const style = element.getAttribute("style");
      element.style.aspectRatio = `${element.naturalWidth}/${element.naturalHeight}`;
      facts.reservable = facts.by_ratio = stays();
      if (style === null) element.removeAttribute("style"); else element.setAttribute("style", style);
    }
    return facts;
  };
  // Whether attributes or styles give one side, so that the image's own size does not matter.
  const isFree = (element) => {
    const computed = element.computedStyleMap?.();
    return Boolean(computed) && ["width", "height"].some((side) => String(computed.get(side)) !== "auto");
  };
  const isBoxed = (element) => {
    const computed = element.computedStyleMap?.();
    return Boolean(computed) && ["width", "height"].every((side) => String(computed.get(side)) !== "auto");
  };
  // Whether the box owes its height to attributes or styles, so that it has it before the image is there.
  const isHeld = (element) => {
    if (element.hasAttribute("width") && element.hasAttribute("height")) return true;
    const style = getComputedStyle(element), computed = element.computedStyleMap?.();
    if (style.position === "absolute" || style.position === "fixed" || style.aspectRatio !== "auto") return true;
    return Boolean(computed) && String(computed.get("height")) !== "auto";
  };
  const cssImages = (element, style, pseudo) => {
    for (const property of ["backgroundImage", "borderImageSource", "listStyleImage", "maskImage", "content"]) {
      const value = style[property];
      if (!value || value === "none" || !value.includes("url(")) continue;
      if (property === "listStyleImage" && (pseudo || style.display !== "list-item")) continue;
      for (const match of value.matchAll(/url\("((?:[^"\\]|\\.)*)"\)/g)) {
        if (!/^https?:/.test(match[1])) continue;
        const background = property === "backgroundImage";
        const size = background ? backgrounds(style).find((layer) => layer.url === match[1])?.size ?? "" : "";
        const sized = size !== "" && size !== "auto" && size !== "auto auto";
        record(element, background ? "background" : "css", match[1], {
          fit: size, scalable: background && sized,
          ...(pseudo ? { paint_width: parseFloat(style.width) || 0, paint_height: parseFloat(style.height) || 0 } : {}),
        });
      }
    }
  };
  const roots = [document];
  for (let i = 0; i < roots.length; i++) for (const element of roots[i].querySelectorAll("*")) {
    if (element.shadowRoot) roots.push(element.shadowRoot);
    const style = getComputedStyle(element);
    if (element instanceof HTMLImageElement) image(element, style);
    else if (element instanceof HTMLVideoElement && element.poster) record(element, "poster", element.poster, { scalable: false });
    else if (element.localName === "image" && element.href) record(element, "svg", new URL(element.href.baseVal, document.baseURI).href, { scalable: false });
    else if (element.localName === "input" && element.type === "image") record(element, "input", element.src, { scalable: false });
    for (const pseudo of ["", "::before", "::after"]) {
      const look = pseudo ? getComputedStyle(element, pseudo) : style;
      if (pseudo && (look.content === "none" || look.content === "normal")) continue;
      cssImages(element, look, pseudo);
    }
  }
  return found.filter((image) => /^https?:/.test(image.url));
}
