import { Button, Segmented, Slider } from "antd";
import { type PointerEvent, type ReactNode, useEffect, useRef, useState } from "react";
import type { Bench, Difference, Pair } from "../api/client";
import { useTry } from "../api/plan";
import { ignore } from "../model/ignoring";

type Frame = "moment" | "cut" | "whole";
type Way = "sides" | "split";
/** Left, top, width and height in CSS px. */
type Box = [number, number, number, number];

interface Props {
  bench: Bench;
  pair: Pair;
  difference: Difference | undefined;
  blink: boolean;
  busy: boolean;
  withChange: boolean;
}

const AROUND = 60;
const CUT_HEIGHT = 420;
const CUT_WIDTH = 520;

/** The part of a picture that is shown at 1:1: the first outline with what stands around it. */
function cutOf(difference: Difference | undefined, pair: Pair): Box | undefined {
  const [left, top, right, bottom] = difference?.boxes[0] ?? [];
  if (left === undefined || top === undefined || right === undefined || bottom === undefined) return undefined;
  const width = Math.min(CUT_WIDTH, pair.width, Math.max(380, right - left + 2 * AROUND));
  const height = Math.min(CUT_HEIGHT, Math.max(260, bottom - top + 2 * AROUND));
  return [Math.max(0, Math.min(pair.width - width, left - AROUND)), Math.max(0, top - AROUND), width, height];
}

/** A page as found and now: at a step, a cut-out at 1:1, or whole; side by side or split. */
export function PairPictures({ bench, pair, difference, blink, busy, withChange }: Props) {
  const shots = difference?.shots;
  const cut = difference?.what === "step picture" || !pair.width ? undefined : cutOf(difference, pair);
  const frames: { value: Frame; label: string }[] = [
    ...(shots ? [{ value: "moment" as const, label: "At this step" }] : []),
    ...(cut ? [{ value: "cut" as const, label: "Cut-out" }] : []),
    { value: "whole", label: "Whole page" },
  ];
  const [frame, setFrame] = useState<Frame>(frames[0]?.value ?? "whole");
  const [way, setWay] = useState<Way>("sides");
  const [share, setShare] = useState(50);
  const [masking, setMasking] = useState(false);
  const source = (name: string) => `/api/sites/${bench.id}/pictures/${name}`;
  const names = frame === "moment" && shots ? shots : [pair.before, pair.after];
  const [before, after] = [names[0] ?? "", names[1] ?? ""];
  const boxes = frame === "moment" ? [] : (difference?.boxes ?? pair.differences.flatMap((entry) => entry.boxes));
  const label = blink ? "As found" : withChange ? "With the change" : "Now";
  const picture = (name: string, alt: string) =>
    name === "" ? (
      <p className="soft">No picture could be taken.</p>
    ) : frame === "cut" && cut ? (
      <CutOut source={source(name)} alt={alt} cut={cut} width={pair.width} />
    ) : (
      <img src={source(name)} alt={alt} />
    );
  const now = picture(blink && before ? before : after, `${pair.page} now`);
  return (
    <div className="pictures">
      <div className="row pad">
        <Segmented size="small" value={frame} onChange={setFrame} options={frames} />
        <Segmented
          size="small"
          value={way}
          onChange={setWay}
          options={[
            { value: "sides", label: "Side by side" },
            { value: "split", label: "Split" },
          ]}
        />
        <span className="soft">Hold b to blink</span>
        {frame === "whole" && pair.width > 0 && (
          <Button
            size="small"
            type={masking ? "primary" : "default"}
            disabled={busy}
            onClick={() => setMasking(!masking)}
          >
            {masking ? "Cancel drawing" : "Ignore a region"}
          </Button>
        )}
      </div>
      {way === "split" && before && after ? (
        <div className="split">
          <Slider
            ariaLabelForHandle="Share of the page as found"
            value={share}
            onChange={setShare}
            tooltip={{ open: false }}
          />
          <div className="over">
            {picture(after, `${pair.page} now`)}
            <div style={{ clipPath: `inset(0 ${100 - share}% 0 0)` }}>{picture(before, `${pair.page} as found`)}</div>
          </div>
        </div>
      ) : (
        <div className="sides">
          <figure>
            <figcaption>As found</figcaption>
            {picture(before, `${pair.page} as found`)}
          </figure>
          <figure>
            <figcaption>{label}</figcaption>
            {frame === "whole" ? (
              <Masking bench={bench} pair={pair} on={masking} onDone={() => setMasking(false)}>
                {now}
                {after && pair.width > 0 && <Outlines boxes={boxes} width={pair.width} hidden={blink} />}
              </Masking>
            ) : (
              now
            )}
          </figure>
        </div>
      )}
      <Masks bench={bench} pair={pair} busy={busy} />
    </div>
  );
}

function CutOut({ source, alt, cut, width }: { source: string; alt: string; cut: Box; width: number }) {
  const [left, top, wide, tall] = cut;
  return (
    <div className="cut-out" style={{ width: wide, height: tall }}>
      <img src={source} alt={alt} style={{ width, left: -left, top: -top }} />
    </div>
  );
}

