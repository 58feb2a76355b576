import { Button, Modal, Segmented, Select, Slider } from "antd";
import { useQueries, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Bench, ImageRow, ImagesCommand, Step } from "../api/client";
import { fetchStep, stepKey, type StepOf } from "../api/images";
import { useKeys } from "../frame/keys";
import { count, kB, percent } from "../ui/format";
import { FORMATS, nameOf, proposalText } from "./rows";

type Format = StepOf["format"];
const QUALITIES = [40, 50, 55, 60, 65, 70, 75, 80, 85, 90, 95];
const TARGETS: Record<string, number> = { true: 0.985, fine: 0.97, fair: 0.95 };
const AT_ONCE = 2;

interface Props {
  bench: Bench;
  row: ImageRow;
  busy: boolean;
  onClose: () => void;
  onMove: (step: number) => void;
  onUse: (body: ImagesCommand) => void;
}

/** As found and as proposed at the same place, 1:1 and more, with what each quality costs. */
export function Loupe({ bench, row, busy, onClose, onMove, onUse }: Props) {
  const proposed = row.proposed?.encoded && !row.proposed.refused ? row.proposed : undefined;
  const [format, setFormat] = useState<Format>(isFormat(proposed?.format) ? proposed.format : "WEBP");
  const [width, setWidth] = useState(proposed ? wholeWidth(row, proposed) : 0);
  const [quality, setQuality] = useState(proposed?.quality || 75);
  const [mode, setMode] = useState<"split" | "blink">("split");
  const [zoom, setZoom] = useState(1);
  const [ground, setGround] = useState<"light" | "dark">("light");
  const [split, setSplit] = useState(50);
  const [asFound, setAsFound] = useState(false);
  const raster = row.format !== "SVG" && !row.refused && row.frames === 1;
  const levels = useMemo(
    () => (format === "PNG" ? [0] : [...new Set([...QUALITIES, quality])].sort((a, b) => a - b)),
    [format, quality],
  );
  const steps = useSteps(bench.id, row, format, width, levels, quality, raster);
  const chosen = steps.find((step) => step.level === (format === "PNG" ? 0 : quality))?.step;
  useKeys(
    {
      b: (down) => setAsFound(down),
      n: (down) => {
        if (down) onMove(1);
      },
      p: (down) => {
        if (down) onMove(-1);
      },
    },
    true,
  );
  const source =
    chosen && !chosen.refused ? versionAddress(bench.id, row, format, width, format === "PNG" ? 0 : quality) : "";
  const shownSplit = mode === "blink" ? (asFound ? 100 : 0) : asFound ? 100 : split;
  return (
    <Modal
      open
      footer={null}
      width="min(1240px, calc(100vw - 24px))"
      style={{ top: 12 }}
      onCancel={onClose}
      title={
        <span className="loupe-title">
          {nameOf(row)}{" "}
          <small className="soft">
            {count(row.width)}x{count(row.height)} px, {FORMATS[row.format] ?? row.format}, {kB(row.bytes)}
          </small>
        </span>
      }
      className="loupe"
    >
      <div className="row loupe-tools">
        <Segmented
          size="small"
          aria-label="Compare by"
          value={mode}
          onChange={setMode}
          options={[
            { value: "split", label: "Split" },
            { value: "blink", label: "Blink" },
          ]}
        />
        <Segmented
          size="small"
          aria-label="Magnification"
          value={zoom}
          onChange={setZoom}
          options={[
            { value: 0, label: "fit" },
            { value: 1, label: "1:1" },
            { value: 2, label: "2:1" },
            { value: 4, label: "4:1" },
          ]}
        />
        <Segmented
          size="small"
          aria-label="Background"
          value={ground}
          onChange={setGround}
          options={[
            { value: "light", label: "Light background" },
            { value: "dark", label: "Dark background" },
          ]}
        />
        <span className="soft">
          {mode === "split"
            ? "Drag the line. The image as found is on the left."
            : "Hold b, or the button, to show the page as found."}
        </span>
        {mode === "blink" && (
          <Button
            size="small"
            onPointerDown={() => setAsFound(true)}
            onPointerUp={() => setAsFound(false)}
            onPointerLeave={() => setAsFound(false)}
          >
            As found
          </Button>
        )}
      </div>
      <Overlay
        row={row}
        source={source}
        zoom={zoom}
        ground={ground}
        split={shownSplit}
        draggable={mode === "split"}
        onSplit={setSplit}
      />
      {raster ? (
        <div className="loupe-choice">
          <div className="loupe-form">
            <label className="row between">
              Format
              <Select
                size="small"
                value={format}
                onChange={setFormat}
                options={(["WEBP", "AVIF", "JPEG", "PNG"] as const).map((value) => ({ value, label: FORMATS[value] }))}
              />
            </label>
            <label className="row between">
              Width
              <Select
                size="small"
                value={width}
                onChange={setWidth}
                popupMatchSelectWidth={false}
                options={widthsOf(row, width)}
              />
            </label>
            {format !== "PNG" && (
              <label>
                Quality {quality}
                <Slider min={30} max={95} value={quality} onChange={setQuality} aria-label="Quality" />
              </label>
            )}
            <p className="soft">{chosen ? chosen.refused || outcomeText(chosen, row) : "encoding…"}</p>
            {proposed && seenText(row, proposed) && <p className="soft">{seenText(row, proposed)}</p>}
            <Button
              type="primary"
              size="small"
              disabled={busy || !chosen || Boolean(chosen.refused) || chosen.bytes >= row.bytes}
              onClick={() =>
                onUse({
                  do: "images",
                  paths: [row.path],
                  format,
                  width,
                  quality: format === "PNG" ? 0 : quality,
                  likeness: format === "PNG" ? "exact" : "fine",
                  on: true,
                  family: false,
                })
              }
            >
              Add to plan
            </Button>{" "}
            <Button
              size="small"
              disabled={busy}
              onClick={() =>
                onUse({
                  do: "images",
                  paths: [row.path],
                  format: "leave",
                  width: 0,
                  quality: 0,
                  likeness: "fine",
                  on: true,
                  family: false,
                })
              }
            >
              Keep as found
            </Button>
          </div>
          <Steps steps={steps} level={format === "PNG" ? 0 : quality} found={row.bytes} onPick={setQuality} />
        </div>
      ) : (
        <p className="soft">{row.refused || proposalText(row)}</p>
      )}
    </Modal>
  );
}

