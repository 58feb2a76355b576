export const KINDS = ["images", "scripts", "styles", "fonts", "media", "documents", "data", "other"] as const;
export type Kind = (typeof KINDS)[number];

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
  return KINDS.includes(value as Kind);
}
