const LONGEST = 150;

/** A piece of a text as it is shown; `number` is 0 for the continuation of a long line. */
export interface Line {
  start: number;
  end: number;
  number: number;
}

export interface Part {
  start: number;
  end: number;
  used: boolean;
}

/** The text cut at its line breaks, and long lines cut again, since minified files have a single one. */
export function linesOf(text: string): Line[] {
  const lines: Line[] = [];
  let start = 0;
  let number = 1;
  while (start <= text.length) {
    const found = text.indexOf("\n", start);
    const end = found < 0 ? text.length : found;
    for (let from = start; from < end || from === start; from += LONGEST) {
      lines.push({ start: from, end: Math.min(end, from + LONGEST), number: from === start ? number : 0 });
    }
    if (found < 0) break;
    start = end + 1;
    number += 1;
  }
  return lines;
}

/** The position of the first span that ends after `place`; spans are disjoint and in order. */
function firstAfter(spans: readonly number[][], place: number): number {
  let low = 0;
  let high = spans.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((spans[middle]?.[1] ?? 0) > place) high = middle;
    else low = middle + 1;
  }
  return low;
}

/** A line as used and unused parts. */
export function partsOf(line: Line, spans: readonly number[][]): Part[] {
  const parts: Part[] = [];
  let place = line.start;
  for (let i = firstAfter(spans, line.start); place < line.end && i < spans.length; i++) {
    const [from = 0, to = 0] = spans[i] ?? [];
    if (from >= line.end) break;
    if (from > place) parts.push({ start: place, end: from, used: false });
    const end = Math.min(to, line.end);
    parts.push({ start: Math.max(place, from), end, used: true });
    place = end;
  }
  if (place < line.end) parts.push({ start: place, end: line.end, used: false });
  return parts;
}

/** The next line from `from` on that begins an unused stretch, or -1. */
export function nextUnused(lines: readonly Line[], spans: readonly number[][], from: number): number {
  for (let i = Math.max(1, from); i < lines.length; i++) {
    const line = lines[i];
    const before = lines[i - 1];
    if (
      line &&
      before &&
      line.end > line.start &&
      partsOf(line, spans)[0]?.used === false &&
      (partsOf(before, spans).at(-1)?.used ?? true)
    )
      return i;
  }
  return -1;
}
