import { useEffect, useRef, useSyncExternalStore } from "react";

const SETTING = "unladen.keys";
// Letters mean nothing to radio buttons and check boxes.
const TYPED_IN = "input:not([type=radio], [type=checkbox]), textarea, select, [contenteditable]";
const listeners = new Set<() => void>();

function areOn(): boolean {
  return localStorage.getItem(SETTING) !== "off";
}

/** Whether single-key shortcuts are on, and a way to switch them (WCAG 2.2, 2.1.4). */
export function useKeySetting(): [boolean, (on: boolean) => void] {
  const on = useSyncExternalStore((changed) => {
    listeners.add(changed);
    return () => listeners.delete(changed);
  }, areOn);
  return [
    on,
    (wanted) => {
      localStorage.setItem(SETTING, wanted ? "on" : "off");
      listeners.forEach((changed) => changed());
    },
  ];
}

/**
 * Single-key shortcuts, silent while somebody types. A handler gets whether the key went down.
 * While a dialog is open only those count that belong in one (`inDialog`).
 */
export function useKeys(handlers: Record<string, (down: boolean) => void>, inDialog = false) {
  const latest = useRef(handlers);
  useEffect(() => {
    latest.current = handlers;
  });
  useEffect(() => {
    const handle = (down: boolean) => (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.metaKey || event.altKey || !areOn()) return;
      if (target.closest(TYPED_IN)) return;
      const dialog = document.querySelector('[role="dialog"][aria-modal="true"]') ?? target.closest('[role="dialog"]');
      if (Boolean(dialog) !== inDialog) return;
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
  }, [inDialog]);
}