function isFormat(value: string | undefined): value is Format {
  return value === "WEBP" || value === "AVIF" || value === "JPEG" || value === "PNG";
}

function widthsOf(row: ImageRow, current: number) {
  const shown = Math.max(0, ...Object.values(row.shown).map(([width = 0]) => width));
  const widths = [...new Set([current, shown, shown * 2, row.proposed?.width ?? 0])]
    .filter((width) => width > 0 && width < row.width)
    .sort((a, b) => a - b);
  return [
    { value: 0, label: `as found, ${count(row.width)} px` },
    ...widths.map((value) => ({
      value,
      label: `${count(value)} px${value === shown ? ", shown size" : value === shown * 2 ? ", twice the shown size" : ""}`,
    })),
  ];
}

type Proposed = NonNullable<ImageRow["proposed"]>;

/** The width of the whole picture at the scale of what the plan makes of it, or of a part of it; 0 for as it is. */
function wholeWidth(row: ImageRow, proposed: Proposed): number {
  const part = proposed.part[2] ?? row.width;
  const width = Math.round((proposed.width * row.width) / part);
  return width && width < row.width ? width : 0;
}

/** How visitors see it, where that decides what is kept of it. */
function seenText(row: ImageRow, { part, veil }: Proposed): string {
  const lines = [];
  if (part.length === 4) {
    const share = percent(((part[2] ?? 0) * (part[3] ?? 0)) / (row.width * row.height));
    lines.push(`The plan keeps the ${share} that the frames show; the loupe shows the whole image.`);
  }
  if (veil.length === 4) lines.push(`Likeness is judged under the overlay, which covers ${veil[3]} %.`);
  return lines.join(" ");
}

function outcomeText(step: { bytes: number; likeness: number }, row: ImageRow): string {
  const less = step.bytes < row.bytes ? `${percent(1 - step.bytes / row.bytes)} less` : "not smaller";
  return `${kB(step.bytes)}, likeness ${step.likeness.toFixed(3)}; ${less} than as found`;
}

function versionAddress(site: string, row: ImageRow, format: Format, width: number, quality: number): string {
  const wanted = { path: row.path, format, width: `${width}`, quality: `${quality}`, of: row.digest.slice(0, 8) };
  return `/api/sites/${site}/images/version?${new URLSearchParams(wanted).toString()}`;
}

interface Level {
  level: number;
  step: Step | undefined;
}

/** The steps come two at a time, the chosen one first. */
function useSteps(
  site: string,
  row: ImageRow,
  format: Format,
  width: number,
  levels: number[],
  first: number,
  enabled: boolean,
): Level[] {
  const cache = useQueryClient();
  const asked = levels.map((quality) => ({ path: row.path, format, width, quality }));
  const waiting = asked.filter((step) => (cache.getQueryState(stepKey(site, step))?.status ?? "pending") === "pending");
  const next = waiting.sort((a, b) => Number(b.quality === first) - Number(a.quality === first)).slice(0, AT_ONCE);
  const found = useQueries({
    queries: asked.map((step) => ({
      queryKey: stepKey(site, step),
      queryFn: () => fetchStep(site, step),
      enabled: enabled && next.includes(step),
      staleTime: Infinity,
      retry: false,
    })),
  });
  return levels.map((level, i) => ({ level, step: found[i]?.data }));
}