/** What differs, outlined; the first of it is brought into sight. */
function Outlines({ boxes, width, hidden }: { boxes: number[][]; width: number; hidden: boolean }) {
  const first = useRef<HTMLElement>(null);
  useEffect(() => {
    // The picture has its height only once it is there.
    const picture = first.current?.parentElement?.querySelector("img");
    const show = () => {
      const pane = first.current?.closest(".compare");
      // In a narrow window the pictures stand below the list, and nobody wants to be taken away from that.
      if (pane && pane.scrollHeight > pane.clientHeight) first.current?.scrollIntoView({ block: "center" });
    };
    if (picture && !picture.complete) picture.addEventListener("load", show, { once: true });
    else show();
    return () => picture?.removeEventListener("load", show);
  }, []);
  return boxes.map(([left = 0, top = 0, right = 0, bottom = 0], i) => (
    <i
      key={`${left} ${top} ${right} ${bottom}`}
      ref={i === 0 ? first : undefined}
      className="outline"
      style={{ ...placeOf([left, top, right, bottom], width), visibility: hidden ? "hidden" : undefined }}
    />
  ));
}

function placeOf([left = 0, top = 0, right = 0, bottom = 0]: number[], width: number) {
  const unit = 100 / width;
  return {
    left: `${left * unit}%`,
    top: `calc(${top} / ${width} * 100cqw)`,
    width: `${(right - left) * unit}%`,
    height: `calc(${bottom - top} / ${width} * 100cqw)`,
  };
}

/** A picture on which a region can be drawn that a check leaves out from then on. */
function Masking({
  bench,
  pair,
  on,
  onDone,
  children,
}: {
  bench: Bench;
  pair: Pair;
  on: boolean;
  onDone: () => void;
  children: ReactNode;
}) {
  const tryOut = useTry(bench.id);
  const [drawn, setDrawn] = useState<number[]>();
  const masks = bench.plan?.tolerance.masks ?? [];
  const spot = (event: PointerEvent<HTMLDivElement>): [number, number] => {
    const box = event.currentTarget.getBoundingClientRect();
    const unit = pair.width / box.width;
    return [Math.round((event.clientX - box.left) * unit), Math.round((event.clientY - box.top) * unit)];
  };
  const begin = (event: PointerEvent<HTMLDivElement>) => {
    if (!on) return;
    event.preventDefault();
    event.currentTarget.setPointerCapture(event.pointerId);
    setDrawn([...spot(event), ...spot(event)]);
  };
  const move = (event: PointerEvent<HTMLDivElement>) => {
    if (drawn) setDrawn([...drawn.slice(0, 2), ...spot(event)]);
  };
  const end = () => {
    if (!drawn) return;
    const [x = 0, y = 0, a = 0, b = 0] = drawn;
    const box = [Math.min(x, a), Math.min(y, b), Math.max(x, a), Math.max(y, b)];
    setDrawn(undefined);
    if ((box[2] ?? 0) - (box[0] ?? 0) < 4 || (box[3] ?? 0) - (box[1] ?? 0) < 4) return;
    onDone();
    const mask = { page: pair.page, device: pair.device, box, why: "" };
    tryOut.mutate({ commands: [ignore([...masks, mask])] });
  };
  return (
    <div
      className={on ? "outlined drawing" : "outlined"}
      onPointerDown={begin}
      onPointerMove={move}
      onPointerUp={end}
      onPointerCancel={() => setDrawn(undefined)}
    >
      {children}
      {masks
        .filter((mask) => mask.page === pair.page && (mask.device === "" || mask.device === pair.device))
        .map((mask) => (
          <i key={mask.box.join(" ")} className="mask" style={placeOf(mask.box, pair.width)} />
        ))}
      {drawn && (
        <i
          className="mask"
          style={placeOf(
            [
              Math.min(drawn[0] ?? 0, drawn[2] ?? 0),
              Math.min(drawn[1] ?? 0, drawn[3] ?? 0),
              Math.max(drawn[0] ?? 0, drawn[2] ?? 0),
              Math.max(drawn[1] ?? 0, drawn[3] ?? 0),
            ],
            pair.width,
          )}
        />
      )}
    </div>
  );
}

/** The regions left out of this page, and the differences that were accepted on it, each to be taken back. */
function Masks({ bench, pair, busy }: { bench: Bench; pair: Pair; busy: boolean }) {
  const tryOut = useTry(bench.id);
  const { masks = [], accepted = [] } = bench.plan?.tolerance ?? {};
  const here = masks.filter((mask) => mask.page === pair.page && (mask.device === "" || mask.device === pair.device));
  const allowed = accepted.filter(
    (entry) => entry.page === pair.page && (entry.device === "" || entry.device === pair.device),
  );
  if (here.length + allowed.length === 0) return null;
  return (
    <ul className="pad tolerated">
      {here.map((mask) => (
        <li key={mask.box.join(" ")}>
          Ignored: {(mask.box[2] ?? 0) - (mask.box[0] ?? 0)} x {(mask.box[3] ?? 0) - (mask.box[1] ?? 0)} px at{" "}
          {mask.box[0]}, {mask.box[1]}{" "}
          <Button
            size="small"
            type="link"
            disabled={busy}
            onClick={() => tryOut.mutate({ commands: [ignore(masks.filter((other) => other !== mask))] })}
          >
            Compare again
          </Button>
        </li>
      ))}
      {allowed.map((entry) => (
        <li key={entry.key}>
          Accepted: {entry.text}
          {entry.why && ` (“${entry.why}”)`}{" "}
          <Button
            size="small"
            type="link"
            disabled={busy}
            onClick={() => tryOut.mutate({ commands: [{ do: "accept", ...entry, off: true }] })}
          >
            Stop accepting
          </Button>
        </li>
      ))}
    </ul>
  );
}
