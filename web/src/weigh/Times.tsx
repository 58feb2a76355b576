import { Alert } from "antd";
import type { Detail, WeighIn } from "../api/client";
import { useDetail } from "../api/weighing";
import type { PartProps } from "../model/part";
import { weighInOf } from "../model/state";
import { shortAddress } from "../ui/parties";
import { count, kB, requests, seconds } from "../ui/format";
import { Waiting } from "../ui/Waiting";

type Spread = WeighIn["timings"][string];

const NAMES: Record<string, string> = {
  first_paint: "First paint",
  largest_paint: "Largest paint",
  content_ready: "Content ready",
  load: "Loaded",
  blocking: "Blocking time",
  shift: "Layout shift",
};

/** Times in plain words with their range over the runs, as found and now side by side, and what scrolling brings. */
export default function Times({ bench, view }: PartProps) {
  const before = weighInOf(bench.weigh_ins, view);
  const after = weighInOf(bench.now, view);
  const stamp = JSON.stringify(bench.rules);
  const found = useDetail(bench.id, before?.id, stamp);
  const now = useDetail(bench.id, after?.id, stamp);
  if (!before)
    return (
      <p className="empty soft">
        No weigh-in under these conditions. Weigh the page with the button above, or choose other conditions in the bar.
      </p>
    );
  const error = found.error ?? now.error;
  if (error) return <Alert type="error" banner title={error.message} />;
  if (!found.data || (after && !now.data)) return <Waiting />;
  return (
    <section className="times">
      <div className="head">
        <h1>How long {view.page} takes</h1>
        <span className="soft">{runs(before)}</span>
      </div>
      <Measured found={found.data} now={after ? now.data : undefined} />
      <div className="columns">
        <Modelled before={before} after={after} />
        <Scrolling before={before} after={after} />
      </div>
    </section>
  );
}

function runs(weighIn: WeighIn): string {
  if (weighIn.runs === 1) return "One load proves little. Weigh with three loads or more.";
  return `Median of ${weighIn.runs} loads, with lowest and highest.`;
}

