// What the window shows, once its pictures are painted: which files, where, and where the window is on the page.
async () => {
  const [seen, painted] = ["seen", "painted"].map((name) => window[Symbol.for(`unladen.${name}`)]);
  const { images, stills, zoom } = seen("pictures");
  await painted("window");
  return { images, stills, zoom, window: [scrollX, scrollY, innerWidth, innerHeight] };
}
