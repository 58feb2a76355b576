import { describe, expect, it } from "vitest";
import type { Bench, Change, Outcome, WeighIn } from "../api/client";
import { counts, itemsOf, standing, weighInOf } from "./state";

const change = (more: Partial<Change>) => ({ id: "x", on: true, insist: false, ...more }) as Change;
const outcome = (standing: Outcome["standing"]) => ({ change: "x", standing }) as Outcome;

describe("standing", () => {
  it("goes by what is wanted, then by what the run found", () => {
    expect(standing(undefined, undefined)).toBe("off");
    expect(standing(change({ on: false }), outcome("set aside"))).toBe("off");
    expect(standing(change({}), outcome("set aside"))).toBe("set aside");
    expect(standing(change({}), outcome("nothing to gain"))).toBe("nothing to gain");
    expect(standing(change({ insist: true }), outcome("set aside"))).toBe("insisted");
    expect(standing(change({}), undefined)).toBe("on");
  });

  it("counts what is on or overridden", () => {
    expect((["on", "insisted", "off", "set aside"] as const).map(counts)).toEqual([true, true, false, false]);
  });
});

describe("weighInOf", () => {
  it("takes the weigh-in of the conditions with the most loads", () => {
    const spot = { page: "/", device: "phone", visit: "first", link: "unlimited" };
    const rows = [1, 3, 2].map((runs) => ({ ...spot, runs }) as WeighIn);
    const other = { ...spot, device: "desktop", runs: 9 } as WeighIn;
    expect(weighInOf([other, ...rows], spot)?.runs).toBe(3);
    expect(weighInOf([other], spot)).toBeUndefined();
    expect(weighInOf(undefined, spot)).toBeUndefined();
  });
});

describe("itemsOf", () => {
  it("shows the change that is on, else the first", () => {
    const excess = [
      { id: "a", kind: "images", changes: ["one", "two"] },
      { id: "b", kind: "fonts", changes: ["gone"] },
    ];
    const changes = [change({ id: "one", on: false }), change({ id: "two" })];
    const bench = { excess, plan: { changes }, worth: [] } as unknown as Bench;
    expect(itemsOf(bench, null).map((item) => item.change?.id)).toEqual(["two", undefined]);
    expect(itemsOf(bench, "images").map((item) => item.excess.id)).toEqual(["a"]);
  });
});
