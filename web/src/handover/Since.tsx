import type { Bench } from "../api/client";
import { useSince } from "../api/plan";
import { remedyTitle } from "../model/names";
import { count, fileName, kB, moment } from "../ui/format";
import { Nothing } from "../ui/Nothing";
import { Waiting } from "../ui/Waiting";

const MOST = 200;

/** What came and went from an earlier run to the one that is shown. */
export function Since({ bench, run }: { bench: Bench; run: string }) {
  const { data, error } = useSince(bench.id, run, bench.run?.id ?? "");
  if (error) {
    return (
      <p role="alert" className="missing">
        {error.message}
      </p>
    );
  }
  if (!data) return <Waiting />;
  const sum = data.moved.reduce((total, row) => total + row.bytes_now - row.bytes_then, 0);
  return (
    <section aria-label="Changes since">
      <h2>Since the run of {moment(data.made)}</h2>
      {!data.same_ground && (
        <p className="standing">
          These runs use different weigh-ins of the site as found. Do not compare their totals.
        </p>
      )}
      {data.moved.length === 0 ? (
        <Nothing>No change has another result or saving.</Nothing>
      ) : (
        <table className="ledger">
          <thead>
            <tr>
              <th>Change</th>
              <th>Result then</th>
              <th>Result now</th>
              <th className="n">Difference</th>
            </tr>
          </thead>
          <tbody>
            {data.moved.slice(0, MOST).map((row) => (
              <tr key={row.change}>
                <td>
                  {remedyTitle(bench.words, row.remedy as never)}{" "}
                  <small title={row.targets.join("\n")}>
                    {fileName(row.targets[0] ?? "")}
                    {row.targets.length > 1 && ` and ${count(row.targets.length - 1)} more`}
                  </small>
                </td>
                <td className="soft">{row.then}</td>
                <td>{row.now}</td>
                <td className="n">
                  {row.bytes_now < row.bytes_then && "−"}
                  {kB(Math.abs(row.bytes_now - row.bytes_then))}
                </td>
              </tr>
            ))}
            <tr className="total">
              <td colSpan={3}>
                Total
                {data.moved.length > MOST && ` (${count(data.moved.length - MOST)} smaller changes not listed)`}
              </td>
              <td className="n">
                {sum < 0 && "−"}
                {kB(Math.abs(sum))}
              </td>
            </tr>
          </tbody>
        </table>
      )}
    </section>
  );
}
