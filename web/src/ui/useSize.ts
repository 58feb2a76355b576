import { type RefObject, useLayoutEffect, useState } from "react";

/** The inner size of an element in CSS px, kept up to date; `shown` changes when the element comes or goes. */
export function useSize(ref: RefObject<HTMLElement | null>, shown: unknown = true) {
  const [size, setSize] = useState({ width: 0, height: 0 });
  useLayoutEffect(() => {
    const element = ref.current;
    if (!element) return;
    const watch = new ResizeObserver(() => setSize({ width: element.clientWidth, height: element.clientHeight }));
    watch.observe(element);
    return () => watch.disconnect();
  }, [ref, shown]);
  return size;
}
