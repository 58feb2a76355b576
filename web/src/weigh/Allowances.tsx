import { Button, Input, InputNumber, Select, Upload } from "antd";
import { useState } from "react";
import { type Allowance, type Limit, sendFile } from "../api/client";
import { useAllowance, useSetAllowance } from "../api/showing";
import type { PartProps } from "../workspace/part";
import { count, counted, kB } from "../ui/format";
import { KINDS, LABELS } from "../ui/kinds";
import { Waiting } from "../ui/Waiting";
import { Term } from "../ui/Term";
import { More } from "../ui/more";

type Kept = Allowance["kept"][number];
const MEASURES: Record<Limit["measure"], string> = {
  bytes: "bytes",
  requests: "requests",
  seconds: "modelled seconds",
  "picture width": "width of images, px",
  "background width": "width of backgrounds, px",
  "font families": "font families",
  "third parties": "hosts of third parties",
  "missing files": "missing files",
  growth: "growth since the baseline, %",
};
const BY_REQUEST = ["bytes", "requests"];

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
      {over.length > 0 && (
        <table className="ledger">
          <thead>
            <tr>
              <th>Page</th>
              <th>Limit</th>
              <th className="n">As found</th>
              <th className="n">Now</th>
              <th className="n">At most</th>
              <th>Loaded by</th>
            </tr>
          </thead>
          <tbody>
            <More rows={over}>
              {(shown, more) => (
                <>
                  {shown.map((row) => (
                    <Broken key={`${row.limit} ${row.page} ${row.device}`} row={row} data={allowance.data} />
                  ))}
                  {more && (
                    <tr>
                      <td colSpan={6}>{more}</td>
                    </tr>
                  )}
                </>
              )}
            </More>
          </tbody>
        </table>
      )}
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
          {rows.map((row, at) => {
            const here = draft ? [] : kept.filter((one) => one.limit === at).map((one) => one.now ?? one.found);
            const worst = Math.max(...here);
            return (
              <tr key={at}>
                <td>
                  <Select
                    size="small"
                    aria-label={`Measure of limit ${at + 1}`}
                    disabled={at === 0}
                    value={row.measure}
                    onChange={(measure) =>
                      edit(at, {
                        measure,
                        ...(BY_REQUEST.includes(measure) ? {} : { kind: "", bringer: "", host: "" }),
                      })
                    }
                    options={Object.entries(MEASURES).map(([value, label]) => ({ value, label }))}
                  />
                </td>
                <td className="n">
                  <InputNumber
                    size="small"
                    aria-label={`Limit ${at + 1}: ${labels[at] ?? row.measure}`}
                    min={0}
                    value={row.most}
                    onChange={(most) => edit(at, { most: most ?? 0 })}
                  />
                </td>
                <td>
                  <Select
                    size="small"
                    aria-label={`File type of limit ${at + 1}`}
                    disabled={at === 0 || !BY_REQUEST.includes(row.measure)}
                    value={row.kind}
                    onChange={(kind) => edit(at, { kind })}
                    options={[
                      { value: "", label: "all" },
                      ...KINDS.map((kind) => ({ value: kind, label: LABELS[kind] })),
                    ]}
                  />
                </td>
                <td>
                  <Select
                    size="small"
                    aria-label={`Device of limit ${at + 1}`}
                    disabled={at === 0}
                    value={row.device}
                    onChange={(device) => edit(at, { device })}
                    options={[
                      { value: "", label: "all" },
                      ...bench.words.devices.map(({ name }) => ({ value: name, label: name })),
                    ]}
                  />
                </td>
                <td>
                  <Input
                    size="small"
                    aria-label={`Pages of limit ${at + 1}`}
                    disabled={at === 0}
                    placeholder="all, or a pattern such as /blog/*"
                    value={row.pages?.join(" ") ?? ""}
                    onChange={(event) => edit(at, { pages: event.target.value.split(" ").filter(Boolean) })}
                  />
                </td>
                <td className={worst > row.most ? "over" : ""}>
                  {here.length > 0 ? figure(worst, units[at] ?? "") : draft ? "" : "no weigh-in"}
                </td>
                <td>
                  {at > 0 && (
                    <Button
                      size="small"
                      type="link"
                      aria-label={`Remove limit ${at + 1}`}
                      onClick={() => setDraft(rows.filter((_, i) => i !== at))}
                    >
                      Remove
                    </Button>
                  )}
                </td>
              </tr>
            );
          })}
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

function Broken({ row, data }: { row: Kept; data: Allowance }) {
  const unit = data.units[row.limit] ?? "";
  const most = data.limits[row.limit]?.most ?? 0;
  return (
    <tr>
      <td>
        {row.page} <small className="soft">{row.device}</small>
      </td>
      <td>{data.labels[row.limit]}</td>
      <td className="n">{figure(row.found, unit)}</td>
      <td className="n over">{row.now === null ? "" : figure(row.now, unit)}</td>
      <td className="n">{figure(most, unit)}</td>
      <td>
        {row.culprits.slice(0, 3).map((culprit) => (
          <div key={culprit.name}>
            {culprit.name}{" "}
            <small className="soft">
              {figure(culprit.amount, unit)} {culprit.bringer}
            </small>
          </div>
        ))}
      </td>
    </tr>
  );
}

function figure(value: number, unit: string): string {
  if (unit === "bytes") return kB(value);
  return `${value % 1 ? value.toFixed(1) : count(value)} ${unit === "families" || unit === "hosts" || unit === "files" || unit === "requests" ? "" : unit}`.trim();
}
