import { Slider } from "antd";
import { type CSSProperties, useEffect, useLayoutEffect, useRef, useState } from "react";
import type { Words } from "../api/client";
import { count } from "../ui/format";
import { saidIn, scrollTo } from "./messages";

export type Way = "sides" | "blink" | "split";
export type Device = Words["devices"][number];

/** One side: what it is, where it is, and a stamp that changes when the same address holds something else. */
export interface Copy {
  title: string;
  address: string;
  stamp: string;
}

interface Props {
  left: Copy;
  right: Copy;
  page: string;
  device: Device;
  way: Way;
  /** While it blinks, the left one lies on top. */
  blink: boolean;
}

interface Told {
  held: string[];
  errors: string[];
}
const NOTHING: Told = { held: [], errors: [] };
const MOST_TOLD = 20;

/** Two copies of a page that live in this browser: of one size, scrolled together, a link followed in one followed in both. */
export function LivePair({ left, right, page, device, way, blink }: Props) {
  const frames = [useRef<HTMLIFrameElement>(null), useRef<HTMLIFrameElement>(null)] as const;
  const pane = useRef<HTMLDivElement>(null);
  const [room, setRoom] = useState({ width: 0, height: 0 });
  const [share, setShare] = useState(50);
  const [places, setPlaces] = useState<string[]>([]);
  const [told, setTold] = useState<[Told, Told]>([NOTHING, NOTHING]);
  const first = page.slice(1);
  const [paths, setPaths] = useState([first, first]);
  const start = [left.address + paths[0], right.address + paths[1]];

  useLayoutEffect(() => {
    const measure = () => {
      if (pane.current) setRoom({ width: pane.current.clientWidth, height: pane.current.clientHeight });
    };
    measure();
    const observer = new ResizeObserver(measure);
    if (pane.current) observer.observe(pane.current);
    return () => observer.disconnect();
  }, []);

  useEffect(() => {
    const hear = (event: MessageEvent) => {
      const side = frames.findIndex(({ current }) => current !== null && event.source === current.contentWindow);
      const said = side < 0 ? null : saidIn(event.data);
      const other = frames[1 - side]?.current;
      if (!said) return;
      if (said.what === "key") {
        document.body.dispatchEvent(new KeyboardEvent("keydown", { key: said.key, bubbles: true }));
        document.body.dispatchEvent(new KeyboardEvent("keyup", { key: said.key, bubbles: true }));
      } else if (said.what === "at") {
        if (other) scrollTo(other, said.y);
      } else if (said.what === "there") {
        setPlaces((old) => {
          const next = [...old];
          next[side] = said.path;
          return next;
        });
        setTold((old) => (side === 0 ? [NOTHING, old[1]] : [old[0], NOTHING]));
      } else {
        const add = (list: string[], text: string) =>
          list.includes(text) || list.length >= MOST_TOLD ? list : [...list, text];
        setTold((old) => {
          const now = old[side === 0 ? 0 : 1];
          const next: Told =
            said.what === "held"
              ? { ...now, held: add(now.held, said.url) }
              : { ...now, errors: add(now.errors, said.text) };
          return side === 0 ? [next, old[1]] : [old[0], next];
        });
      }
    };
    addEventListener("message", hear);
    return () => removeEventListener("message", hear);
  });

  const apart = places[0] !== undefined && places[1] !== undefined && places[0] !== places[1];
  const wide = way === "sides" ? (room.width - 12) / 2 : room.width;
  const scale = Math.min(1, wide / device.width);
  const size: CSSProperties = {
    width: device.width,
    height: scale > 0 ? room.height / scale : 0,
    transform: `scale(${scale})`,
  };
  const box: CSSProperties = { width: device.width * scale, height: room.height };
  const copies = [left, right] as const;
  return (
    <div className="live">
      <div className="live-heads">
        {copies.map((copy, side) => (
          <span key={copy.title} className={way === "blink" && blink === (side === 1) ? "soft" : ""}>
            <b>{copy.title}</b> <Notes told={told[side === 0 ? 0 : 1]} />
          </span>
        ))}
        {apart && (
          <button type="button" className="link" onClick={() => setPaths([first, places[0]?.slice(1) ?? first])}>
            Open {places[0]} on the right too
          </button>
        )}
      </div>
      {way === "split" && (
        <Slider
          ariaLabelForHandle="Share of the left page"
          value={share}
          onChange={setShare}
          tooltip={{ open: false }}
        />
      )}
      <div className={way === "sides" ? "live-sides" : "live-over"} ref={pane}>
        {copies.map((copy, side) => (
          <div
            key={copy.title}
            style={{
              ...box,
              ...(way === "blink" && { visibility: blink === (side === 0) ? "visible" : "hidden" }),
              ...(way === "split" && side === 0 && { clipPath: `inset(0 ${100 - share}% 0 0)`, zIndex: 1 }),
            }}
          >
            <iframe
              key={`${start[side]} ${copy.stamp}`}
              ref={frames[side === 0 ? 0 : 1]}
              title={copy.title}
              src={start[side]}
              sandbox="allow-scripts"
              referrerPolicy="no-referrer"
              style={size}
            />
          </div>
        ))}
      </div>
    </div>
  );
}

/** What a copy could not reach, and what its scripts complained of. */
function Notes({ told }: { told: Told }) {
  if (told.held.length + told.errors.length === 0) return null;
  const held = told.held.length > 0 && `${count(told.held.length)} addresses outside the recording blocked`;
  const errors = told.errors.length > 0 && `${count(told.errors.length)} script errors`;
  return (
    <small className="soft" title={[...told.held, ...told.errors].join("\n")}>
      {[held, errors].filter(Boolean).join(", ")}
    </small>
  );
}