/** Two pictures in one place, the newer one cut off at the line. */
function Overlay({
  row,
  source,
  zoom,
  ground,
  split,
  draggable,
  onSplit,
}: {
  row: ImageRow;
  source: string;
  zoom: number;
  ground: "light" | "dark";
  split: number;
  draggable: boolean;
  onSplit: (share: number) => void;
}) {
  const frame = useRef<HTMLDivElement>(null);
  const view = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const box = view.current;
    if (box) box.scrollTo((box.scrollWidth - box.clientWidth) / 2, (box.scrollHeight - box.clientHeight) / 2);
  }, [zoom]);
  const density = devicePixelRatio || 1;
  const size = zoom ? { width: (row.width * zoom) / density, height: (row.height * zoom) / density } : undefined;
  const place = (x: number) => {
    const box = frame.current?.getBoundingClientRect();
    if (box) onSplit(Math.min(100, Math.max(0, ((x - box.left) / box.width) * 100)));
  };
  return (
    <div ref={view} className={`loupe-view ${ground}`} tabIndex={0} aria-label="Image">
      <div
        ref={frame}
        className={zoom ? "loupe-pair" : "loupe-pair fit"}
        style={size}
        onPointerDown={(event) => {
          if (draggable) {
            event.currentTarget.setPointerCapture(event.pointerId);
            place(event.clientX);
          }
        }}
        onPointerMove={(event) => {
          if (draggable && event.buttons) place(event.clientX);
        }}
      >
        <img className={zoom > 1 ? "crisp" : ""} src={row.file} alt="as found" draggable={false} />
        {source && (
          <img
            className={zoom > 1 ? "crisp" : ""}
            src={source}
            alt="as chosen"
            draggable={false}
            style={{ clipPath: `inset(0 0 0 ${split}%)` }}
          />
        )}
        {draggable && source && (
          <span
            className="loupe-line"
            style={{ left: `${split}%` }}
            role="slider"
            aria-label="Edge of the image as found"
            aria-valuemin={0}
            aria-valuemax={100}
            aria-valuenow={Math.round(split)}
            aria-valuetext={`as found up to ${Math.round(split)} %`}
            tabIndex={0}
            onKeyDown={(event) => {
              const next = movedBy(event.key, split);
              if (next !== null) {
                event.preventDefault();
                onSplit(next);
              }
            }}
          />
        )}
      </div>
    </div>
  );
}

/** Where a key moves the line to, in percent, or null for a key that moves nothing. */
function movedBy(key: string, from: number): number | null {
  const steps: Record<string, number> = {
    ArrowLeft: -2,
    ArrowDown: -2,
    ArrowRight: 2,
    ArrowUp: 2,
    PageDown: -10,
    PageUp: 10,
    Home: -100,
    End: 100,
  };
  const step = steps[key];
  return step === undefined ? null : Math.min(100, Math.max(0, from + step));
}

const STEP = 58;
const TALL = 84;

/** What each quality costs and how alike it looks. Those tried out have a bar; the line is the file as found. */
function Steps({
  steps,
  level,
  found,
  onPick,
}: {
  steps: Level[];
  level: number;
  found: number;
  onPick: (quality: number) => void;
}) {
  const most = Math.max(...steps.map(({ step }) => step?.bytes ?? 0), found / 4, 1) * 1.1;
  const y = (bytes: number) => TALL - Math.min(1, bytes / most) * TALL;
  return (
    <div className="loupe-steps">
      <svg width={steps.length * STEP + 90} height={TALL + 40} role="img" aria-label="Bytes and likeness by quality">
        <line
          x1="0"
          x2={steps.length * STEP}
          strokeOpacity={found > most ? 0.4 : 1}
          y1={y(found) + 1}
          y2={y(found) + 1}
          stroke="#23211D"
          strokeDasharray="2 3"
        />
        <text x={steps.length * STEP + 4} y={Math.max(10, y(found) + 4)} className="step-text">
          {found > most ? "as found: higher" : "as found"}
        </text>
        {steps.map(({ level: quality, step }, i) => (
          <g
            key={quality}
            transform={`translate(${i * STEP} 0)`}
            onClick={() => {
              if (quality) onPick(quality);
            }}
            className="step"
          >
            <rect width={STEP - 6} height={TALL + 40} fill="transparent" />
            {step && !step.refused && (
              <rect
                x="8"
                width={STEP - 22}
                y={y(step.bytes)}
                height={TALL - y(step.bytes)}
                fill={quality === level ? "#8A4F22" : "#CDBFA8"}
              />
            )}
            <text
              x={(STEP - 6) / 2}
              y={TALL + 13}
              textAnchor="middle"
              className={quality === level ? "step-text on" : "step-text"}
            >
              {quality || "exact"}
            </text>
            <text x={(STEP - 6) / 2} y={TALL + 25} textAnchor="middle" className="step-text">
              {step && !step.refused ? kB(step.bytes) : "…"}
            </text>
            <text x={(STEP - 6) / 2} y={TALL + 37} textAnchor="middle" className="step-text soft">
              {step && !step.refused ? wordFor(step.likeness) : ""}
            </text>
          </g>
        ))}
      </svg>
    </div>
  );
}

/** The likeness as a figure, with the word whose target it holds. */
function wordFor(likeness: number): string {
  const word = Object.entries(TARGETS).find(([, target]) => likeness >= target)?.[0];
  return `${likeness.toFixed(3)}${word ? ` ${word}` : ""}`;
}
