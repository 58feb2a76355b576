import { Button, Segmented, Switch, Table, Upload } from "antd";
import { lazy, Suspense, useState } from "react";
import type { Bench, Change, Outcome, Words } from "../api/client";
import { useEdit, useGoTo, useLoadPlan, useTry } from "../api/plan";
import { kB, requests } from "../ui/format";
import { Nothing } from "../ui/Nothing";
import { targetText } from "./names";
import type { PartProps } from "./part";
import { counts, outcomesOf, standing } from "./state";
import { Versions } from "./Versions";
import { Waiting } from "../ui/Waiting";

const Sheet = lazy(() => import("../images/Sheet"));

/** The plan, and the contact sheet of all images. */
export default function Lighten(props: PartProps) {
  const { bench, view, busy } = props;
  const sheet = view.part === "sheet";
  return (
    <>
      <div className="head parts">
        <Segmented
          value={sheet ? "sheet" : "plan"}
          onChange={(part) => view.set({ part: part === "sheet" ? "sheet" : "" })}
          options={[
            { value: "plan", label: "Plan" },
            { value: "sheet", label: "Contact sheet" },
          ]}
        />
        <Stale bench={bench} busy={busy} sheet={sheet} />
        <History bench={bench} busy={busy} />
      </div>
      {sheet ? (
        <Suspense fallback={<Waiting />}>
          <Sheet {...props} />
        </Suspense>
      ) : (
        <PlanList {...props} />
      )}
    </>
  );
}

function Stale({ bench, busy, sheet }: { bench: Bench; busy: boolean; sheet: boolean }) {
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
  return (
    <span className="soft">
      {sheet
        ? "Every image of the site: where it is shown, what it weighs, what would be left of it"
        : "What you want done. Switch as you like; build it when you are ready."}
    </span>
  );
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

/** The plan: changes grouped by remedy, on or off, with what each saved. */
function PlanList({ bench, busy }: PartProps) {
  const edit = useEdit(bench.id);
  const outcomes = outcomesOf(bench);
  const changes = bench.plan?.changes ?? [];
  const filled = groupsOf(bench.words, changes);
  if (filled.length === 0) {
    return (
      <main className="narrow">
        <Nothing>The plan is empty: nothing was found that is worth doing.</Nothing>
      </main>
    );
  }
  const turn = (ids: string[], on: boolean) => edit.mutate([{ do: "switch", ids, on, insist: false }]);
  return (
    <main className="plan">
      {filled.map(({ name, title, what, changes: group }) => (
        <section key={name}>
          <div className="group">
            <h2>{title}</h2>
            <span className="soft">{what}</span>
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
      return outcome ? "checked, same page" : "not carried out yet";
  }
}
