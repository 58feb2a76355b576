import { Button, Segmented } from "antd";
import { useState } from "react";
import type { Bench, Result } from "../api/client";
import { count, kB, moment } from "../ui/format";
import { COLOURS, type Kind, KINDS, LABELS } from "../ui/kinds";
import type { PartProps } from "./BenchPage";
import { heldOf } from "./state";
import { Nothing } from "../ui/Nothing";

type By = "Change" | "Remedy" | "Kind" | "Page and device";

/** The ledger and what is taken away. */
export default function HandOver({ bench }: PartProps) {
  const [by, setBy] = useState<By>("Change");
  const result = bench.result;
  if (!result) return <main className="narrow"><Nothing>There is nothing to hand over yet. Try something under Sort.</Nothing></main>;
  return (
    <main className="hand-over">
      <section>
        <div className="head">
          <h1>The ledger</h1>
          <Segmented<By> options={["Change", "Remedy", "Kind", "Page and device"]} value={by} onChange={setBy} />
        </div>
        <Ledger bench={{ ...bench, weigh_ins: heldOf(bench.weigh_ins) }} result={{ ...result, weigh_ins: heldOf(result.weigh_ins) }} by={by} />
      </section>
      <aside className="facts">
        <h2>To take away</h2>
        <p>The site's own files, lighter. Files that no change touched are the same to the byte; the originals of pictures that have smaller stand-ins stay in it.</p>
        <p><Button type="primary" href={`/api/sites/${bench.id}/lighter.zip`} block>Download the lighter ZIP, {kB(result.archive_bytes)}</Button></p>
        {result.changed.length > 0 && (
          <>
            <p><Button href={`/api/sites/${bench.id}/changed.zip`} block>Only what differs, {kB(result.changed_bytes)}</Button></p>
            <details className="notices">
              <summary>{result.changed.length === 1 ? "1 file" : `${count(result.changed.length)} files`} to put in by hand</summary>
              <ul>{result.changed.slice(0, 200).map((row) => <li key={row.path}><b>{row.path}</b> {row.what}{row.pages.length > 0 && <>; on {row.pages.slice(0, 3).join(", ")}{row.pages.length > 3 && ` and ${row.pages.length - 3} more`}</>}: {row.before ? `${kB(row.before)} to ` : ""}{kB(row.after)}</li>)}</ul>
              {result.changed.length > 200 && <p>The whole list lies in the ZIP file as CSV.</p>}
            </details>
          </>
        )}
        <p><Button href={`/api/sites/${bench.id}/ledger.json`} block>Ledger as JSON</Button></p>
        <p><Button href={`/api/sites/${bench.id}/plan`} block>Plan as JSON</Button></p>
        <dl>
          <dt>Effort</dt><dd>{result.effort}</dd>
          <dt>Checked</dt><dd>{result.checks.passed} of {result.checks.pairs} same</dd>
          <dt>Set aside</dt><dd>{result.checks.set_aside}</dd>
          <dt>Weighed</dt><dd>{moment(result.taken)}</dd>
        </dl>
        {bench.plan_differs && <p className="standing">The plan has been changed since; carry it out under Lighten to renew this.</p>}
        {result.notices.length > 0 && (
          <details className="notices">
            <summary>{result.notices.length} left alone</summary>
            <ul>{result.notices.map((notice) => <li key={notice.name + notice.reason}><b>{notice.name}</b> {notice.reason}</li>)}</ul>
          </details>
        )}
      </aside>
    </main>
  );
}

interface Row {
  name: string;
  note: string;
  bytes: number;
  requests: number;
  colour?: string;
}

