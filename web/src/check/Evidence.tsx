import { Button } from "antd";
import { useState } from "react";
import type { Bench, Command, Outcome } from "../api/client";
import { useTry } from "../api/plan";
import { namely } from "../ui/format";
import type { CheckRow } from "../model/checkRows";
import { keepFiles } from "../model/keeping";
import { changeName, kindName } from "../model/names";
import { PairPictures } from "./PairPictures";
import { WithWord } from "../ui/WithWord";

interface Props {
  bench: Bench;
  row: CheckRow;
  blink: boolean;
  busy: boolean;
}

/** What differs in words, the change to blame, what can be done about it, and the pictures of it. */
function whatIsOut(outcome: Outcome, row: CheckRow): string {
  const pieces = outcome.parts.find((part) => part.target === row.target)?.pieces ?? [];
  if (outcome.standing === "set aside") return "The whole change is set aside.";
  if (pieces.length === 0) return "Set aside for this file only; the rest of the change stays.";
  return `Set aside: ${namely(pieces)}. The rest of the change stays.`;
}

export function Evidence({ bench, row, blink, busy }: Props) {
  const { pair, outcome } = row;
  const [chosen, setChosen] = useState(0);
  const difference = pair.differences[Math.min(chosen, pair.differences.length - 1)];
  return (
    <section className="compare">
      <div className="head">
        <span>
          <b>{pair.page}</b> on {pair.device}
        </span>
        <span className="end links">
          <a href={bench.preview_found + pair.page.slice(1)} target="_blank" rel="noreferrer">
            Open as found
          </a>
          {bench.preview_now && (
            <a href={bench.preview_now + pair.page.slice(1)} target="_blank" rel="noreferrer">
              Open now
            </a>
          )}
        </span>
      </div>
      {pair.cannot && (
        <p className="told" role="note">
          This page could not be compared: {pair.cannot}. No change is set aside for it.
        </p>
      )}
      {outcome && (
        <p className="told">
          Culprit: <b>{changeName(bench.words, outcome)}</b>
          {row.target && row.target !== outcome.targets[0] ? `, file ${row.target}` : ""}. {whatIsOut(outcome, row)}
        </p>
      )}
      {pair.differences.length > 0 && (
        <ol className="differences">
          {pair.differences.map((entry, i) => (
            <li key={entry.key + entry.text}>
              <button type="button" aria-pressed={i === chosen} onClick={() => setChosen(i)}>
                <small>{kindName(bench.words, entry.what)}</small> {entry.text}
              </button>
              {i === chosen && (entry.detail || entry.places.length > 0) && (
                <details>
                  <summary>Places</summary>
                  {entry.places.slice(0, 5).map((place) => (
                    <code key={place}>{place}</code>
                  ))}
                  {entry.detail && <p>{entry.detail}</p>}
                </details>
              )}
            </li>
          ))}
        </ol>
      )}
      {pair.differences.length > 0 && <Actions bench={bench} row={row} busy={busy} />}
      {pair.passed && pair.left.length > 0 && (
        <details className="told">
          <summary>Left out of the walk</summary>
          <ul>
            {pair.left.map((text) => (
              <li key={text}>{text}</li>
            ))}
          </ul>
        </details>
      )}
      <PairPictures
        key={difference?.key ?? ""}
        bench={bench}
        pair={pair}
        difference={difference}
        blink={blink}
        busy={busy}
        withChange={outcome !== undefined}
      />
    </section>
  );
}

/** Override check, try it again, let the difference be with a word why, or keep the file as it is from now on. */
function Actions({ bench, row, busy }: { bench: Bench; row: CheckRow; busy: boolean }) {
  const tryOut = useTry(bench.id);
  const { pair, outcome, target } = row;
  const wanted = bench.plan?.changes.find((change) => change.id === outcome?.change && change.on);
  const again = wanted ? [wanted.id] : [];
  const act = (commands: Command[], anew: string[]) => tryOut.mutate({ commands, again: anew });
  const files = target ? [target] : outcome ? outcome.targets : [];
  const keep = bench.plan?.keep;
  return (
    <div className="row pad evidence-actions">
      {wanted && !wanted.insist && (
        <>
          <Button
            size="small"
            disabled={busy}
            onClick={() => act([{ do: "switch", ids: [wanted.id], on: true, insist: true }], [])}
          >
            Override check
          </Button>
          <Button size="small" disabled={busy} onClick={() => act([], again)}>
            Check again
          </Button>
        </>
      )}
      <WithWord
        label="Accept difference"
        hint="Reason for accepting"
        disabled={busy}
        onSay={(why) =>
          act(
            pair.differences.map(({ key, text }) => ({
              do: "accept",
              page: pair.page,
              device: "",
              key,
              text,
              why,
              off: false,
            })),
            again,
          )
        }
      />
      {keep && files.length > 0 && (
        <WithWord
          label={
            files.length === 1 ? "Put this file on the keep list" : `Put these ${files.length} files on the keep list`
          }
          hint="Reason for keeping"
          disabled={busy}
          onSay={(why) => act([keepFiles(keep, files, why)], [])}
        />
      )}
    </div>
  );
}
