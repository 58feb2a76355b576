// What stands in a frame, asked within it: enough to tell a player from a map or a form.
() => {
  const all = (selector) => [...document.querySelectorAll(selector)], size = (e) => e.getBoundingClientRect();
  const words = (e) => [e.getAttribute("aria-label"), e.title, e.textContent, typeof e.className === "string" ? e.className : ""].join(" ");
  const squares = new Map();
  for (const image of document.images) {
    const { width, height } = size(image);
    if (width === height && width >= 128) squares.set(width, (squares.get(width) ?? 0) + 1);
  }
  const tasks = window[Symbol.for("unladen.vitals")]?.tasks ?? [];
  return {
    poster: document.querySelector("video[poster]")?.poster || document.querySelector("meta[property='og:image']")?.content || "",
    name: document.title.trim().slice(0, 200),
    films: all("video,audio").length,
    plays: all("button,[role=button]").filter((e) => /(^|\W)play(\W|$)/i.test(words(e))).length,
    tiles: Math.max(0, ...squares.values()),
    canvases: all("canvas").filter((e) => size(e).width > 100).length,
    fields: all("input:not([type=hidden]),select,textarea").length,
    images: document.images.length, links: all("a[href]").length, frames: all("iframe").length,
    messages: window[Symbol.for("unladen.talk")]?.messages ?? 0,
    blocking: tasks.reduce((sum, [, length]) => sum + Math.max(0, length - 50), 0),
  };
}
