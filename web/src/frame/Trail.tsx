import { Link } from "react-router";
import type { Bench } from "../api/client";
import { count, kB } from "../ui/format";
import { counts, heldOf, outcomesOf, type Stage, STAGE_LABELS, STAGES, standing } from "../model/state";

/** The five stages with their state. */
export function Trail({ bench, stage, query }: { bench: Bench; stage: Stage; query: string }) {
  const states = statesOf(bench);
  return (
    <nav aria-label="Stages">
      <ol className="trail">
        {STAGES.map((name) => (
          <li key={name} className={name === stage ? "on" : ""}>
            <Link
              to={{ pathname: `/sites/${bench.id}/${name}`, search: query }}
              aria-current={name === stage ? "page" : undefined}
            >
              {STAGE_LABELS[name]}
              {states[name] && <small>{states[name]}</small>}
            </Link>
          </li>
        ))}
      </ol>
    </nav>
  );
}

function statesOf(bench: Bench): Record<Stage, string> {
  const outcomes = outcomesOf(bench);
  const on = (bench.plan?.changes ?? []).filter((change) => counts(standing(change, outcomes.get(change.id)))).length;
  const checks = bench.run?.checks;
  return {
    weigh: heldOf(bench.weigh_ins).length ? count(heldOf(bench.weigh_ins).length) : "",
    sort: bench.excess.length ? count(bench.excess.length) : "",
    lighten: on ? `${count(on)} on` : "",
    check: checks
      ? checks.passed === checks.pairs
        ? "no difference"
        : `${count(checks.pairs - checks.passed)} differ`
      : "",
    "hand-over": bench.run ? kB(bench.run.archive_bytes) : "",
  };
}
