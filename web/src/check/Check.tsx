import { counted } from "../ui/format";
import { Select } from "antd";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { isActive } from "../api/cache";
import type { Bench, Difference, Pair, Run } from "../api/client";
import { useKeys } from "../frame/keys";
import { Nothing } from "../ui/Nothing";
import { type CheckRow, rowsOf } from "../model/checkRows";
import { Evidence } from "./Evidence";
import { changeName, kindName } from "../model/names";
import type { PartProps } from "../model/part";
import { ProofTable } from "./Proofs";
import { Term } from "../ui/Term";
import { Lead } from "../frame/Lead";
import { More } from "../ui/more";

const distinct = (values: string[]) => [...new Set(values)].sort();

/** What differs first, with the change to blame; then what was the same. */
export default function Check({ bench, busy }: PartProps) {
  const [search] = useSearchParams();
  const [chosen, setChosen] = useState(search.get("row") ?? "");
  const [blink, setBlink] = useState(false);
  const [wanted, setWanted] = useState({ page: "", device: "", what: "", step: "", change: "" });
  const { run } = bench;
  const all = run ? rowsOf(run) : [];
  const rows = all.filter(
    ({ pair, outcome }) =>
      (!wanted.page || pair.page === wanted.page) &&
      (!wanted.device || pair.device === wanted.device) &&
      (!wanted.what || pair.differences.some((difference) => difference.what === wanted.what)) &&
      (!wanted.step || pair.differences.some((difference) => momentOf(difference) === wanted.step)) &&
      (!wanted.change || nameOf(bench, outcome) === wanted.change),
  );
  const at = Math.max(
    0,
    rows.findIndex(({ key }) => key === chosen),
  );
  const go = (step: number) => {
    const next = rows[Math.max(0, Math.min(rows.length - 1, at + step))];
    if (next) setChosen(next.key);
  };
  useKeys({
    n: (down) => {
      if (down) go(1);
    },
    p: (down) => {
      if (down) go(-1);
    },
    b: setBlink,
  });
  if (bench.job?.proofs.length && (isActive(bench.job) || !run)) {
    return (
      <main className="narrow">
        <h1>
          Is it <Term of="Check">still the same page?</Term>
        </h1>
        <p className="soft">Each page appears here once it is checked.</p>
        <ProofTable job={bench.job} />
      </main>
    );
  }
  if (!run) {
    return (
      <main className="narrow">
        <Nothing>
          No run yet, so nothing to compare. <Lead to="sort">Open the findings</Lead> and turn changes on.
        </Nothing>
      </main>
    );
  }
  const row = rows[at];
  const filters = [
    { name: "page" as const, label: "Page", every: "All pages", values: all.map(({ pair }) => pair.page) },
    { name: "device" as const, label: "Device", every: "All devices", values: all.map(({ pair }) => pair.device) },
    {
      name: "what" as const,
      label: "Type of difference",
      every: "All types",
      values: all.flatMap(({ pair }) => pair.differences.map((difference) => difference.what)),
    },
    {
      name: "step" as const,
      label: "Moment",
      every: "At any moment",
      values: all.flatMap(({ pair }) => pair.differences.map(momentOf)),
    },
    {
      name: "change" as const,
      label: "Culprit",
      every: "All changes",
      values: all.map(({ outcome }) => nameOf(bench, outcome)).filter(Boolean),
    },
  ];
  return (
    <main className="check">
      <section className="list">
        <div className="head">
          <h1>
            Is it <Term of="Check">still the same page?</Term>
          </h1>
        </div>
        <p className="soft pad">{summary(run, bench)}</p>
        <div className="row pad filters">
          {filters.map(({ name, label, every, values }) => (
            <Select
              key={name}
              size="small"
              aria-label={label}
              popupMatchSelectWidth={false}
              value={wanted[name]}
              onChange={(value) => setWanted({ ...wanted, [name]: value })}
              options={[
                { value: "", label: every },
                ...distinct(values).map((value) => ({
                  value,
                  label: name === "what" ? kindName(bench.words, value) : value,
                })),
              ]}
            />
          ))}
        </div>
        <ul className="pairs">
          <More rows={rows} at={at}>
            {(shown, more) => (
              <>
                {shown.map(({ key, pair, outcome, target, reason }, i) => (
                  <li key={key}>
                    <button
                      type="button"
                      className={i === at ? "sel" : ""}
                      aria-pressed={i === at}
                      onClick={() => setChosen(key)}
                    >
                      {outcome ? (
                        <>
                          <b className="words">
                            {reason?.replace(`${pair.page} on ${pair.device}: `, "") ?? pair.differences[0]?.text}
                          </b>
                          <small>
                            {pair.page}, {pair.device}: {changeName(bench.words, outcome)}
                            {target && outcome.targets.length > 1 ? ` (${target})` : ""}, set aside
                            {outcome.open ? " until the check has looked closer" : ""}
                          </small>
                        </>
                      ) : (
                        <>
                          <b>{pair.page}</b>
                          <small>
                            {pair.device}: {stateOf(pair)}
                          </small>
                        </>
                      )}
                    </button>
                  </li>
                ))}
                {more && <li className="pad">{more}</li>}
              </>
            )}
          </More>
          {rows.length === 0 && <li className="soft pad">No page checks match.</li>}
        </ul>
      </section>
      {row && <Evidence key={row.key} bench={bench} row={row} blink={blink} busy={busy} />}
    </main>
  );
}

/** When a difference shows: at rest, or after a step or in a state. */
const momentOf = ({ step }: Difference) => step || "at rest";

const nameOf = (bench: Bench, outcome: CheckRow["outcome"]) => (outcome ? changeName(bench.words, outcome) : "");

function stateOf(pair: Pair): string {
  if (pair.cannot) return "could not be compared";
  if (!pair.passed) return "differs";
  return pair.steps > 0 ? `no difference, at rest and in ${pair.steps} steps` : "no difference";
}

function summary(run: Run, bench: Bench): string {
  const { passed, pairs, set_aside: aside } = run.checks;
  const tolerance = bench.plan?.tolerance;
  const more = [
    aside > 0 && `Set aside, whole or in part: ${counted(aside, "change")}.`,
    tolerance && tolerance.accepted.length > 0 && `Accepted: ${counted(tolerance.accepted.length, "difference")}.`,
    tolerance && tolerance.masks.length > 0 && `Ignored: ${counted(tolerance.masks.length, "region")}.`,
  ].filter(Boolean);
  return [`${passed} of ${pairs} page checks found no difference.`, ...more].join(" ");
}
