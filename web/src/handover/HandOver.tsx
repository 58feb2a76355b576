import { Button, Segmented } from "antd";
import { useState } from "react";
import type { Bench, Run } from "../api/client";
import { useGoTo, useRuns, useTry } from "../api/plan";
import { count, kB, moment } from "../ui/format";
import { Nothing } from "../ui/Nothing";
import { Waiting } from "../ui/Waiting";
import { ByHand } from "./ByHand";
import { ReportForm } from "./ReportForm";
import { Since } from "./Since";
import { Reviews } from "./Reviews";
import { Ledger } from "./Ledger";
import type { PartProps } from "../model/part";
import { Term } from "../ui/Term";
import { Notices } from "../frame/Notices";
import { Lead } from "../frame/Lead";

const PARTS = {
  ledger: "Ledger",
  report: "Report",
  review: "Client's review",
  hand: "By hand",
  runs: "All runs",
};
type Name = keyof typeof PARTS;

/** The ledger, the report, the client's review, the history of runs, and what is taken away. */
export default function HandOver({ bench, view, busy }: PartProps) {
  const { run } = bench;
  if (!run) {
    return (
      <main className="narrow">
        <Nothing>
          No run yet, so nothing to hand over. <Lead to="sort">Open the findings</Lead> and turn changes on.
        </Nothing>
      </main>
    );
  }
  const name: Name = view.part in PARTS ? (view.part as Name) : "ledger";
  return (
    <main className="hand-over">
      <section>
        <div className="head parts">
          <Segmented<Name>
            value={name}
            onChange={(part) => view.set({ part })}
            options={Object.entries(PARTS).map(([value, label]) => ({ value: value as Name, label }))}
          />
        </div>
        {name === "ledger" && <Ledger bench={bench} run={run} />}
        {name === "report" && <ReportForm id={bench.id} />}
        {name === "review" && <Reviews id={bench.id} />}
        {name === "hand" && <ByHand bench={bench} view={view} busy={busy} />}
        {name === "runs" && <Runs bench={bench} busy={busy} />}
      </section>
      <TakeAway bench={bench} run={run} />
    </main>
  );
}

/** What was carried out before; each run keeps its proof, and its plan can be had back. */
function Runs({ bench, busy }: { bench: Bench; busy: boolean }) {
  const runs = useRuns(bench.id, bench.run?.id ?? "");
  const goTo = useGoTo(bench.id);
  const tryOut = useTry(bench.id);
  const [since, setSince] = useState("");
  if (!runs.data) return <Waiting />;
  return (
    <>
      <div className="head">
        <h1>
          All <Term of="Run">runs</Term>
        </h1>
        <span className="soft">Each run uses its own weigh-ins</span>
      </div>
      <table className="ledger runs">
        <thead>
          <tr>
            <th>Run</th>
            <th className="n">As found</th>
            <th className="n">After the run</th>
            <th className="n">Requests</th>
            <th className="n">Set aside</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {runs.data.map((row) => (
            <tr key={row.id}>
              <td>
                {moment(row.made)} <small>{row.name || (row.outdated ? "older copy of the site" : "")}</small>
              </td>
              <td className="n">{kB(row.before)}</td>
              <td className="n">{kB(row.after)}</td>
              <td className="n">
                {count(row.requests_before)}, then {count(row.requests_after)}
              </td>
              <td className="n">{row.set_aside || ""}</td>
              <td className="n">
                {row.shown ? (
                  <span className="soft">shown</span>
                ) : (
                  <>
                    <Button
                      size="small"
                      aria-pressed={since === row.id}
                      onClick={() => setSince(since === row.id ? "" : row.id)}
                    >
                      Changes since
                    </Button>{" "}
                    {!row.outdated && (
                      <Button
                        size="small"
                        disabled={busy}
                        onClick={() => goTo.mutate(row.version, { onSuccess: () => tryOut.mutate({ commands: [] }) })}
                      >
                        Show this run
                      </Button>
                    )}
                  </>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {since && <Since bench={bench} run={since} />}
    </>
  );
}

function TakeAway({ bench, run }: { bench: Bench; run: Run }) {
  const files = run.changed.length;
  return (
    <aside className="facts">
      <h2>Downloads</h2>
      <p>
        The site's files, lighter. Unchanged files are the same to the byte. Originals of replaced images stay in the
        archive.
      </p>
      <p>
        <Button type="primary" href={`/api/sites/${bench.id}/lighter.zip`} block>
          Download the lighter ZIP, {kB(run.archive_bytes)}
        </Button>
      </p>
      {files > 0 && (
        <>
          <p>
            <Button href={`/api/sites/${bench.id}/changed.zip`} block>
              Download changed files only, {kB(run.changed_bytes)}
            </Button>
          </p>
          <p>
            <Button href={`/api/sites/${bench.id}/patch.zip`} block>
              Download a diff with new files
            </Button>
          </p>
          <p>
            <Button href={`/api/sites/${bench.id}/originals.zip`} block>
              Download the originals
            </Button>
          </p>
        </>
      )}
      <p>
        <Button href={`/api/sites/${bench.id}/plan/document`} block>
          Download plan (JSON)
        </Button>
      </p>
      <dl>
        <dt>
          <Term of="Effort" />
        </dt>
        <dd>{run.effort}</dd>
        <dt>Checked</dt>
        <dd>
          {run.checks.passed} of {run.checks.pairs} without a difference
        </dd>
        <dt>
          <Term of="Set aside" />
        </dt>
        <dd>{run.checks.set_aside}</dd>
        <dt>Weighed</dt>
        <dd>{moment(run.made)}</dd>
      </dl>
      {bench.plan?.differs && (
        <p className="standing">The plan has changed since this run. Build it again under Lighten.</p>
      )}
      <Notices notices={run.notices} />
    </aside>
  );
}
