import type { Command } from "../api/client";

interface Region {
  page: string;
  device: string;
  box: number[];
  why: string;
}

/** The edit after which a check leaves out these regions and no others. */
export function ignore(regions: Region[]): Command {
  const masks = regions.map(({ box: [left = 0, top = 0, right = 0, bottom = 0], ...rest }) => ({
    ...rest,
    box: [left, top, right, bottom] as [number, number, number, number],
  }));
  return { do: "masks", masks };
}
