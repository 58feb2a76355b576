import { Button, type InputRef, Segmented, Select, Switch, Table, Upload } from "antd";
import { lazy, Suspense, useRef, useState } from "react";
import type { Bench, Change, Outcome, Plan, Words } from "../api/client";
import { useEdit, useGoTo, useLoadPlan, useTry } from "../api/plan";
import { useKeys } from "../frame/keys";
import { Filter } from "../ui/Filter";
import { kB, requests } from "../ui/format";
import { Nothing } from "../ui/Nothing";
import { targetText } from "./names";
import type { PartProps } from "./part";
import { counts, outcomesOf, standing } from "./state";
import { Versions } from "./Versions";
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
        <History bench={bench} busy={busy} />
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
  "": "What you want done. Switch as you like; build it when you are ready.",
  sheet: "Every image of the site: where it is shown, what it weighs, what would be left of it",
  keep: "What no change may touch",
  one: "The largest first: look, keep or drop, next",
  live: "The page itself, in your own browser",
};

function Stale({ bench, busy, part }: { bench: Bench; busy: boolean; part: string }) {
  const tryOut = useTry(bench.id);
  if (bench.plan?.differs && !busy) {
    return (
      <span className="row stale">
        <span>
          {bench.run ? "The plan has changed since the site was built." : "The plan was not carried out yet."}
        </span>
        <Button size="small" type="primary" onClick={() => tryOut.mutate({ commands: [] })}>
          Build, check and weigh it
        </Button>
      </span>
    );
  }
  return <span className="soft">{HINTS[part]}</span>;
}

/** Steps back and forth, all versions, and the plan as a file, out and in. */
function History({ bench, busy }: { bench: Bench; busy: boolean }) {
  const goTo = useGoTo(bench.id);
  const load = useLoadPlan(bench.id);
  const [open, setOpen] = useState(false);
  const { plan } = bench;
  return (
    <span className="end row plan-tools">
      <Button
        size="small"
        disabled={busy || !plan?.undo}
        onClick={() => {
          if (plan?.undo) goTo.mutate(plan.undo);
        }}
      >
        Undo
      </Button>
      <Button
        size="small"
        disabled={busy || !plan?.redo}
        onClick={() => {
          if (plan?.redo) goTo.mutate(plan.redo);
        }}
      >
        Redo
      </Button>
      <Button size="small" onClick={() => setOpen(true)}>
        Versions
      </Button>
      <Button size="small" href={`/api/sites/${bench.id}/plan/document`}>
        Save as a file
      </Button>
      <Upload
        accept=".json,application/json"
        showUploadList={false}
        disabled={busy}
        beforeUpload={(file) => {
          load.mutate(file);
          return false;
        }}
      >
        <Button size="small" disabled={busy}>
          Load from a file
        </Button>
      </Upload>
      {open && <Versions bench={bench} busy={busy} onClose={() => setOpen(false)} />}
    </span>
  );
}

/** The plan: what it brings in all and by remedy, each opened to its changes, on or off, with what each saved. */
function PlanList({ bench, busy }: PartProps) {
  const edit = useEdit(bench.id);
  const [wanted, setWanted] = useState("");
  const [words, setWords] = useState("");
  const filter = useRef<InputRef>(null);
  const outcomes = outcomesOf(bench);
  const changes = bench.plan?.changes ?? [];
  const fits = (change: Change) =>
    (wanted === "" || stateName(change, outcomes.get(change.id)) === wanted) &&
    (words === "" ||
      [change.id, ...change.targets, ...change.pages].join(" ").toLowerCase().includes(words.toLowerCase()));
  const filled = groupsOf(bench.words, changes.filter(fits));
  const estimate = bench.plan?.estimate;
  useKeys({
    "/": (down) => {
      if (down) filter.current?.focus();
    },
  });
  if (changes.length === 0) {
    return (
      <main className="narrow">
        <Nothing>The plan is empty: nothing was found that is worth doing.</Nothing>
      </main>
    );
  }
  const turn = (ids: string[], on: boolean) => edit.mutate([{ do: "switch", ids, on, insist: false }]);
  return (
    <main className="plan">
      {estimate && (
        <p className="estimate" data-testid="estimate">
          {estimate.sure ? "Checked and weighed: " : "Estimate: "}
          <b>{kB(estimate.after.bytes)}</b> of {kB(estimate.before.bytes)}, {requests(estimate.after.requests)} of{" "}
          {requests(estimate.before.requests)}, over all pages and devices that were weighed.
          {!estimate.sure && " What no run has measured is hatched."}
        </p>
      )}
      <div className="row pad">
        <Select
          size="small"
          aria-label="Which changes"
          value={wanted}
          onChange={setWanted}
          options={STATES.map((value) => ({ value, label: value === "" ? "All changes" : value }))}
        />
        <Filter ref={filter} value={words} onChange={setWords} label="Filter by file or page" />
      </div>
      {filled.length === 0 && <Nothing>No change is like that.</Nothing>}
      {filled.map(({ name, title, what, changes: group }) => (
        <section key={name}>
          <div className="group">
            <h2>{title}</h2>
            <span className="soft">{what}</span>
            {estimate && <Brings estimate={estimate} remedy={name} />}
            <span className="end">
              <Button size="small" disabled={busy || group.every((c) => c.on)} onClick={() => turn(ids(group), true)}>
                All on
              </Button>{" "}
              <Button size="small" disabled={busy || group.every((c) => !c.on)} onClick={() => turn(ids(group), false)}>
                All off
              </Button>
            </span>
          </div>
          <Changes changes={group} outcomes={outcomes} busy={busy} onSwitch={(id, on) => turn([id], on)} />
        </section>
      ))}
    </main>
  );
}

