import { Button, type InputRef, Select, Switch, Table } from "antd";
import { useRef, useState } from "react";
import type { Bench, Change, Outcome, Plan, Words, Worth } from "../api/client";
import { useEdit } from "../api/plan";
import { useKeys } from "../frame/keys";
import { Filter } from "../ui/Filter";
import { kB, namely, requests } from "../ui/format";
import { Nothing } from "../ui/Nothing";
import { targetText } from "../model/names";
import type { PartProps } from "../model/part";
import { ChangeDetails } from "./ChangeDetails";
import { Scope } from "./Scope";
import { counts, outcomesOf, standing, worthOf } from "../model/state";
import { Term } from "../ui/Term";
import { Lead } from "../frame/Lead";

const STATES = ["", "on", "off", "set aside", "nothing to gain", "kept all the same"];
const PER_PAGE = 50;

/** The plan: what it brings in all and by remedy, each opened to its changes, on or off, with what each saved. */
export function PlanList({ bench, busy, view }: PartProps) {
  const edit = useEdit(bench.id);
  const [wanted, setWanted] = useState("");
  const [words, setWords] = useState("");
  const [order, setOrder] = useState<"plan" | "saving">("plan");
  const [current, setCurrent] = useState("");
  const [marked, setMarked] = useState<string[]>([]);
  const [opened, setOpened] = useState<string[]>([]);
  const filter = useRef<InputRef>(null);
  const outcomes = outcomesOf(bench);
  const changes = bench.plan?.changes ?? [];
  const worth = worthOf(bench);
  const fits = (change: Change) =>
    (wanted === "" || stateName(change, outcomes.get(change.id)) === wanted) &&
    (words === "" ||
      [change.id, ...change.targets, ...change.pages].join(" ").toLowerCase().includes(words.toLowerCase()));
  const filled = groupsOf(bench.words, changes.filter(fits), order === "saving" ? worth : null);
  const rows = filled.flatMap((group) => group.changes);
  const at = rows.findIndex(({ id }) => id === current);
  const estimate = bench.plan?.estimate;
  const turn = (ids: string[], on: boolean) => {
    if (ids.length > 0 && !busy) edit.mutate([{ do: "switch", ids, on, insist: false }]);
  };
  const move = (step: number) => {
    // From where the last key led, even if that is not drawn yet.
    setCurrent((id) => {
      const from = rows.findIndex((row) => row.id === id);
      return rows[Math.max(0, Math.min(rows.length - 1, from + step))]?.id ?? id;
    });
    requestAnimationFrame(() => document.querySelector(".plan tr.sel")?.scrollIntoView({ block: "nearest" }));
  };
  const mark = (id: string) =>
    setMarked(marked.includes(id) ? marked.filter((other) => other !== id) : [...marked, id]);
  const onPress = (act: () => void) => (down: boolean) => {
    if (down) act();
  };
  const open = (id: string) => setOpened(opened.includes(id) ? opened.filter((o) => o !== id) : [...opened, id]);
  const row = rows[at];
  useKeys({
    "/": (down) => {
      if (down) filter.current?.focus();
    },
    n: onPress(() => move(1)),
    p: onPress(() => move(-1)),
    t: onPress(() => {
      if (row) turn([row.id], !row.on);
    }),
    x: onPress(() => {
      if (row) mark(row.id);
    }),
    o: onPress(() => {
      if (row) open(row.id);
    }),
  });
  if (changes.length === 0) {
    return (
      <main className="narrow">
        <Nothing>
          The <Term of="Plan">plan</Term> is empty: there are no findings. <Lead to="weigh">Show the weigh-ins</Lead>
        </Nothing>
      </main>
    );
  }
  return (
    <main className="plan">
      {estimate && (
        <p className="estimate" data-testid="estimate">
          {estimate.sure ? "Checked and weighed: " : "Estimate: "}
          <b>{kB(estimate.after.bytes)}</b> of {kB(estimate.before.bytes)}, {requests(estimate.after.requests)} of{" "}
          {requests(estimate.before.requests)}, over all weighed pages and devices.
          {!estimate.sure && " Hatched bars are estimates."}
        </p>
      )}
      <div className="row pad">
        <Select
          size="small"
          aria-label="Show changes"
          value={wanted}
          onChange={setWanted}
          options={STATES.map((value) => ({ value, label: value === "" ? "All changes" : value }))}
        />
        <Select
          size="small"
          aria-label="Order"
          value={order}
          onChange={setOrder}
          options={[
            { value: "plan", label: "By remedy" },
            { value: "saving", label: "Largest saving first" },
          ]}
        />
        <Filter ref={filter} value={words} onChange={setWords} label="Filter by file or page" />
        {marked.length > 0 && (
          <span className="row end">
            <span>{marked.length} marked</span>
            <Button size="small" disabled={busy} onClick={() => turn(marked, true)}>
              Turn on
            </Button>
            <Button size="small" disabled={busy} onClick={() => turn(marked, false)}>
              Turn off
            </Button>
            <Button size="small" type="link" onClick={() => setMarked([])}>
              Clear selection
            </Button>
          </span>
        )}
      </div>
      {filled.length === 0 && (
        <Nothing>
          No change is like that.{" "}
          <Button size="small" onClick={() => setWanted("")}>
            Show all changes
          </Button>
        </Nothing>
      )}
      {filled.map(({ name, title, what, changes: group }) => (
        <section key={name}>
          <div className="group">
            <h2>{title}</h2>
            <span className="soft">{what}</span>
            {estimate && <Brings estimate={estimate} remedy={name} />}
            <span className="end">
              <Button size="small" disabled={busy || group.every((c) => c.on)} onClick={() => turn(ids(group), true)}>
                Turn all on
              </Button>{" "}
              <Button size="small" disabled={busy || group.every((c) => !c.on)} onClick={() => turn(ids(group), false)}>
                Turn all off
              </Button>
            </span>
          </div>
          <Changes
            bench={bench}
            changes={group}
            outcomes={outcomes}
            worth={worth}
            busy={busy}
            current={current}
            marked={marked}
            onSwitch={(id, on) => turn([id], on)}
            onMark={setMarked}
            onChoose={setCurrent}
            opened={opened}
            onOpen={open}
            query={view.query}
          />
        </section>
      ))}
    </main>
  );
}

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

