import type { Kind } from "../api/client";

export type { Kind };

export const COLOURS: Record<Kind, string> = {
  images: "#B4532A",
  scripts: "#2D4A73",
  styles: "#B0527E",
  fonts: "#2F8A86",
  media: "#C79A2B",
  documents: "#5B6670",
  data: "#7C7A3A",
  other: "#A9A399",
};

/** In the order in which they are drawn. */
export const KINDS = Object.keys(COLOURS) as Kind[];

export const LABELS: Record<Kind, string> = {
  images: "Images",
  scripts: "Scripts",
  styles: "Styles",
  fonts: "Fonts",
  media: "Media",
  documents: "Documents",
  data: "Data",
  other: "Other",
};

export function isKind(value: string | null): value is Kind {
  return value !== null && value in COLOURS;
}
