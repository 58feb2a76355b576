import { type KeyboardEvent, memo, useMemo, useState } from "react";
import type { UseFile } from "../api/client";
import { count, kB, percent } from "../ui/format";
import { COLOURS } from "../ui/kinds";
import { hostOf } from "../ui/parties";
import { partOf, useTip } from "../ui/Tip";
import type { Cell } from "./cell";

const NAME = 300;
const SUMS = 132;
const ROW = 26;
const HEAD_WIDE = 34;
const HEAD_NARROW = 92;
const NARROW = 26;
const WIDE = 104;

interface Props {
  files: UseFile[];
  pages: string[];
  chosen: Cell | null;
  onChoose: (cell: Cell) => void;
}

/** Files by pages: in each cell the used part is solid, the rest hatched; an empty place is not loaded by the page. */
export const UseMap = memo(function UseMap({ files, pages, chosen, onChoose }: Props) {
  const column = pages.length > 7 ? NARROW : WIDE;
  const head = column === NARROW ? HEAD_NARROW : HEAD_WIDE;
  const width = NAME + SUMS + (pages.length + 1) * column + 20;
  const height = head + files.length * ROW + 8;
  const largest = useMemo(() => Math.max(1, ...files.map((file) => file.size)), [files]);
  // Cells are numbered row by row; the first of each row stands for all pages.
  const across = pages.length + 1;
  const cellAt = (part: number): Cell | null => {
    const file = files[Math.floor(part / across)];
    return file ? { file, page: part % across === 0 ? "" : (pages[(part % across) - 1] ?? "") } : null;
  };
  const { tip, handlers } = useTip((part) => wordsFor(cellAt(part)));
  // One stop for the tabulator; arrows lead from cell to cell and pass over places where there is none.
  const [at, setAt] = useState(0);
  function move(event: KeyboardEvent<SVGSVGElement>) {
    const steps: Record<string, number> = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: across, ArrowUp: -across };
    const step = steps[event.key];
    const from = partOf(event.target);
    if (!step || from === null) return;
    event.preventDefault();
    for (let part = from + step; part >= 0 && part < files.length * across; part += step) {
      if (Math.abs(step) === 1 && Math.floor(part / across) !== Math.floor(from / across)) return;
      const next = event.currentTarget.querySelector<SVGElement>(`[data-part="${part}"]`);
      if (!next) continue;
      setAt(part);
      next.focus();
      return;
    }
  }
  function choose(target: EventTarget) {
    const part = partOf(target);
    const cell = part === null ? null : cellAt(part);
    if (cell) onChoose(cell);
  }
  return (
    <div className="use-map">
      <svg
        width={width}
        height={height}
        role="grid"
        aria-label="Use of files by page"
        onClick={(event) => choose(event.target)}
        onKeyDown={(event) => {
          if (event.key === "Enter" || event.key === " ") {
            event.preventDefault();
            choose(event.target);
          } else move(event);
        }}
        {...handlers}
      >
        <defs>
          <pattern id="unused" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="5" height="5" fill="#FDFBF6" />
            <line x1="0" y1="0" x2="0" y2="5" stroke="#A9997F" strokeWidth="1.6" />
          </pattern>
        </defs>
        <g className="tick" role="row">
          <text x={NAME + SUMS - 8} y={head - 8} textAnchor="end">
            used, of decoded bytes
          </text>
          {["all pages", ...pages].map((page, i) => {
            const x = NAME + SUMS + i * column + (column === NARROW ? 16 : 4);
            return (
              <text
                key={page}
                x={x}
                y={head - 8}
                role="columnheader"
                transform={column === NARROW ? `rotate(-60 ${x} ${head - 8})` : undefined}
              >
                {shorten(page, column === NARROW ? 16 : 15)}
              </text>
            );
          })}
        </g>
        {files.map((file, i) => {
          const y = head + i * ROW;
          const on = chosen?.file.url === file.url;
          return (
            <g key={file.url} role="row">
              {on && <rect x="0" y={y} width={width} height={ROW} fill="#F0E2CF" />}
              <rect x="20" y={y + 6} width="4" height={ROW - 12} fill={COLOURS[file.kind]} />
              <text x="32" y={y + 17} role="rowheader" className={file.own ? "file own" : "file"}>
                {shorten(file.own ? file.path : hostOf(file.url) + tail(file.url), 40)}
                <title>{file.url}</title>
              </text>
              <text x={NAME + SUMS - 8} y={y + 17} textAnchor="end" className="tick">
                {count(file.used)} of {count(file.size)}
              </text>
              {["", ...pages].map((page, k) =>
                cellOf(
                  { file, page },
                  i * across + k,
                  largest,
                  NAME + SUMS + k * column,
                  y,
                  column,
                  on && chosen?.page === page,
                  i * across + k === at,
                ),
              )}
            </g>
          );
        })}
      </svg>
      {tip}
    </div>
  );
});

/** One place of the map, or nothing where the page does not load the file. A plain function: there may be thousands. */
function cellOf(
  cell: Cell,
  part: number,
  largest: number,
  x: number,
  y: number,
  width: number,
  on: boolean,
  stop: boolean,
) {
  const { file, page } = cell;
  const used = page ? file.pages[page] : file.used;
  if (used === undefined) return null;
  const room = width - 8;
  // The whole of a file is as long as it is heavy, by the square root, so that small ones can still be seen.
  const whole = width === NARROW ? room : Math.max(8, Math.sqrt(file.size / largest) * room);
  const share = file.size ? used / file.size : 0;
  return [
    <rect
      key={part}
      data-part={part}
      className="cell"
      role="gridcell"
      tabIndex={stop ? 0 : -1}
      aria-label={wordsFor(cell)}
      x={x}
      y={y + 5}
      width={whole}
      height={ROW - 10}
      fill="url(#unused)"
      stroke={on ? "#23211D" : "#CDBFA8"}
      strokeWidth={on ? 2 : 1}
    />,
    <rect
      key={-part - 1}
      className="through"
      x={x}
      y={y + 5}
      width={Math.max(share > 0 ? 1 : 0, whole * share)}
      height={ROW - 10}
      fill={COLOURS[file.kind]}
    />,
  ];
}

function wordsFor(cell: Cell | null): string {
  if (!cell) return "";
  const { file, page } = cell;
  const used = page ? (file.pages[page] ?? 0) : file.used;
  const share = percent(file.size ? used / file.size : 0);
  const what = `${file.path}${page && ` on ${page}`}: ${count(used)} of ${count(file.size)} bytes used`;
  return `${what}, ${share}; ${kB(file.transferred)} transferred`;
}

function tail(url: string): string {
  const path = url.replace(/^https?:\/\/[^/]*/, "").replace(/\?.*/, "");
  return path.slice(path.lastIndexOf("/"));
}

function shorten(text: string, most: number): string {
  return text.length > most ? `…${text.slice(-most + 1)}` : text;
}
