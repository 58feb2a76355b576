import { hostOf } from "../ui/parties";
import type { Entry } from "./entry";

export interface Bar {
  entry: Entry;
  row: number;
  /** How tall its block is, in px: it follows the weight, so that the heavy ones stand out. */
  tall: number;
}

export interface Lane {
  host: string;
  own: boolean;
  bars: Bar[];
  /** Top of each row within the lane, and of what follows the last, in px. */
  tops: number[];
  bytes: number;
}

const LEAST = 3;
const MOST = 34;
/** The rope above a block, and the room below it, in px. */
const ROOM = 4;

/** Height of a block, in px: the square root of its bytes, so that light ones are seen too; 100 kB are a third. */
export function tallOf(bytes: number): number {
  return Math.min(MOST, Math.max(LEAST, Math.sqrt(bytes / 1_000_000) * MOST));
}

/**
 * One lane for each host, the site's own first, then by when they are first asked.
 *
 * Bars that overlap get rows of their own; a row is as tall as the heaviest block in it.
 */
export function lanesOf(entries: readonly Entry[], own: readonly string[], most: number): Lane[] {
  const lanes = new Map<string, Lane>();
  const ends = new Map<string, number[]>();
  const heights = new Map<string, number[]>();
  const inTime = entries.filter((entry) => !entry.scrolled && !entry.cached).sort((a, b) => a.started - b.started);
  for (const entry of inTime) {
    const host = hostOf(entry.url);
    const lane = lanes.get(host) ?? { host, own: own.includes(host), bars: [], tops: [0], bytes: 0 };
    lanes.set(host, lane);
    const taken = ends.get(host) ?? [];
    ends.set(host, taken);
    const rows = heights.get(host) ?? [];
    heights.set(host, rows);
    let row = taken.findIndex((end) => end <= entry.started);
    if (row < 0) row = taken.length < most ? taken.length : taken.indexOf(Math.min(...taken));
    taken[row] = Math.max(entry.ended, entry.started);
    const tall = tallOf(entry.transferred);
    rows[row] = Math.max(rows[row] ?? 0, tall + ROOM);
    lane.bytes += entry.transferred;
    lane.bars.push({ entry, row, tall });
  }
  for (const [host, rows] of heights) {
    const lane = lanes.get(host);
    for (const height of rows) lane?.tops.push((lane.tops.at(-1) ?? 0) + height);
  }
  return [...lanes.values()].sort((a, b) => Number(b.own) - Number(a.own));
}

/** Lanes one below the other, each with its place. */
export function stacked(
  lanes: readonly Lane[],
  from: number,
  heightOf: (lane: Lane) => number,
): (Lane & { top: number; height: number })[] {
  const placed: (Lane & { top: number; height: number })[] = [];
  let top = from;
  for (const lane of lanes) {
    const height = heightOf(lane);
    placed.push({ ...lane, top, height });
    top += height;
  }
  return placed;
}

/** Round steps for a time axis: at most `count` of them up to `end`, in ms. */
export function stepsOf(end: number, count: number): number[] {
  const rough = Math.max(1, end) / count;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((factor) => factor * power).find((value) => value >= rough) ?? rough;
  return Array.from({ length: Math.floor(end / step) + 1 }, (_, i) => i * step);
}
