import { describe, expect, it } from "vitest";
import { count, counted, disk, fileName, kB, middle, namely, percent, requests, seconds } from "./format";

describe("figures", () => {
  it("writes 1,000 bytes as a kB, small ones with a decimal", () => {
    expect([0, 49, 50, 1234, 9949, 9950, 1_234_567].map(kB)).toEqual([
      "0 kB",
      "49 bytes",
      "0.1 kB",
      "1.2 kB",
      "9.9 kB",
      "10 kB",
      "1,235 kB",
    ]);
    expect(kB(-20_000)).toBe("-20 kB");
  });

  it("writes numbers with their nouns and units", () => {
    expect([count(12_345), counted(1, "limit"), counted(0, "limit"), requests(2)]).toEqual([
      "12,345",
      "1 limit",
      "0 limits",
      "2 requests",
    ]);
    expect([seconds(1234), percent(0.542), disk(412_000_000), disk(1.24e9)]).toEqual([
      "1.23 s",
      "54 %",
      "412 MB",
      "1.2 GB",
    ]);
  });
});

describe("names", () => {
  it("shortens long lists and paths", () => {
    expect(namely(["a", "b", "c", "d", "e", "f"])).toBe("a, b, c, d and 2 more");
    expect(namely(["a"])).toBe("a");
    expect([fileName("/a/b.css"), fileName("/a/")]).toEqual(["b.css", "/a/"]);
    const long = `/blog/${"x".repeat(80)}/end.html`;
    expect(middle(long, 30).length).toBeLessThanOrEqual(30);
    expect(middle("/a.html", 30)).toBe("/a.html");
  });
});
