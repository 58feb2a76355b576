import { Button, Upload } from "antd";
import { useState } from "react";
import { type Limit, sendFile } from "../api/client";
import { useAllowance, useSetAllowance } from "../api/showing";
import type { PartProps } from "../model/part";
import { counted } from "../ui/format";
import { Waiting } from "../ui/Waiting";
import { Term } from "../ui/Term";
import { ExceededTable } from "./ExceededTable";
import { LimitRow } from "./LimitRow";

/** What pages may weigh, and where that is broken and by whom. */
export default function Allowances({ bench, busy }: PartProps) {
  const allowance = useAllowance(bench.id, `${bench.taken} ${bench.run?.id ?? ""}`);
  const set = useSetAllowance(bench.id);
  const [draft, setDraft] = useState<Limit[] | null>(null);
  const [refused, setRefused] = useState("");
  if (!allowance.data) return <Waiting />;
  const { limits, labels, units, kept, notes, usual } = allowance.data;
  const rows = draft ?? limits;
  const over = kept.filter((row) => (row.now ?? row.found) > (limits[row.limit]?.most ?? Infinity));
  const within = kept.length - over.length;
  const same = (a: Limit, b: Limit) => a.measure === b.measure && a.device === b.device && a.kind === b.kind;
  const missing = usual.filter((one) => !rows.some((row) => same(row, one)));
  const edit = (at: number, more: Partial<Limit>) =>
    setDraft(rows.map((row, i) => (i === at ? { ...row, ...more } : row)));
  return (
    <section className="allowances">
      <div className="head">
        <h1>
          <Term of="Allowance">Limits for pages</Term>
        </h1>
        <span className="soft">
          {over.length === 0
            ? `${counted(kept.length, "limit")} met`
            : `${counted(over.length, "limit")} exceeded, ${within} met`}
          {bench.run ? ", now" : ", as found"}
        </span>
      </div>
      {over.length > 0 && <ExceededTable rows={over} data={allowance.data} />}
      <div className="head">
        <h1>Limits</h1>
        <span className="soft">The first limit is the peg on the beam</span>
        <Button size="small" className="end" href={`/api/sites/${bench.id}/allowance/document`}>
          Download limits for the gate (JSON)
        </Button>
        <Upload
          accept=".json"
          showUploadList={false}
          beforeUpload={(file) => {
            setRefused("");
            sendFile(`/api/sites/${bench.id}/allowance/document`, "document", file, {})
              .then(() => allowance.refetch())
              .catch((error: unknown) => setRefused(error instanceof Error ? error.message : ""));
            return false;
          }}
        >
          <Button size="small">Load from file</Button>
        </Upload>
      </div>
      {refused && (
        <p role="alert" className="pad">
          {refused}
        </p>
      )}
      <table className="ledger">
        <thead>
          <tr>
            <th>Measure</th>
            <th className="n">At most</th>
            <th>File type</th>
            <th>Device</th>
            <th>Pages</th>
            <th>Highest now</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {rows.map((row, at) => (
            <LimitRow
              key={at}
              limit={row}
              at={at}
              label={labels[at]}
              unit={units[at] ?? ""}
              figures={draft ? null : kept.filter((one) => one.limit === at).map((one) => one.now ?? one.found)}
              devices={bench.words.devices.map(({ name }) => name)}
              onEdit={(more) => edit(at, more)}
              onRemove={() => setDraft(rows.filter((_, i) => i !== at))}
            />
          ))}
        </tbody>
      </table>
      <p className="pad row">
        <Button
          size="small"
          onClick={() =>
            setDraft([
              ...rows,
              { ...(limits[0] as Limit), measure: "bytes", most: 300_000, kind: "images", device: "phone", pages: [] },
            ])
          }
        >
          Add a limit
        </Button>
        {missing.length > 0 && (
          <Button size="small" onClick={() => setDraft([...rows, ...missing])}>
            Add usual limits
          </Button>
        )}
        <Button
          size="small"
          type="primary"
          disabled={busy || !draft}
          loading={set.isPending}
          onClick={() => set.mutate(rows, { onSuccess: () => setDraft(null) })}
        >
          Save limits
        </Button>
        {draft && (
          <Button size="small" type="link" onClick={() => setDraft(null)}>
            Discard edits
          </Button>
        )}
      </p>
      {notes.length > 0 && (
        <ul className="pad soft">
          {notes.map((note) => (
            <li key={note}>{note}</li>
          ))}
        </ul>
      )}
    </section>
  );
}
