import type { ReactNode } from "react";

/** What is said where there is nothing to show, and what can be done about it. */
export function Nothing({ children }: { children: ReactNode }) {
  return <div className="nothing soft">{children}</div>;
}
