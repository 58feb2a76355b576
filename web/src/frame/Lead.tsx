import type { ReactNode } from "react";
import { Link, useLocation } from "react-router";
import type { Stage } from "../model/state";

/** A way on to another stage of the site in view, on the same page and under the same conditions. */
export function Lead({ to, part = "", children }: { to: Stage; part?: string; children: ReactNode }) {
  const { search } = useLocation();
  const next = new URLSearchParams(search);
  next.delete("part");
  if (part) next.set("part", part);
  return <Link to={{ pathname: `../${to}`, search: next.toString() }}>{children}</Link>;
}
