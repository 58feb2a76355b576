// Every film of the page: where it stands and how it starts. Lengths in CSS px, positions from the top left of the page.
() => [...document.querySelectorAll("video")].map((film) => {
  const box = film.getBoundingClientRect(), style = getComputedStyle(film), source = film.querySelector("source[src]");
  const across = box.width / film.videoWidth, down = box.height / film.videoHeight;
  const scale = { cover: Math.max(across, down), contain: Math.min(across, down), none: 1 }[style.objectFit];
  const visible = box.width > 1 && box.height > 1 && (!film.checkVisibility || film.checkVisibility({ opacityProperty: true, visibilityProperty: true }));
  return {
    url: film.currentSrc || film.src || (source ? source.src : ""), selector: window[Symbol.for("unladen.selector")](film),
    x: box.left + scrollX, y: box.top + scrollY, width: box.width, height: box.height, visible,
    first_view: visible && box.top + scrollY < innerHeight && box.bottom + scrollY > 0 && box.left + scrollX < innerWidth && box.right + scrollX > 0,
    paint_width: film.videoWidth && scale ? film.videoWidth * scale : box.width,
    natural_width: film.videoWidth, natural_height: film.videoHeight, autoplay: film.autoplay, muted: film.muted, loop: film.loop,
    controls: film.controls, fit: style.objectFit, preload: film.getAttribute("preload") ?? "", poster: film.poster,
  };
})