const STATES = ["", "on", "off", "set aside", "nothing to gain", "kept all the same"];

function stateName(change: Change, outcome: Outcome | undefined): string {
  const state = standing(change, outcome);
  if (state === "on" && outcome && outcome.parts.length > 0) return "set aside";
  return state === "insisted" ? "kept all the same" : state;
}

/** What a remedy brings, on the scale of the beam: solid where it was measured, hatched where it is an estimate. */
function Brings({ estimate, remedy }: { estimate: Plan["estimate"]; remedy: string }) {
  const found = estimate.remedies.find((entry) => entry.remedy === remedy);
  const bytes = found?.bytes ?? 0;
  const share = Math.max(0, Math.min(100, (100 * bytes) / Math.max(1, estimate.before.bytes)));
  return (
    <span className="brings">
      <span className="scale" aria-hidden="true">
        <i className={found && !found.sure ? "hatched" : ""} style={{ width: `${share}%` }} />
      </span>
      <span>
        {found && !found.sure ? "about " : ""}
        {kB(bytes)}
      </span>
    </span>
  );
}

const ids = (changes: Change[]) => changes.map((change) => change.id);

/** In the order in which remedies run; those that the plan has nothing of are left out. */
function groupsOf(words: Words, changes: Change[]) {
  return words.remedies
    .map((remedy) => ({ ...remedy, changes: changes.filter((change) => change.remedy === remedy.name) }))
    .filter((group) => group.changes.length > 0);
}

interface ChangesProps {
  changes: Change[];
  outcomes: Map<string, Outcome>;
  busy: boolean;
  onSwitch: (id: string, on: boolean) => void;
}

function Changes({ changes, outcomes, busy, onSwitch }: ChangesProps) {
  return (
    <Table<Change>
      size="small"
      rowKey="id"
      pagination={changes.length > 50 ? { pageSize: 50, showSizeChanger: false } : false}
      dataSource={changes}
      scroll={{ x: 760 }}
      columns={[
        {
          title: "Wanted",
          width: 78,
          render: (_, change) => (
            <Switch
              size="small"
              checked={change.on}
              disabled={busy}
              aria-label={`Want ${targetText(change)}`}
              onChange={(on) => onSwitch(change.id, on)}
            />
          ),
        },
        {
          title: "Files",
          ellipsis: true,
          render: (_, change) => <span title={change.targets.join("\n")}>{targetText(change)}</span>,
        },
        {
          title: "Pages",
          width: 110,
          render: (_, change) => (change.pages.length === 1 ? change.pages[0] : `${change.pages.length} pages`),
        },
        {
          title: "What came of it",
          ellipsis: true,
          render: (_, change) => {
            const outcome = outcomes.get(change.id);
            return <span title={outcome?.reason}>{stateText(change, outcome)}</span>;
          },
        },
        {
          title: "Saved",
          width: 170,
          align: "right",
          render: (_, change) => <Saved change={change} outcome={outcomes.get(change.id)} />,
        },
      ]}
    />
  );
}

function Saved({ change, outcome }: { change: Change; outcome: Outcome | undefined }) {
  if (!outcome || !counts(standing(change, outcome))) return <span className="soft">not measured</span>;
  const { saved } = outcome;
  return (
    <>
      {kB(saved.bytes)}
      {saved.requests !== 0 && <small className="soft">, {requests(saved.requests)}</small>}
    </>
  );
}

function stateText(change: Change, outcome: Outcome | undefined): string {
  switch (standing(change, outcome)) {
    case "off":
      return "";
    case "set aside":
      return `set aside: ${outcome?.reason ?? ""}`;
    case "nothing to gain":
      return "left out: it saved nothing";
    case "insisted":
      return "done, whatever the check says";
    default:
      if (outcome && outcome.parts.length > 0) {
        return `without ${outcome.parts.map((part) => part.target).join(", ")}: ${outcome.parts[0]?.reason ?? ""}`;
      }
      return outcome ? "checked, same page" : "not carried out yet";
  }
}
