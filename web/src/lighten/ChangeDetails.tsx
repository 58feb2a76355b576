import { Link } from "react-router";
import type { Bench, Change, LedgerLine, Outcome } from "../api/client";
import { useEdit } from "../api/plan";
import { fileName, kB, namely, requests } from "../ui/format";
import { rowsOf } from "../model/checkRows";
import { keepFiles } from "../model/keeping";
import { SettingsForm } from "./SettingsForm";
import { TrimmedRules } from "./TrimmedRules";
import { WithWord } from "../ui/WithWord";

const MOST_TARGETS = 40;

interface Props {
  bench: Bench;
  change: Change;
  outcome: Outcome | undefined;
  busy: boolean;
  query: string;
}

/** A change opened: each file with how it stands, what it brought on each page and device, and what it stands on. */
export function ChangeDetails({ bench, change, outcome, busy, query }: Props) {
  const edit = useEdit(bench.id);
  const keep = bench.plan?.keep;
  const aside = new Map(
    (outcome?.parts ?? []).map((part) => [
      part.target,
      part.pieces.length > 0 ? `all except what the check found in use: ${namely(part.pieces)}` : "set aside",
    ]),
  );
  const why = bench.excess.filter((excess) => excess.changes.includes(change.id));
  const seen = bench.run ? rowsOf(bench.run).filter((row) => row.outcome?.change === change.id) : [];
  const targets = change.targets.slice(0, MOST_TARGETS);
  return (
    <div className="details">
      <section>
        <h3>Findings behind it</h3>
        {why.map((excess) => (
          <p key={excess.id}>
            {excess.title}. <span className="soft">{excess.why}</span>
          </p>
        ))}
        {why.length === 0 && <p className="soft">No finding under Sort led to this change.</p>}
        {seen.map((row) => (
          <p key={row.key}>
            {row.reason}{" "}
            <Link to={{ pathname: `/sites/${bench.id}/check`, search: `?${withRow(query, row.key)}` }}>
              Show the difference
            </Link>
          </p>
        ))}
      </section>
      <section>
        <h3>Files</h3>
        <ul className="targets">
          {targets.map((target) => (
            <li key={target}>
              <code title={target}>{fileName(target)}</code>
              {aside.has(target) && <small className="soft"> {aside.get(target)}</small>}
              {keep && target.startsWith("/") && (
                <WithWord
                  label="Keep this file"
                  hint="Reason for keeping"
                  disabled={busy || keep.files.includes(target)}
                  onSay={(word) => edit.mutate([keepFiles(keep, [target], word)])}
                />
              )}
            </li>
          ))}
          {change.targets.length > MOST_TARGETS && (
            <li className="soft">and {change.targets.length - MOST_TARGETS} more</li>
          )}
        </ul>
      </section>
      <section>
        <h3>Savings</h3>
        <ByPage
          bench={bench}
          aside={outcome?.standing === "set aside"}
          lines={(bench.run?.lines ?? []).filter((line) => line.change === change.id)}
        />
      </section>
      {Object.keys(change.settings).length > 0 && (
        <section>
          <h3>Settings</h3>
          <SettingsForm key={JSON.stringify(change.settings)} bench={bench} change={change} busy={busy} />
        </section>
      )}
      {change.remedy === "trim-styles" && <TrimmedRules bench={bench} change={change} busy={busy} />}
    </div>
  );
}

function withRow(query: string, key: string): string {
  const search = new URLSearchParams(query);
  search.set("row", key);
  return search.toString();
}

/** Pages by devices, each with bytes and requests; what all of it comes to stands in the change's own row. */
function ByPage({ bench, lines, aside }: { bench: Bench; lines: LedgerLine[]; aside: boolean }) {
  if (lines.length === 0) {
    return (
      <p className="soft">
        {aside ? "None: the check set this change aside." : "No run has measured this change yet."}
      </p>
    );
  }
  // In the order in which the core names them, windows of one's own last.
  const order = bench.words.devices.map(({ name }) => name);
  const rank = (device: string) => (order.includes(device) ? order.indexOf(device) : order.length);
  const devices = [...new Set(lines.map(({ device }) => device))].sort((a, b) => rank(a) - rank(b));
  const pages = [...new Set(lines.map(({ page }) => page))];
  return (
    <table className="by-page">
      <thead>
        <tr>
          <th>Page</th>
          {devices.map((device) => (
            <th key={device}>{device}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {pages.map((page) => (
          <tr key={page}>
            <td title={page}>{page}</td>
            {devices.map((device) => {
              const line = lines.find((entry) => entry.page === page && entry.device === device);
              return (
                <td key={device}>
                  {line && kB(line.bytes)}
                  {line && line.requests !== 0 && `, ${requests(line.requests)}`}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
