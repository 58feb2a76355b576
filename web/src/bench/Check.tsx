import { Button } from "antd";
import { useEffect, useRef, useState } from "react";
import type { Bench, Outcome, Pair, Run } from "../api/client";
import { useTry } from "../api/plan";
import { useKeys } from "../frame/keys";
import { Nothing } from "../ui/Nothing";
import { changeName } from "./names";
import type { PartProps } from "./part";

/** Something to be looked at: what a change was set aside for, or a page as it is now. */
interface Row {
  key: string;
  pair: Pair;
  outcome?: Outcome;
}

function rowsOf(run: Run): Row[] {
  const aside = run.outcomes.flatMap((outcome) =>
    outcome.pair ? [{ key: outcome.change, pair: outcome.pair, outcome }] : [],
  );
  const pages = run.pairs.map((pair) => ({ key: `${pair.page} ${pair.device}`, pair }));
  return [...aside, ...pages];
}

/** Pairs of pictures, page by page and device by device, with what differs outlined. */
export default function Check({ bench, busy }: PartProps) {
  const [chosen, setChosen] = useState(0);
  const [blink, setBlink] = useState(false);
  const { run } = bench;
  const rows = run ? rowsOf(run) : [];
  useKeys({
    n: (down) => {
      if (down) setChosen((i) => Math.min(rows.length - 1, i + 1));
    },
    p: (down) => {
      if (down) setChosen((i) => Math.max(0, i - 1));
    },
    b: setBlink,
  });
  if (!run) {
    return (
      <main className="narrow">
        <Nothing>Nothing has been tried yet, so there is nothing to compare. Try something under Sort.</Nothing>
      </main>
    );
  }
  const row = rows[Math.min(chosen, rows.length - 1)];
  const aside = run.checks.set_aside;
  return (
    <main className="check">
      <section className="list">
        <div className="head">
          <h1>Is it still the same page?</h1>
        </div>
        <p className="soft pad">
          {run.checks.passed} of {run.checks.pairs} pages and devices look and work as found.
          {aside > 0 && ` ${aside === 1 ? "1 change was" : `${aside} changes were`} set aside on the way.`}
        </p>
        <ul className="pairs">
          {rows.map(({ key, pair, outcome }, i) => (
            <li key={key}>
              <button
                type="button"
                className={i === chosen ? "sel" : ""}
                aria-pressed={i === chosen}
                onClick={() => setChosen(i)}
              >
                <b>{outcome ? changeName(bench.words, outcome) : pair.page}</b>
                <small>
                  {outcome
                    ? `set aside: differs on ${pair.page}, ${pair.device}`
                    : `${pair.device}: ${pair.passed ? "same page" : "differs"}`}
                </small>
              </button>
            </li>
          ))}
        </ul>
      </section>
      {row && <Pictures key={row.key} bench={bench} row={row} blink={blink} busy={busy} />}
    </main>
  );
}

function Pictures({ bench, row, blink, busy }: { bench: Bench; row: Row; blink: boolean; busy: boolean }) {
  const { pair, outcome } = row;
  const tryOut = useTry(bench.id);
  const source = (name: string) => `/api/sites/${bench.id}/pictures/${name}`;
  const wanted = bench.plan?.changes.find((change) => change.id === outcome?.change && change.on);
  return (
    <section className="compare">
      <div className="head">
        <span>
          <b>{pair.page}</b> on {pair.device}
        </span>
        {wanted && !wanted.insist && (
          <>
            <Button
              size="small"
              disabled={busy}
              onClick={() => tryOut.mutate({ commands: [{ do: "switch", ids: [wanted.id], on: true, insist: true }] })}
            >
              Do it all the same
            </Button>
            <Button size="small" disabled={busy} onClick={() => tryOut.mutate({ commands: [], again: [wanted.id] })}>
              Try it again
            </Button>
          </>
        )}
        <span className="end links">
          <a href={bench.preview_found + pair.page.slice(1)} target="_blank" rel="noreferrer">
            Open as found
          </a>
          {bench.preview_now && (
            <a href={bench.preview_now + pair.page.slice(1)} target="_blank" rel="noreferrer">
              Open as it is now
            </a>
          )}
        </span>
      </div>
      {pair.differences.length > 0 && (
        <ul className="differences">
          {pair.differences.map((difference) => (
            <li key={difference.text}>{difference.text}</li>
          ))}
        </ul>
      )}
      <div className="sides">
        <figure>
          <figcaption>As found</figcaption>
          {pair.before ? (
            <img src={source(pair.before)} alt={`${pair.page} as found`} />
          ) : (
            <p className="soft">No picture could be taken.</p>
          )}
        </figure>
        <figure>
          <figcaption>{blink ? "As found" : outcome ? "With the change" : "Now"}</figcaption>
          <div className="outlined">
            {pair.after ? (
              <img src={source(blink && pair.before ? pair.before : pair.after)} alt={`${pair.page} now`} />
            ) : (
              <p className="soft">No picture could be taken.</p>
            )}
            {pair.after && pair.width > 0 && <Outlines pair={pair} hidden={blink} />}
          </div>
        </figure>
      </div>
    </section>
  );
}

/** What differs, outlined; the first of it is brought into sight. */
function Outlines({ pair, hidden }: { pair: Pair; hidden: boolean }) {
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
  const boxes = pair.differences.flatMap((difference) => difference.boxes);
  const unit = 100 / pair.width;
  return boxes.map(([left = 0, top = 0, right = 0, bottom = 0], i) => (
    <i
      key={`${left} ${top} ${right} ${bottom}`}
      ref={i === 0 ? first : undefined}
      className="outline"
      style={{
        left: `${left * unit}%`,
        top: `calc(${top} / ${pair.width} * 100cqw)`,
        width: `${(right - left) * unit}%`,
        height: `calc(${bottom - top} / ${pair.width} * 100cqw)`,
        visibility: hidden ? "hidden" : undefined,
      }}
    />
  ));
}
