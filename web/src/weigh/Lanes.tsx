import { memo, useMemo, useRef } from "react";
import { kB } from "../ui/format";
import { COLOURS, isKind } from "../ui/kinds";
import { partOf, useTip } from "../ui/Tip";
import { useSize } from "../ui/useSize";
import { type Entry, receiving, waiting } from "./entry";
import { type Bar, lanesOf, stacked, stepsOf } from "./lanes";

const LABEL = 190;
const PAD = 7;
const LEAST_LANE = 22;
const TOP = 34;
const MOST_ROWS = 24;

interface Props {
  rows: Entry[];
  own: string[];
  marks: Record<string, number>;
  open: number | null;
  onOpen: (position: number) => void;
}

/** Requests on a time axis, a lane for each host; what came after load is dimmed. */
export const Lanes = memo(function Lanes({ rows, own, marks, open, onOpen }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const { width } = useSize(frame);
  const { tip, handlers } = useTip((part) => wordsFor(rows.find((row) => row.position === part)));
  const lanes = useMemo(() => lanesOf(rows, own, MOST_ROWS), [rows, own]);
  const placed = useMemo(
    () => stacked(lanes, TOP, (lane) => Math.max(LEAST_LANE, (lane.tops.at(-1) ?? 0) + PAD)),
    [lanes],
  );
  const height = (placed.at(-1)?.top ?? TOP) + (placed.at(-1)?.height ?? 0) + 4;
  const end = Math.max(1, ...rows.filter((row) => !row.scrolled).map((row) => row.ended), marks.load ?? 0) * 1.02;
  const room = Math.max(100, width - LABEL - 16);
  const x = (ms: number) => LABEL + (ms / end) * room;
  if (lanes.length === 0)
    return (
      <div className="lanes" ref={frame}>
        <p className="soft pad">No requests match.</p>
      </div>
    );
  return (
    <div className="lanes" ref={frame} tabIndex={0}>
      <svg
        width={width}
        height={height}
        role="group"
        aria-label="Requests over time, a lane for each host"
        onClick={(event) => {
          const part = partOf(event.target);
          if (part !== null) onOpen(part);
        }}
        {...handlers}
      >
        {stepsOf(end, 8).map((ms) => (
          <g key={ms}>
            <line x1={x(ms)} x2={x(ms)} y1={TOP - 4} y2={height} stroke="#E2D9C8" />
            <text x={x(ms)} y={TOP - 8} className="tick">
              {ms >= 1000 ? `${ms / 1000} s` : `${ms} ms`}
            </text>
          </g>
        ))}
        {placed.map((lane, i) => (
          <g key={lane.host}>
            {i > 0 && <line x1="0" x2={width} y1={lane.top} y2={lane.top} stroke="#DDD3C2" />}
            <text x="20" y={lane.top + 13} className={lane.own ? "host own" : "host"}>
              {short(lane.host)}
              <title>{`${lane.host}: ${lane.bars.length} requests, ${kB(lane.bytes)}`}</title>
            </text>
            {lane.height > 34 && (
              <text x="20" y={lane.top + 28} className="host">
                {kB(lane.bytes)}
              </text>
            )}
            {lane.bars.map((bar) =>
              hung(bar, x, lane.top + PAD / 2 + (lane.tops[bar.row] ?? 0), bar.entry.position === open),
            )}
          </g>
        ))}
        <Labels marks={marks} x={x} height={height} />
      </svg>
      {tip}
    </div>
  );
});

/**
 * A rope for as long as it waits, and on its end a block as wide as it took to come and as tall as it is heavy.
 * A plain function, since there may be a thousand of them.
 */
function hung({ entry, tall }: Bar, x: (ms: number) => number, y: number, open: boolean) {
  const colour = isKind(entry.kind) ? COLOURS[entry.kind] : "#A9A399";
  const begin = x(entry.started);
  const middle = x(entry.started + waiting(entry));
  const last = Math.max(middle + 2, x(entry.started + waiting(entry) + receiving(entry)));
  return [
    <path
      key={`${entry.position} rope`}
      data-part={entry.position}
      d={`M${begin} ${y - 1.5}V${y + 1}M${begin} ${y}H${last}`}
      className={entry.after_load ? "rope later" : "rope"}
    />,
    <rect
      key={entry.position}
      data-part={entry.position}
      className={`bar${entry.after_load ? " later" : ""}${open ? " sel" : ""}`}
      x={middle}
      y={y}
      width={last - middle}
      height={tall}
      fill={colour}
    />,
  ];
}

function wordsFor(entry: Entry | undefined): string {
  if (!entry) return "";
  const times = `waits ${Math.round(waiting(entry))} ms, receives ${Math.round(receiving(entry))} ms`;
  return `${entry.url}\n${kB(entry.transferred)}, ${times}${entry.after_load ? ", after load" : ""}`;
}

const WORDS: [string, string][] = [
  ["first paint", "first paint"],
  ["content ready", "content ready"],
  ["load", "loaded"],
];

/** Marks of the page, their words kept apart where they stand close together. */
function Labels({ marks, x, height }: { marks: Record<string, number>; x: (ms: number) => number; height: number }) {
  let free = 0;
  const shown = WORDS.flatMap(([key, word]) => (marks[key] ? [{ word, at: x(marks[key]) }] : [])).sort(
    (a, b) => a.at - b.at,
  );
  return shown.map(({ word, at }) => {
    const from = Math.max(at - 3, free);
    free = from + word.length * 6.4 + 14;
    return (
      <g key={word} className="page-mark">
        <line x1={at} x2={at} y1={13} y2={height} stroke="#8A4F22" strokeWidth="1.2" strokeDasharray="3 2" />
        <text x={from} y="10">
          {word}
        </text>
      </g>
    );
  });
}

function short(host: string): string {
  return host.length > 27 ? `${host.slice(0, 12)}…${host.slice(-14)}` : host;
}
