import type { Limit } from "../api/client";
import { count, kB } from "../ui/format";

/** Measures of limits, as people read them. */
export const MEASURES: Record<Limit["measure"], string> = {
  bytes: "bytes",
  requests: "requests",
  seconds: "modelled seconds",
  "picture width": "width of images, px",
  "background width": "width of backgrounds, px",
  "font families": "font families",
  "third parties": "hosts of third parties",
  "missing files": "missing files",
  growth: "growth since the baseline, %",
};
/** Measures that can be limited by file type, party and host. */
export const BY_REQUEST = ["bytes", "requests"];

/** Units whose measure names them already. */
const COUNTED = ["", "families", "hosts", "files", "requests"];

/** A figure with its unit. */
export function figure(value: number, unit: string): string {
  if (unit === "bytes") return kB(value);
  const number = value % 1 ? value.toFixed(1) : count(value);
  return COUNTED.includes(unit) ? number : `${number} ${unit}`;
}
