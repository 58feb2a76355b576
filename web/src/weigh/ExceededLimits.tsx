import type { Bench, Limit } from "../api/client";
import { useAllowance } from "../api/showing";
import type { View } from "../model/state";
import { count, fileName, kB } from "../ui/format";

type Measure = Limit["measure"];

export interface Broken {
  key: string;
  measure: Measure;
  kind: string;
  label: string;
  value: string;
  most: string;
  by: string[];
}

const MOST_NAMED = 3;

/** The limits that the page in view breaks on its device, as it is now where there is a run. */
export function useBroken(bench: Bench, view: View): Broken[] {
  const { data } = useAllowance(bench.id, `${bench.taken} ${bench.run?.id ?? ""}`);
  if (!data) return [];
  return data.kept.flatMap((row) => {
    const limit = data.limits[row.limit];
    const value = row.now ?? row.found;
    if (!limit || row.page !== view.page || row.device !== view.device || value <= limit.most) return [];
    const unit = data.units[row.limit] ?? "";
    const label = data.labels[row.limit] ?? limit.measure;
    // "5 font families", not "5 families font families".
    const said = label.endsWith(unit) ? "" : unit;
    const text = (amount: number) => (unit === "bytes" ? kB(amount) : `${count(amount)} ${said}`.trim());
    const by = row.culprits.slice(0, MOST_NAMED).map((one) => fileName(one.name) || one.name);
    return [
      {
        key: String(row.limit),
        measure: limit.measure,
        kind: limit.kind ?? "",
        label,
        value: text(value),
        most: text(limit.most),
        by,
      },
    ];
  });
}

/** Pegs where what is shown breaks a limit, each with what brings it most. */
export function Over({ bench, view, measures }: { bench: Bench; view: View; measures: Measure[] }) {
  const broken = useBroken(bench, view).filter((row) => measures.includes(row.measure));
  if (broken.length === 0) return null;
  return (
    <ul className="over-limits" aria-label="Limits that this page exceeds">
      {broken.map((row) => (
        <li key={row.key}>
          <i className="small-peg" aria-hidden="true" />
          <b>{row.value}</b> {row.label}, at most {row.most}
          {row.by.length > 0 && <span className="soft"> ({row.by.join(", ")})</span>}
        </li>
      ))}
    </ul>
  );
}
