import { Button, Segmented, Switch } from "antd";
import { lazy, Suspense, useEffect, useRef } from "react";
import type { Bench } from "../api/client";
import { useTry } from "../api/plan";
import { useByItself } from "../model/byItself";
import type { PartProps } from "../model/part";
import { PlanList } from "./PlanList";
import { PlanTools } from "./PlanTools";
import { Waiting } from "../ui/Waiting";

const Sheet = lazy(() => import("../images/Sheet"));
const KeepList = lazy(() => import("./KeepList"));
const LiveCopy = lazy(() => import("../live/LiveCopy"));
const OneByOne = lazy(() => import("../live/OneByOne"));
const PARTS = [
  { value: "", label: "Plan" },
  { value: "sheet", label: "Contact sheet" },
  { value: "keep", label: "Keep list" },
  { value: "one", label: "One by one" },
  { value: "live", label: "Live copy" },
];

/** The plan, the contact sheet of all images, and what is never touched. */
export default function Lighten(props: PartProps) {
  const { bench, view, busy } = props;
  const part = PARTS.some(({ value }) => value === view.part) ? view.part : "";
  return (
    <>
      <div className="head parts">
        <Segmented value={part} onChange={(chosen) => view.set({ part: chosen })} options={PARTS} />
        <Stale bench={bench} busy={busy} part={part} />
        <PlanTools bench={bench} busy={busy} />
      </div>
      {part === "" ? (
        <PlanList {...props} />
      ) : (
        <Suspense fallback={<Waiting />}>
          {part === "sheet" && <Sheet {...props} />}
          {part === "keep" && <KeepList {...props} />}
          {part === "one" && <OneByOne {...props} />}
          {part === "live" && <LiveCopy {...props} />}
        </Suspense>
      )}
    </>
  );
}

const HINTS: Record<string, string> = {
  "": "Turn changes on and off; build the plan when you are ready.",
  sheet: "Every image: where it is shown, its weight as found and as proposed",
  keep: "Files and pages no change may touch",
  one: "Decide on each change, largest first",
  live: "The live page in your own browser",
};

/** What carries the plan out: a button, and after a pause the plan itself where it was carried out before. */
function Stale({ bench, busy, part }: { bench: Bench; busy: boolean; part: string }) {
  const tryOut = useTry(bench.id);
  const { on, set, pause } = useByItself();
  const version = bench.plan?.version ?? "";
  const waits = on && part === "" && !busy && bench.run !== null && (bench.plan?.differs ?? false);
  const start = useRef(() => tryOut.mutate({ commands: [] }));
  useEffect(() => {
    start.current = () => tryOut.mutate({ commands: [] });
  });
  // Each edit makes a version, and with it the pause begins anew; a version that failed is not tried over and over.
  const tried = useRef("");
  useEffect(() => {
    if (!waits || tried.current === version) return undefined;
    const timer = setTimeout(() => {
      tried.current = version;
      start.current();
    }, pause);
    return () => clearTimeout(timer);
  }, [waits, version, pause]);
  if (bench.plan?.differs && !busy) {
    return (
      <span className="row stale">
        <span>{bench.run ? "The plan has changed since the last run." : "No run yet."}</span>
        <Button size="small" type="primary" onClick={() => tryOut.mutate({ commands: [] })}>
          Build, check and weigh
        </Button>
        {bench.run && part === "" && (
          <label className="row soft">
            <Switch size="small" checked={on} onChange={set} aria-label="Build automatically after a pause" />{" "}
            automatically
          </label>
        )}
      </span>
    );
  }
  return <span className="soft">{HINTS[part]}</span>;
}