/** Changes by remedy, in the order in which remedies run or by saving; remedies without a change are left out. */
function groupsOf(words: Words, changes: Change[], worth: Map<string, Worth> | null) {
  const of = (change: Change) => worth?.get(change.id)?.bytes ?? 0;
  const total = (group: Change[]) => group.reduce((sum, change) => sum + of(change), 0);
  const groups = words.remedies
    .map((remedy) => ({ ...remedy, changes: changes.filter((change) => change.remedy === remedy.name) }))
    .filter((group) => group.changes.length > 0);
  if (!worth) return groups;
  return groups
    .map((group) => ({ ...group, changes: [...group.changes].sort((a, b) => of(b) - of(a)) }))
    .sort((a, b) => total(b.changes) - total(a.changes));
}

interface ChangesProps {
  bench: Bench;
  changes: Change[];
  outcomes: Map<string, Outcome>;
  worth: Map<string, Worth>;
  busy: boolean;
  current: string;
  marked: string[];
  onSwitch: (id: string, on: boolean) => void;
  onMark: (ids: string[]) => void;
  onChoose: (id: string) => void;
  opened: string[];
  onOpen: (id: string) => void;
  query: string;
}

function Changes(props: ChangesProps) {
  const { bench, changes, outcomes, worth, busy, current, marked, onSwitch, onMark, onChoose } = props;
  const [turned, setTurned] = useState(1);
  const at = changes.findIndex(({ id }) => id === current);
  const here = new Set(ids(changes));
  return (
    <Table<Change>
      size="small"
      rowKey="id"
      pagination={
        changes.length > PER_PAGE
          ? {
              pageSize: PER_PAGE,
              showSizeChanger: false,
              // The row that the keys have reached is in sight.
              current: at < 0 ? turned : Math.floor(at / PER_PAGE) + 1,
              onChange: (page) => {
                setTurned(page);
                if (at >= 0) onChoose("");
              },
            }
          : false
      }
      dataSource={changes}
      scroll={{ x: 800 }}
      rowClassName={({ id }) => (id === current ? "sel" : "")}
      onRow={({ id }) => ({ onClick: () => onChoose(id) })}
      rowSelection={{
        selectedRowKeys: marked.filter((id) => here.has(id)),
        onChange: (keys) => onMark([...marked.filter((id) => !here.has(id)), ...keys.map(String)]),
        preserveSelectedRowKeys: true,
        columnWidth: 36,
      }}
      expandable={{
        expandedRowKeys: props.opened.filter((id) => here.has(id)),
        onExpand: (_, { id }) => props.onOpen(id),
        columnWidth: 32,
        expandedRowRender: (change) => (
          <ChangeDetails
            bench={bench}
            change={change}
            outcome={outcomes.get(change.id)}
            busy={busy}
            query={props.query}
          />
        ),
      }}
      columns={[
        {
          title: "On",
          width: 78,
          render: (_, change) => (
            <Switch
              size="small"
              checked={change.on}
              disabled={busy}
              aria-label={`Turn on ${targetText(change)}`}
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
          width: 130,
          render: (_, change) => <Scope bench={bench} change={change} busy={busy} />,
        },
        {
          title: "Result",
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
          render: (_, change) => (
            <Saved change={change} outcome={outcomes.get(change.id)} about={worth.get(change.id)} />
          ),
        },
      ]}
    />
  );
}

function Saved({ change, outcome, about }: { change: Change; outcome: Outcome | undefined; about: Worth | undefined }) {
  if (!outcome || !counts(standing(change, outcome))) {
    return <span className="soft">{about && about.bytes > 0 ? `about ${kB(about.bytes)}` : "not known"}</span>;
  }
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
      return "no further saving";
    case "insisted":
      return "on: override, not checked";
    default:
      if (outcome && outcome.parts.length > 0) {
        const without = outcome.parts.flatMap((part) => (part.pieces.length > 0 ? part.pieces : [part.target]));
        return `without ${namely(without)}: ${outcome.parts[0]?.reason ?? ""}`;
      }
      return outcome ? "checked, no difference" : "no run yet";
  }
}