function Ledger({ bench, result, by }: { bench: Bench; result: Result; by: By }) {
  const before = totals(bench.weigh_ins);
  const after = totals(result.weigh_ins);
  const rows = { Change: byChange, Remedy: byRemedy, Kind: byKind, "Page and device": byPage }[by](bench, result);
  const sum = rows.reduce((total, row) => ({ bytes: total.bytes + row.bytes, requests: total.requests + row.requests }), { bytes: 0, requests: 0 });
  return (
    <table className="ledger">
      <caption className="unseen">What was saved, by {by.toLowerCase()}</caption>
      <thead><tr><th>{by}</th><th className="n">Bytes saved</th><th className="n">Requests saved</th></tr></thead>
      <tbody>
        <tr className="total"><td>As found <small>over {bench.weigh_ins.length} weigh-ins: every page, every device, first visit</small></td><td className="n">{count(before.bytes)}</td><td className="n">{count(before.requests)}</td></tr>
        {rows.map((row) => (
          <tr key={row.name}>
            <td>{row.colour && <i style={{ background: row.colour }} />}{row.name} <small>{row.note}</small></td>
            <td className="n">{count(row.bytes)}</td>
            <td className="n">{row.requests ? count(row.requests) : ""}</td>
          </tr>
        ))}
        {(by === "Change" || by === "Remedy") && (
          <tr className="unexplained"><td>Unexplained <small>what no change accounts for</small></td><td className="n">{count(result.unexplained.bytes)}</td><td className="n">{count(result.unexplained.requests)}</td></tr>
        )}
        <tr className="total"><td>Saved in all</td><td className="n" data-testid="ledger-saved">{count(sum.bytes + (by === "Change" || by === "Remedy" ? result.unexplained.bytes : 0))}</td><td className="n">{count(sum.requests + (by === "Change" || by === "Remedy" ? result.unexplained.requests : 0))}</td></tr>
        <tr className="total"><td>Now</td><td className="n" data-testid="ledger-now">{count(after.bytes)}</td><td className="n">{count(after.requests)}</td></tr>
      </tbody>
    </table>
  );
}

function totals(list: { transferred: number; requests: number }[]) {
  return { bytes: list.reduce((sum, w) => sum + w.transferred, 0), requests: list.reduce((sum, w) => sum + w.requests, 0) };
}

const REMEDIES: Record<string, string> = {
  embed: "embedded when wanted",
  hold: "held until wanted",
  late: "background when near",
  endless: "as a film",
  film: "lighter film",
  wait: "film when wanted",
  poster: "no film on phones",
  priority: "comes first",
  merge: "one file for all",
  exact: "packed better",
  svg: "drawn with less text",
  shrink: "shrunk to shown",
  recompress: "same format, less quality",
  webp: "as WebP",
  avif: "as AVIF",
  widths: "in several sizes",
  phone: "narrower on phones",
  inline: "written into the page",
  lazy: "loaded when wanted",
  reserve: "space reserved",
};

function byRemedy(_bench: Bench, result: Result): Row[] {
  return Object.entries(result.remedies).map(([remedy, saved]) => ({ name: REMEDIES[remedy] ?? remedy, note: "", ...saved })).sort((a, b) => b.bytes - a.bytes);
}

function byChange(bench: Bench, result: Result): Row[] {
  const changes = new Map(bench.changes.map((change) => [change.id, change]));
  const sums = new Map<string, { bytes: number; requests: number }>();
  for (const line of result.lines) {
    const sum = sums.get(line.change) ?? { bytes: 0, requests: 0 };
    sums.set(line.change, { bytes: sum.bytes + line.bytes, requests: sum.requests + line.requests });
  }
  return [...sums]
    .map(([id, sum]) => {
      const change = changes.get(id);
      const target = id.slice(id.indexOf(":") + 1);
      return { name: target, note: REMEDIES[change?.remedy ?? id.slice(0, id.indexOf(":"))] ?? "", ...sum };
    })
    .map((row) => ({ ...row, name: row.name, note: row.note }))
    .sort((a, b) => b.bytes - a.bytes);
}

function byKind(bench: Bench, result: Result): Row[] {
  const sum = (list: Bench["weigh_ins"], kind: Kind, field: "transferred" | "requests") => list.reduce((total, w) => total + (w.kinds[kind]?.[field] ?? 0), 0);
  return KINDS.map((kind) => ({
    name: LABELS[kind],
    note: "",
    colour: COLOURS[kind],
    bytes: sum(bench.weigh_ins, kind, "transferred") - sum(result.weigh_ins, kind, "transferred"),
    requests: sum(bench.weigh_ins, kind, "requests") - sum(result.weigh_ins, kind, "requests"),
  })).filter((row) => row.bytes !== 0 || row.requests !== 0);
}

function byPage(bench: Bench, result: Result): Row[] {
  return bench.weigh_ins.map((before) => {
    const after = result.weigh_ins.find((w) => w.page === before.page && w.device === before.device) ?? before;
    return {
      name: `${before.page}, ${before.device}`,
      note: `${kB(before.transferred)} to ${kB(after.transferred)}`,
      bytes: before.transferred - after.transferred,
      requests: before.requests - after.requests,
    };
  });
}
