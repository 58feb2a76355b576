import { Button } from "antd";
import { useState } from "react";
import type { Bench, Pair } from "../api/client";
import { useKeys } from "../frame/keys";
import type { PartProps } from "./BenchPage";
import { Nothing } from "../ui/Nothing";

/** Pairs of pictures, page by page and device by device, with what differs outlined. */
export default function Check({ bench, work, busy }: PartProps) {
  const [chosen, setChosen] = useState(0);
  const [blink, setBlink] = useState(false);
  const result = bench.result;
  const rows: Pair[] = result ? [...result.evidence, ...result.pairs] : [];
  useKeys({
    n: (down) => { if (down) setChosen((i) => Math.min(rows.length - 1, i + 1)); },
    p: (down) => { if (down) setChosen((i) => Math.max(0, i - 1)); },
    b: setBlink,
  });
  if (!result) return <main className="narrow"><Nothing>Nothing has been tried yet, so there is nothing to compare. Try something under Sort.</Nothing></main>;
  const row = rows[Math.min(chosen, rows.length - 1)];
  return (
    <main className="check">
      <section className="list">
        <div className="head">
          <h1>Is it still the same page?</h1>
        </div>
        <p className="soft pad">
          {result.checks.passed} of {result.checks.pairs} pages and devices look and work as found.
          {result.checks.set_aside > 0 && ` ${result.checks.set_aside} changes were set aside on the way.`}
        </p>
        <ul className="pairs">
          {rows.map((pair, i) => (
            <li key={`${pair.change} ${pair.page} ${pair.device}`}>
              <button type="button" className={i === chosen ? "sel" : ""} aria-pressed={i === chosen} onClick={() => setChosen(i)}>
                <b>{pair.change || pair.page}</b>
                <small>{pair.change ? `set aside: differs on ${pair.page}, ${pair.device}` : `${pair.device}: ${pair.passed ? "same page" : "differs"}`}</small>
              </button>
            </li>
          ))}
        </ul>
      </section>
      {row && <Pictures bench={bench} pair={row} blink={blink} busy={busy} work={work} />}
    </main>
  );
}

function Pictures({ bench, pair, blink, busy, work }: { bench: Bench; pair: Pair; blink: boolean; busy: boolean; work: PartProps["work"] }) {
  const source = (name: string) => `/api/sites/${bench.id}/pictures/${name}`;
  const change = bench.changes.find((entry) => entry.id === pair.change);
  return (
    <section className="compare">
      <div className="head">
        <span><b>{pair.page}</b> on {pair.device}</span>
        {change?.set_aside && (
          <Button size="small" disabled={busy} onClick={() => work.edit.mutate({ changes: [{ id: change.id, on: true, insist: true }] })}>Do it all the same</Button>
        )}
        <span className="end links">
          <a href={bench.preview_found + pair.page.slice(1)} target="_blank" rel="noreferrer">Open as found</a>
          {bench.preview_now && <a href={bench.preview_now + pair.page.slice(1)} target="_blank" rel="noreferrer">Open as it is now</a>}
        </span>
      </div>
      {pair.differences.length > 0 && (
        <ul className="differences">{pair.differences.map((difference) => <li key={difference.text}>{difference.text}</li>)}</ul>
      )}
      <div className="sides">
        <figure>
          <figcaption>As found</figcaption>
          {pair.before ? <img src={source(pair.before)} alt={`${pair.page} as found`} /> : <p className="soft">No picture could be taken.</p>}
        </figure>
        <figure>
          <figcaption>{blink ? "As found" : pair.change ? "With the change" : "Now"}</figcaption>
          <div className="outlined">
            {pair.after ? <img src={source(blink && pair.before ? pair.before : pair.after)} alt={`${pair.page} now`} /> : <p className="soft">No picture could be taken.</p>}
            {!blink && pair.after && <Outlines pair={pair} />}
          </div>
        </figure>
      </div>
    </section>
  );
}

const WIDTHS: Record<string, number> = { phone: 390, desktop: 1280 };

function Outlines({ pair }: { pair: Pair }) {
  const width = WIDTHS[pair.device] ?? 1280;
  const boxes = pair.differences.flatMap((difference) => difference.boxes);
  return boxes.map((box) => {
    const [left = 0, top = 0, right = 0, bottom = 0] = box;
    const unit = 100 / width;
    return (
      <i
        key={box.join(" ")}
        className="outline"
        style={{ left: `${left * unit}%`, top: `calc(${top} / ${width} * 100cqw)`, width: `${(right - left) * unit}%`, height: `calc(${bottom - top} / ${width} * 100cqw)` }}
      />
    );
  });
}