/** Both sides on one scale, so that the bars can be compared. */
function Measured({ found, now }: { found: Detail; now: Detail | undefined }) {
  const sides = [found, ...(now ? [now] : [])];
  const scaleOf = (name: string) => {
    const names = name === "shift" ? ["shift"] : Object.keys(NAMES).filter((other) => other !== "shift");
    const highest = sides.flatMap((side) => names.map((other) => side.weigh_in.timings[other]?.high ?? 0));
    return Math.max(name === "shift" ? 0.25 : 1, ...highest);
  };
  return (
    <table className="weigh-ins timings">
      <thead>
        <tr>
          <th>Measured</th>
          <th className="n">As found</th>
          <th>Range</th>
          {now && <th className="n">Now</th>}
          {now && <th>Range</th>}
          <th>What it means</th>
        </tr>
      </thead>
      <tbody>
        {Object.entries(NAMES).map(([name, label]) => {
          const spread = found.weigh_in.timings[name];
          if (!spread) return null;
          const later = now?.weigh_in.timings[name];
          return (
            <tr key={name}>
              <td>
                <b>{label}</b>
              </td>
              <Spreading name={name} spread={spread} scale={scaleOf(name)} />
              {now && <Spreading name={name} spread={later} scale={scaleOf(name)} />}
              <td className="sentence">{sentence(name, spread, found)}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function Spreading({ name, spread, scale }: { name: string; spread: Spread | undefined; scale: number }) {
  if (!spread)
    return (
      <td colSpan={2} className="soft">
        not measured
      </td>
    );
  return (
    <>
      <td className="n">{value(name, spread.median)}</td>
      <td>
        <Range spread={spread} scale={scale} text={`${value(name, spread.low)} to ${value(name, spread.high)}`} />
      </td>
    </>
  );
}

function value(name: string, number: number): string {
  if (name === "shift") return number.toFixed(3);
  return name === "blocking" ? `${count(number)} ms` : seconds(number);
}

function Range({ spread, scale, text }: { spread: Spread; scale: number; text: string }) {
  const at = (number: number) => `${Math.min(100, (number / scale) * 100)}%`;
  return (
    <span className="range" title={text}>
      <i style={{ left: at(spread.low), width: `max(2px, calc(${at(spread.high)} - ${at(spread.low)}))` }} />
      <b style={{ left: at(spread.median) }} />
      <small>{text}</small>
    </span>
  );
}

function sentence(name: string, spread: Spread, detail: Detail): string {
  const largest = detail.largest;
  switch (name) {
    case "first_paint":
      return "The page stays blank until then.";
    case "largest_paint": {
      if (!largest) return "The largest element of the first view is painted.";
      if (!largest.url) return `The largest element of the first view is painted: the text “${largest.text}”.`;
      const request = detail.requests[largest.request];
      const came = request ? `; its ${kB(request.transferred)} were requested after ${count(request.started)} ms` : "";
      const name = shortAddress(largest.url, detail.own_hosts);
      return `The largest element of the first view is painted: ${name}${came}.`;
    }
    case "content_ready":
      return "The document is parsed; the page's scripts can start.";
    case "load":
      return "Everything requested at load has arrived.";
    case "blocking":
      return spread.median > 0
        ? "Time taps and clicks lagged during loading."
        : "Taps and clicks never lagged during loading.";
    default:
      return spread.median > 0.001
        ? "Content jumped during loading. 0 means still; 0.25 means a quarter of the screen moved by a whole screen."
        : "No content jumped during loading.";
  }
}

function Modelled({ before, after }: { before: WeighIn; after: WeighIn | undefined }) {
  return (
    <div>
      <table className="weigh-ins">
        <thead>
          <tr>
            <th>Modelled load time</th>
            <th className="n">As found</th>
            <th className="n">Now</th>
          </tr>
        </thead>
        <tbody>
          {Object.entries(before.modelled_load_ms).map(([link, ms]) => (
            <tr key={link}>
              <td>{link}</td>
              <td className="n">{seconds(ms)}</td>
              <td className="n">{after ? seconds(after.modelled_load_ms[link] ?? 0) : ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="soft pad">
        Computed from bytes, round trips and the order of requests, so the result is the same every time. It includes
        connections and their slow start, but no computing time.
      </p>
    </div>
  );
}

function Scrolling({ before, after }: { before: WeighIn; after: WeighIn | undefined }) {
  const all = [before, ...(after ? [after] : [])];
  const scale = Math.max(1, ...all.map((w) => w.transferred + w.scrolled.transferred));
  return (
    <div>
      <table className="weigh-ins">
        <thead>
          <tr>
            <th>While scrolling</th>
            <th />
            <th className="n">At load</th>
            <th className="n">At the end</th>
          </tr>
        </thead>
        <tbody>
          {all.map((w, i) => (
            <tr key={w.id}>
              <td>{i === 0 ? "As found" : "Now"}</td>
              <td className="scroll-bars">
                <i style={{ width: `${(w.transferred / scale) * 100}%` }} />
                <i className="more" style={{ width: `${(w.scrolled.transferred / scale) * 100}%` }} />
              </td>
              <td className="n">{kB(w.transferred)}</td>
              <td className="n">{kB(w.transferred + w.scrolled.transferred)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="soft pad">
        {scrollingOf("As found", before)} {after && scrollingOf("Now", after)}
      </p>
    </div>
  );
}

function scrollingOf(side: string, { scrolled }: WeighIn): string {
  if (scrolled.requests === 0) return `${side}: the page loads everything at once; scrolling loads nothing more.`;
  return `${side}: scrolling to the end loads ${kB(scrolled.transferred)} more in ${requests(scrolled.requests)}.`;
}
