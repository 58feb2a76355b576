import { useEffect, useRef } from "react";

/** Single-key shortcuts, silent while somebody types or a dialog is open. A handler gets whether the key went down. */
export function useKeys(handlers: Record<string, (down: boolean) => void>) {
  const latest = useRef(handlers);
  useEffect(() => {
    latest.current = handlers;
  });
  useEffect(() => {
    const handle = (down: boolean) => (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (target.closest("input, textarea, select, [contenteditable], [role=dialog]") && event.key !== "Escape") return;
      const handler = latest.current[event.key];
      if (!handler || (down && event.repeat)) return;
      event.preventDefault();
      handler(down);
    };
    const press = handle(true);
    const release = handle(false);
    addEventListener("keydown", press);
    addEventListener("keyup", release);
    return () => {
      removeEventListener("keydown", press);
      removeEventListener("keyup", release);
    };
  }, []);
}
