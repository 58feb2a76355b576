import { Button } from "antd";
import { type ReactNode, useState } from "react";
import { count } from "./format";

const STEP = 100;

/** The first rows of a long list, and what shows more of them; the row numbered `at` is always among them. */
export function useMore<T>(rows: readonly T[], at = -1): { shown: readonly T[]; more: ReactNode } {
  const [wanted, setWanted] = useState(STEP);
  const least = Math.max(wanted, Math.ceil((at + 1) / STEP) * STEP);
  const rest = rows.length - least;
  if (rest <= 0) return { shown: rows, more: null };
  const more = (
    <p className="more-rows">
      <Button size="small" onClick={() => setWanted(least + STEP)}>
        Show {count(Math.min(STEP, rest))} more
      </Button>{" "}
      <span className="soft">{count(rest)} are not shown yet; filter to find one.</span>
    </p>
  );
  return { shown: rows.slice(0, least), more };
}

/** The same where no hook can stand. */
export function More<T>({
  rows,
  at = -1,
  children,
}: {
  rows: readonly T[];
  at?: number;
  children: (shown: readonly T[], more: ReactNode) => ReactNode;
}) {
  const { shown, more } = useMore(rows, at);
  return <>{children(shown, more)}</>;
}
