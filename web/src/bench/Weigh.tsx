import { Button, Input, type InputRef, Segmented, Table } from "antd";
import { useRef, useState } from "react";
import type { WeighIn } from "../api/client";
import { useRequests } from "../api/hooks";
import { useKeys } from "../frame/keys";
import { count, kB, seconds } from "../ui/format";
import { COLOURS, isKind, LABELS } from "../ui/kinds";
import { Notices, type PartProps } from "./BenchPage";
import { weighInOf } from "./state";

type Side = "As found" | "Now";
type Row = NonNullable<ReturnType<typeof useRequests>["data"]>["found"][number];

/** How heavy every page is, and every request of the one that is chosen. */
export default function Weigh({ bench, view, work, busy }: PartProps) {
  const [side, setSide] = useState<Side>("As found");
  const [filter, setFilter] = useState("");
  const box = useRef<InputRef>(null);
  useKeys({ "/": (down) => { if (down) box.current?.focus(); } });
  const requests = useRequests(bench.id, view.page, view.device, `${bench.taken ?? ""} ${bench.result?.taken ?? ""}`);
  const all = (side === "Now" ? requests.data?.now : requests.data?.found) ?? [];
  const rows = all.filter((row) => (!view.kind || row.kind === view.kind) && row.url.toLowerCase().includes(filter.toLowerCase()));
  const chosen = weighInOf(side === "Now" ? bench.result?.weigh_ins : bench.weigh_ins, view);
  return (
    <main className="weigh">
      <section>
        <div className="head">
          <h1>Every page, every device</h1>
          {bench.pages_left_out > 0 && <span className="soft">{bench.pages_left_out} more pages were not weighed</span>}
          <Button size="small" className="end" disabled={busy} onClick={() => work.weigh.mutate()}>Weigh again</Button>
        </div>
        <table className="weigh-ins">
          <thead><tr><th>Page</th><th>Device</th><th className="n">As found</th><th className="n">Now</th><th className="n">Requests</th><th className="n">Unpacked</th><th className="n">Content ready</th><th className="n">Loaded</th><th className="n">Missing</th></tr></thead>
          <tbody>
            {bench.weigh_ins.map((before) => (
              <WeighInRow key={before.page + before.device} before={before} after={weighInOf(bench.result?.weigh_ins, before)} selected={before.page === view.page && before.device === view.device} onChoose={() => view.set({ page: before.page, device: before.device })} />
            ))}
          </tbody>
        </table>
        <Trouble weighIn={chosen} />
        <Notices bench={bench} />
      </section>
      <section>
        <div className="head">
          <h1>Requests of {view.page}</h1>
          {bench.result && <Segmented<Side> size="small" options={["As found", "Now"]} value={side} onChange={setSide} />}
          <Input ref={box} className="end filter" size="small" allowClear placeholder="Filter by address" aria-label="Filter by address" value={filter} onChange={(event) => setFilter(event.target.value)} />
        </div>
        <Table<Row>
          size="small"
          rowKey={(row) => `${row.url} ${row.started}`}
          loading={requests.isLoading}
          dataSource={rows}
          virtual
          scroll={{ y: 420, x: 860 }}
          pagination={false}
          locale={{ emptyText: all.length ? "No request fits the filter." : "Nothing was asked for." }}
          columns={[
            { title: "Kind", width: 110, render: (_, row) => <span className="kind"><i style={{ background: isKind(row.kind) ? COLOURS[row.kind] : undefined }} />{isKind(row.kind) ? LABELS[row.kind] : row.kind}</span> },
            { title: "Address", ellipsis: true, render: (_, row) => <span title={row.url}>{row.url.replace("https://site.example", "")}{row.missing && <em className="missing"> missing</em>}</span> },
            { title: "Transferred", width: 120, align: "right", defaultSortOrder: "descend", sorter: (a, b) => a.transferred - b.transferred, render: (_, row) => kB(row.transferred) },
            { title: "Unpacked", width: 110, align: "right", sorter: (a, b) => a.decoded - b.decoded, render: (_, row) => kB(row.decoded) },
            { title: "Begins", width: 90, align: "right", sorter: (a, b) => a.started - b.started, render: (_, row) => `${count(row.started)} ms` },
            { title: "Takes", width: 90, align: "right", sorter: (a, b) => a.ended - a.started - b.ended + b.started, render: (_, row) => `${count(Math.max(0, row.ended - row.started))} ms` },
          ]}
        />
      </section>
    </main>
  );
}

function WeighInRow({ before, after, selected, onChoose }: { before: WeighIn; after: WeighIn | undefined; selected: boolean; onChoose: () => void }) {
  const now = after ?? before;
  return (
    <tr className={selected ? "sel" : ""}>
      <td><button type="button" className="plain" aria-pressed={selected} onClick={onChoose}>{before.page}</button></td>
      <td>{before.device}</td>
      <td className="n">{kB(before.transferred)}</td>
      <td className="n">{after ? kB(after.transferred) : ""}</td>
      <td className="n">{after ? `${count(before.requests)}, now ${count(after.requests)}` : count(before.requests)}</td>
      <td className="n">{kB(now.decoded)}</td>
      <td className="n">{seconds(now.content_ready_ms)}</td>
      <td className="n">{seconds(now.load_ms)}</td>
      <td className="n">{now.missing.length || ""}</td>
    </tr>
  );
}

function Trouble({ weighIn }: { weighIn: WeighIn | undefined }) {
  if (!weighIn || weighIn.missing.length + weighIn.errors.length === 0) return null;
  return (
    <details className="notices" open>
      <summary>{weighIn.missing.length} missing files and {weighIn.errors.length} errors on this page</summary>
      <ul>
        {weighIn.missing.map((url) => <li key={url}>missing: {url}</li>)}
        {weighIn.errors.map((text, i) => <li key={i}>{text}</li>)}
      </ul>
    </details>
  );
}
