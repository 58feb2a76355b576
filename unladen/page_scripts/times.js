// What vitals.js collected and the navigation took, and the icons that a visit does not count.
() => {
  const navigation = performance.getEntriesByType("navigation")[0], seen = window[Symbol.for("unladen.vitals")] ?? {};
  const largest = seen.largest, element = largest?.element, box = element?.getBoundingClientRect();
  return {
    ready: navigation.domContentLoadedEventEnd, load: navigation.loadEventEnd, view: innerWidth, height: document.documentElement.scrollHeight,
    icons: [...document.querySelectorAll("link[rel~=icon],link[rel~=apple-touch-icon]")].map((link) => link.href),
    paint: seen.paint ?? 0, shifts: seen.shifts ?? [], tasks: seen.tasks ?? [],
    largest: largest && {
      ms: largest.renderTime || largest.startTime, url: largest.url ?? "", selector: element ? window[Symbol.for("unladen.selector")](element) : "",
      text: largest.url ? "" : (element?.textContent ?? "").trim().replace(/\s+/g, " ").slice(0, 80), width: box?.width ?? 0, height: box?.height ?? 0,
    },
  };
}
