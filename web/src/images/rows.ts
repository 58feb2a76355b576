import type { ImageRow } from "../api/client";
import { fileName, kB } from "../ui/format";

export const FORMATS: Record<string, string> = {
  JPEG: "JPEG",
  PNG: "PNG",
  WEBP: "WebP",
  AVIF: "AVIF",
  GIF: "GIF",
  SVG: "SVG",
  BMP: "BMP",
  TIFF: "TIFF",
  ICO: "ICO",
};

export const LIKENESSES: { value: "exact" | "true" | "fine" | "fair"; label: string; hint: string }[] = [
  { value: "exact", label: "exact", hint: "every pixel the same" },
  { value: "true", label: "true", hint: "no difference side by side" },
  { value: "fine", label: "fine", hint: "no difference on the page" },
  { value: "fair", label: "fair", hint: "difference visible on close inspection" },
];

export type Show = "all" | "changed" | "left" | "script" | "unloaded";

export const SHOWS: { value: Show; label: string }[] = [
  { value: "all", label: "All images" },
  { value: "changed", label: "With a proposal" },
  { value: "left", label: "Left unchanged" },
  { value: "script", label: "Referenced by scripts only" },
  { value: "unloaded", label: "Not shown anywhere" },
];

export function fits(row: ImageRow, show: Show, format: string, text: string): boolean {
  if (text && !row.path.toLowerCase().includes(text)) return false;
  if (format && row.format !== format) return false;
  switch (show) {
    case "changed":
      return after(row) < row.bytes;
    case "left":
      return after(row) >= row.bytes;
    case "script":
      return row.by_script;
    case "unloaded":
      return Object.keys(row.shown).length === 0;
    default:
      return true;
  }
}

/** Bytes of the image after its proposal, whether it is switched on or not. */
export function after(row: ImageRow): number {
  const made = row.proposed;
  return made?.encoded && !made.refused && made.bytes > 0 ? Math.min(made.bytes, row.bytes) : row.bytes;
}

export function shownText(row: ImageRow): string[] {
  return Object.entries(row.shown).map(([device, [width = 0, height = 0]]) =>
    width ? `${device} ${width}x${height}` : `${device} hidden`,
  );
}

/** What is proposed, in a few words. */
export function proposalText(row: ImageRow): string {
  const made = row.proposed;
  if (!made) return row.refused ? `left: ${row.refused}` : row.why_not ? `left: ${row.why_not}` : "left unchanged";
  if (!made.encoded) return "not encoded yet";
  if (made.refused) return `left: ${made.refused}`;
  const format = FORMATS[made.format] ?? made.format;
  const width = made.width && made.width < row.width ? `, ${made.width} px` : "";
  const quality = made.quality ? `, quality ${made.quality}` : row.format === "SVG" ? "" : ", exact";
  return `${format}${width}${quality}`;
}

export function stateText(row: ImageRow): string {
  const made = row.proposed;
  if (!made) return "";
  if (made.set_aside) return "set aside";
  return made.on ? "on" : "off";
}

/** What the log says of a file, for whoever points at it. */
export function logText(row: ImageRow): string {
  const made = row.proposed;
  const lines = [
    row.path,
    row.via.length ? `referenced by ${row.via.join(", ")}` : "not referenced in any text",
    ...shownText(row),
  ];
  if (row.metadata) lines.push(`${kB(row.metadata)} of metadata that no browser shows`);
  if (made?.set_aside) lines.push(`set aside: ${made.set_aside}`);
  if (row.why_not) lines.push(row.why_not);
  return lines.join("\n");
}

export const nameOf = (row: ImageRow): string => fileName(row.path);
