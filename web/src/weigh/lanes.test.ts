import { describe, expect, it } from "vitest";
import type { Entry } from "./entry";
import { lanesOf, stacked, stepsOf, tallOf } from "./lanes";

function entry(url: string, started: number, ended: number, transferred = 10_000): Entry {
  return { url, started, ended, transferred, scrolled: false, cached: false } as Entry;
}

describe("lanesOf", () => {
  it("gives each host a lane, the site's own first", () => {
    const lanes = lanesOf(
      [entry("https://cdn.example/a.js", 0, 5), entry("https://mill.example/", 1, 9)],
      ["mill.example"],
      4,
    );
    expect(lanes.map((lane) => [lane.host, lane.own])).toEqual([
      ["mill.example", true],
      ["cdn.example", false],
    ]);
  });

  it("gives requests that overlap rows of their own, at most as many as wanted", () => {
    const at = [0, 1, 2, 6].map((start) => entry("https://mill.example/x", start, start + 5));
    const rows = (most: number) => lanesOf(at, [], most)[0]?.bars.map((bar) => bar.row);
    expect(rows(9)).toEqual([0, 1, 2, 0]);
    expect(rows(2)?.every((row) => row < 2)).toBe(true);
  });

  it("leaves out what came from the cache or on scrolling, and adds up bytes", () => {
    const all = [entry("https://m.example/a", 0, 1, 700), entry("https://m.example/b", 0, 1, 300)];
    const cached = { ...entry("https://m.example/c", 0, 1, 900), cached: true };
    const later = { ...entry("https://m.example/d", 0, 1, 900), scrolled: true };
    expect(lanesOf([...all, cached, later], [], 4)[0]?.bytes).toBe(1000);
  });

  it("makes a row as tall as its heaviest block", () => {
    const light = entry("https://m.example/a", 0, 1, 100);
    const heavy = entry("https://m.example/b", 2, 3, 1_000_000);
    expect(lanesOf([light, heavy], [], 4)[0]?.tops).toEqual([0, tallOf(1_000_000) + 4]);
  });
});

describe("stacked", () => {
  it("puts lanes one below the other", () => {
    const lanes = lanesOf([entry("https://a.example/", 0, 1), entry("https://b.example/", 0, 1)], [], 4);
    expect(stacked(lanes, 10, () => 20).map(({ top, height }) => [top, height])).toEqual([
      [10, 20],
      [30, 20],
    ]);
  });
});

describe("stepsOf", () => {
  it("gives round steps, at most as many as wanted besides zero", () => {
    expect(stepsOf(950, 5)).toEqual([0, 200, 400, 600, 800]);
    expect(stepsOf(0, 5)[0]).toBe(0);
    for (const end of [1, 7, 99, 1234, 60_000]) expect(stepsOf(end, 6).length).toBeLessThanOrEqual(7);
  });
});
