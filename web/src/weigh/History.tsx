import { Alert, Button, Checkbox, Input, Popconfirm } from "antd";
import { useState } from "react";
import type { Comparison, HistoryRow } from "../api/client";
import { useComparison, useDeleteWeighIn, useEditWeighIn, useHistory } from "../api/weighing";
import type { PartProps } from "../model/part";
import { deviceLabel } from "../model/devices";
import { count, kB, moment, seconds } from "../ui/format";
import { LABELS, KINDS } from "../ui/kinds";
import { Waiting } from "../ui/Waiting";
import { Watch } from "./Watch";

const SIDES: Record<HistoryRow["side"], string> = {
  found: "as found",
  now: "after a run",
  live: "the live site",
};

/** Weigh-ins of a page over time, any two of them side by side. */
export default function History({ bench, view }: PartProps) {
  const [all, setAll] = useState(false);
  const [pair, setPair] = useState<string[]>([]);
  const history = useHistory(bench.id, view.page);
  const edit = useEditWeighIn(bench.id);
  const remove = useDeleteWeighIn(bench.id);
  const rows = (history.data ?? []).filter(
    (row) => all || (row.device === view.device && row.visit === view.visit && row.link === view.link),
  );
  const [before, after] = (history.data ?? []).filter((row) => pair.includes(row.id));
  const comparison = useComparison(bench.id, before?.id, after?.id);
  function choose(id: string, on: boolean) {
    setPair(on ? [...pair.slice(-1), id] : pair.filter((key) => key !== id));
  }
  if (!history.data) return <Waiting />;
  return (
    <section>
      <div className="head">
        <h1>Weigh-ins of {view.page}</h1>
        <Checkbox checked={all} onChange={(event) => setAll(event.target.checked)}>
          under all conditions
        </Checkbox>
        <span className="soft end">Select two weigh-ins to compare them.</span>
      </div>
      {rows.length === 0 && (
        <p className="empty soft">
          No weigh-in of this page under these conditions. Show weigh-ins under all conditions, or weigh the page.
        </p>
      )}
      {rows.length > 0 && <Chart rows={rows} pair={pair} onChoose={(id) => choose(id, !pair.includes(id))} />}
      {comparison.data && before && after && <SideBySide before={before} after={after} found={comparison.data} />}
      {rows.length > 0 && (
        <table className="weigh-ins history">
          <thead>
            <tr>
              <th />
              <th>Taken</th>
              <th>Name</th>
              <th>Conditions</th>
              <th className="n">Transferred</th>
              <th className="n">Requests</th>
              <th className="n">Loaded</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {[...rows].reverse().map((row) => (
              <tr key={row.id} className={pair.includes(row.id) ? "sel" : ""}>
                <td>
                  <Checkbox
                    aria-label={`Select the weigh-in of ${moment(row.taken)}`}
                    checked={pair.includes(row.id)}
                    onChange={(event) => choose(row.id, event.target.checked)}
                  />
                </td>
                <td>
                  {moment(row.taken)}
                  <small className="soft"> {SIDES[row.side]}</small>
                </td>
                <td>
                  <Name row={row} onName={(name) => edit.mutate({ key: row.id, name })} />
                </td>
                <td className="soft">
                  {deviceLabel(row.device)}, {row.visit}, {row.link}, {row.runs === 1 ? "1 run" : `${row.runs} runs`}
                </td>
                <td className="n">{kB(row.transferred)}</td>
                <td className="n">{count(row.requests)}</td>
                <td className="n">{seconds(row.load.median)}</td>
                <td className="n">
                  <Button size="small" onClick={() => edit.mutate({ key: row.id, pinned: !row.pinned })}>
                    {row.pinned ? "Unpin" : "Pin"}
                  </Button>{" "}
                  <Popconfirm
                    title="Delete this weigh-in?"
                    okText="Delete"
                    cancelText="Keep"
                    onConfirm={() => remove.mutate(row.id)}
                  >
                    <Button
                      size="small"
                      disabled={row.pinned || row.held}
                      title={
                        row.pinned ? "Unpin the weigh-in to delete it" : row.held ? "The ledger uses this weigh-in" : ""
                      }
                    >
                      Delete
                    </Button>
                  </Popconfirm>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Watch bench={bench} />
    </section>
  );
}

function Name({ row, onName }: { row: HistoryRow; onName: (name: string) => void }) {
  return (
    <Input
      key={row.name}
      size="small"
      variant="borderless"
      aria-label={`Name of the weigh-in of ${moment(row.taken)}`}
      placeholder={row.pinned ? "Baseline" : "Name"}
      defaultValue={row.name}
      maxLength={100}
      onBlur={(event) => {
        if (event.target.value !== row.name) onName(event.target.value);
      }}
      onPressEnter={(event) => event.currentTarget.blur()}
    />
  );
}

const BAR = 44;
const HEIGHT = 96;

/** A bar for each weigh-in in the order of time, with its weight above it; as found are pale, lightened ones full. */
function Chart({ rows, pair, onChoose }: { rows: HistoryRow[]; pair: string[]; onChoose: (id: string) => void }) {
  const most = Math.max(1, ...rows.map((row) => row.transferred));
  return (
    <div className="chart">
      <svg
        width={rows.length * BAR + 20}
        height={HEIGHT + 34}
        role="img"
        aria-label={`Transferred bytes of ${rows.length} weigh-ins in the order of time`}
      >
        <line x1="0" x2={rows.length * BAR + 20} y1={HEIGHT + 14} y2={HEIGHT + 14} stroke="#CDBFA8" />
        {rows.map((row, i) => {
          const height = Math.max(1, (row.transferred / most) * (HEIGHT - 6));
          const label =
            row.transferred >= 1e6
              ? `${(row.transferred / 1e6).toFixed(1)}M`
              : `${Math.round(row.transferred / 1000)}k`;
          return (
            <g key={row.id} onClick={() => onChoose(row.id)} className="point">
              <rect
                x={i * BAR + 12}
                y={HEIGHT + 14 - height}
                width={BAR - 16}
                height={height}
                fill="#8A4F22"
                opacity={row.side === "found" ? 0.45 : 1}
                stroke={pair.includes(row.id) ? "#23211D" : "none"}
                strokeWidth="2"
              />
              <text x={i * BAR + 12 + (BAR - 16) / 2} y={HEIGHT + 10 - height} textAnchor="middle" className="tick">
                {label}
              </text>
              <text x={i * BAR + 12 + (BAR - 16) / 2} y={HEIGHT + 28} textAnchor="middle" className="tick">
                {row.pinned
                  ? "pinned"
                  : row.side === "now"
                    ? "now"
                    : new Date(row.taken).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}
              </text>
              <title>{`${moment(row.taken)}, ${row.name || row.conditions}: ${kB(row.transferred)}`}</title>
            </g>
          );
        })}
      </svg>
    </div>
  );
}

function SideBySide({ before, after, found }: { before: HistoryRow; after: HistoryRow; found: Comparison }) {
  const kinds = KINDS.filter(
    (kind) => found.kinds[kind] && (found.kinds[kind].transferred !== 0 || found.kinds[kind].requests !== 0),
  );
  return (
    <div className="side-by-side" role="region" aria-label="Comparison of two weigh-ins">
      {found.marks.length > 0 && (
        <Alert
          type="warning"
          banner
          title={`The conditions differ, so the difference proves nothing. ${found.marks.join("; ")}`}
        />
      )}
      <table className="weigh-ins">
        <thead>
          <tr>
            <th />
            <th className="n">{before.name || moment(before.taken)}</th>
            <th className="n">{after.name || moment(after.taken)}</th>
            <th className="n">Difference</th>
          </tr>
        </thead>
        <tbody>
          <tr>
            <td>Transferred</td>
            <td className="n">{count(found.before.transferred)}</td>
            <td className="n">{count(found.after.transferred)}</td>
            <td className="n">{signed(found.difference.transferred)}</td>
          </tr>
          <tr>
            <td>Requests</td>
            <td className="n">{count(found.before.requests)}</td>
            <td className="n">{count(found.after.requests)}</td>
            <td className="n">{signed(found.difference.requests)}</td>
          </tr>
          <tr>
            <td>Decoded</td>
            <td className="n">{count(found.before.decoded)}</td>
            <td className="n">{count(found.after.decoded)}</td>
            <td className="n">{signed(found.difference.decoded)}</td>
          </tr>
          <tr>
            <td>Loaded, lowest to highest</td>
            <td className="n">
              {seconds(found.load_ms.before.low)} to {seconds(found.load_ms.before.high)}
            </td>
            <td className="n">
              {seconds(found.load_ms.after.low)} to {seconds(found.load_ms.after.high)}
            </td>
            <td className="n">{signed(Math.round(found.load_ms.after.median - found.load_ms.before.median))} ms</td>
          </tr>
          {kinds.map((kind) => (
            <tr key={kind}>
              <td>{LABELS[kind]}</td>
              <td />
              <td />
              <td className="n">{signed(found.kinds[kind]?.transferred ?? 0)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function signed(value: number): string {
  return value > 0 ? `+${count(value)}` : count(value);
}
