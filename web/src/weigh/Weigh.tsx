import { Button, Segmented } from "antd";
import { type ComponentType, lazy, Suspense } from "react";
import type { Limit, WeighIn } from "../api/client";
import { useWeighMore } from "../api/work";
import { Notices } from "../frame/Notices";
import type { PartProps } from "../model/part";
import { heldOf, weighInOf } from "../model/state";
import { deviceLabel } from "../model/devices";
import { count, kB, seconds } from "../ui/format";
import { Waiting } from "../ui/Waiting";
import { Over } from "./ExceededLimits";
import { WhichPages } from "./WhichPages";
import { Term } from "../ui/Term";
import { useMore } from "../ui/more";

interface Shown {
  label: string;
  part: ComponentType<PartProps>;
  /** The limits that are told of what stands here. */
  measures: Limit["measure"][];
}
const PARTS = {
  pages: { label: "Pages", part: Pages, measures: ["bytes", "requests", "missing files"] },
  requests: {
    label: "Requests",
    part: lazy(() => import("./Requests")),
    measures: ["bytes", "requests", "picture width", "background width", "missing files"],
  },
  brought: { label: "Loaded by", part: lazy(() => import("./LoadedBy")), measures: ["third parties", "bytes"] },
  times: { label: "Times", part: lazy(() => import("./Times")), measures: ["seconds"] },
  built: { label: "Fonts and structure", part: lazy(() => import("./Built")), measures: ["font families"] },
  allowances: { label: "Allowances", part: lazy(() => import("./Allowances")), measures: [] },
  history: { label: "History", part: lazy(() => import("./History")), measures: ["growth"] },
} satisfies Record<string, Shown>;
type Name = keyof typeof PARTS;

/** How heavy is it, and who brings the weight? */
export default function Weigh(props: PartProps) {
  const { view } = props;
  const name: Name = view.part in PARTS ? (view.part as Name) : "requests";
  const { part: Part, measures }: Shown = PARTS[name];
  return (
    <main className="weigh">
      <div className="head parts">
        <Segmented<Name>
          value={name}
          onChange={(part) => view.set({ part })}
          options={Object.entries(PARTS).map(([value, { label }]) => ({ value: value as Name, label }))}
        />
      </div>
      <Over bench={props.bench} view={view} measures={measures} />
      <Suspense fallback={<Waiting />}>
        <Part {...props} />
      </Suspense>
    </main>
  );
}

function Pages({ bench, view, busy }: PartProps) {
  const weighMore = useWeighMore(bench.id);
  const chosen = weighInOf(bench.weigh_ins, view);
  const { shown, more } = useMore(bench.weigh_ins, chosen ? bench.weigh_ins.indexOf(chosen) : -1);
  const others = bench.weigh_ins.length - heldOf(bench.weigh_ins).length;
  return (
    <section>
      <div className="head">
        <h1>All pages and devices</h1>
        <span className="soft">
          One <Term of="Weigh-in">weigh-in</Term> each
        </span>
        {others > 0 && <span className="soft">{others} of them under other conditions than the baseline's</span>}
        <Button
          size="small"
          className="end"
          disabled={busy}
          onClick={() =>
            weighMore.mutate({ devices: ["phone", "desktop"], visit: "first", link: "unlimited", runs: 3, pages: [] })
          }
        >
          Weigh all again
        </Button>
      </div>
      <WhichPages bench={bench} busy={busy} />
      <table className="weigh-ins">
        <thead>
          <tr>
            <th>Page</th>
            <th>Device</th>
            <th>Visit and network</th>
            <th className="n">
              <Term of="As found" />
            </th>
            <th className="n">Now</th>
            <th className="n">
              <Term of="Request">Requests</Term>
            </th>
            <th className="n">After scrolling</th>
            <th className="n">Loaded</th>
            <th className="n">Missing</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((before) => (
            <WeighInRow
              key={before.id}
              before={before}
              after={weighInOf(bench.now, before)}
              selected={before.id === chosen?.id}
              onChoose={() =>
                view.set({
                  page: before.page,
                  device: before.device,
                  visit: before.visit === "repeat" ? "repeat" : "first",
                  link: before.link,
                })
              }
            />
          ))}
        </tbody>
      </table>
      {more}
      <Trouble weighIn={chosen} />
      <Notices notices={bench.notices} />
    </section>
  );
}

function WeighInRow({
  before,
  after,
  selected,
  onChoose,
}: {
  before: WeighIn;
  after: WeighIn | undefined;
  selected: boolean;
  onChoose: () => void;
}) {
  const now = after ?? before;
  const load = now.timings.load;
  return (
    <tr className={selected ? "sel" : ""}>
      <td>
        <button type="button" className="plain" aria-pressed={selected} onClick={onChoose}>
          {before.page}
        </button>
      </td>
      <td>{deviceLabel(before.device)}</td>
      <td className="soft">
        {before.visit}, {before.link}
      </td>
      <td className="n">{kB(before.transferred)}</td>
      <td className="n">{after ? kB(after.transferred) : ""}</td>
      <td className="n">
        {after ? `${count(before.requests)}, now ${count(after.requests)}` : count(before.requests)}
      </td>
      <td className="n">{now.scrolled.transferred > 0 ? `${kB(now.scrolled.transferred)} more` : "nothing more"}</td>
      <td className="n">
        {seconds(now.load_ms)}
        {load && load.high > load.low && (
          <small className="soft">
            {" "}
            {seconds(load.low)} to {seconds(load.high)}
          </small>
        )}
      </td>
      <td className="n">{now.missing.length || ""}</td>
    </tr>
  );
}

function Trouble({ weighIn }: { weighIn: WeighIn | undefined }) {
  if (!weighIn || weighIn.missing.length + weighIn.errors.length === 0) return null;
  return (
    <details className="notices" open>
      <summary>
        {weighIn.missing.length} missing files and {weighIn.errors.length} errors on this page
      </summary>
      <ul>
        {weighIn.missing.map((url) => (
          <li key={url}>missing: {url}</li>
        ))}
        {weighIn.errors.map((text, i) => (
          <li key={i}>{text}</li>
        ))}
      </ul>
    </details>
  );
}
