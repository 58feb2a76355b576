import { describe, expect, it } from "vitest";
import { linesOf, nextUnused, partsOf } from "./lines";

describe("linesOf", () => {
  it("cuts a text at its line breaks and long lines again", () => {
    const text = `a\n${"x".repeat(320)}\n\nend`;
    const lines = linesOf(text);
    expect(lines.map((line) => line.number)).toEqual([1, 2, 0, 0, 3, 4]);
    expect(lines.map((line) => text.slice(line.start, line.end)).join("").length).toBe(text.length - 3);
  });

  it("gives an empty text one line", () => {
    expect(linesOf("")).toEqual([{ start: 0, end: 0, number: 1 }]);
  });
});

describe("partsOf", () => {
  it("covers the line once, used and unused in turn", () => {
    const line = { start: 10, end: 30, number: 1 };
    const spans = [
      [0, 12],
      [15, 20],
      [28, 40],
    ];
    expect(partsOf(line, spans)).toEqual([
      { start: 10, end: 12, used: true },
      { start: 12, end: 15, used: false },
      { start: 15, end: 20, used: true },
      { start: 20, end: 28, used: false },
      { start: 28, end: 30, used: true },
    ]);
    expect(partsOf(line, [])).toEqual([{ start: 10, end: 30, used: false }]);
  });
});

describe("nextUnused", () => {
  it("finds where the next unused stretch begins", () => {
    const lines = linesOf("aaaa\nbbbb\ncccc\ndddd");
    const spans = [
      [0, 5],
      [15, 19],
    ];
    expect(nextUnused(lines, spans, 0)).toBe(1);
    expect(nextUnused(lines, spans, 2)).toBe(-1);
  });
});
