// Runs before anything else in a page: collects what the browser tells of paints, shifts and long tasks.
(() => {
  const seen = { paint: 0, largest: null, shifts: [], tasks: [] };
  Object.defineProperty(window, Symbol.for("unladen.vitals"), { value: seen });
  const watch = (type, take) => {
    try { new PerformanceObserver((list) => list.getEntries().forEach(take)).observe({ type, buffered: true }); } catch { /* not in this browser */ }
  };
  watch("paint", (entry) => { if (entry.name === "first-contentful-paint") seen.paint = entry.startTime; });
  watch("largest-contentful-paint", (entry) => { seen.largest = entry; });
  watch("layout-shift", (entry) => { if (!entry.hadRecentInput) seen.shifts.push([entry.startTime, entry.value]); });
  watch("longtask", (entry) => { seen.tasks.push([entry.startTime, entry.duration]); });
})();
