import type { Allowance } from "../api/client";
import { More } from "../ui/more";
import { figure } from "./limits";

type Kept = Allowance["kept"][number];

/** Exceeded limits, with the parties that load most. */
export function ExceededTable({ rows, data }: { rows: Kept[]; data: Allowance }) {
  return (
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
        <More rows={rows}>
          {(shown, more) => (
            <>
              {shown.map((row) => (
                <Exceeded key={`${row.limit} ${row.page} ${row.device}`} row={row} data={data} />
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
  );
}

function Exceeded({ row, data }: { row: Kept; data: Allowance }) {
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
