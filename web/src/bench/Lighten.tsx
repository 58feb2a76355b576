import { Button, Segmented, Spin, Switch, Table } from "antd";
import { lazy, Suspense } from "react";
import type { Change } from "../api/client";
import { fileName, kB, requests } from "../ui/format";
import type { PartProps } from "./BenchPage";
import { standing } from "./state";
import { Nothing } from "../ui/Nothing";

const REMEDIES: Record<string, { title: string; what: string }> = {
  embed: { title: "Embeds when wanted", what: "A picture with a button stands there until a visitor asks, or the frame loads when near" },
  hold: { title: "Widgets when wanted", what: "Scripts of other hosts wait until somebody comes near or does something" },
  merge: { title: "One file for all", what: "Files that are the same byte for byte" },
  exact: { title: "Packed better", what: "Every pixel as it was" },
  svg: { title: "Drawings without needless text", what: "SVG that draws the same" },
  shrink: { title: "Shrink to shown", what: "No larger than it is ever shown" },
  recompress: { title: "Quality that nobody sees", what: "Same format, same name" },
  webp: { title: "WebP", what: "A format that packs better" },
  avif: { title: "AVIF beside it", what: "A further source where it is much smaller" },
  widths: { title: "Several sizes", what: "The browser takes the one that fits its window" },
  phone: { title: "Backgrounds for phones", what: "A narrower file in narrow windows" },
  inline: { title: "Written into the page", what: "Tiny files that cost more to ask for than they weigh" },
  lazy: { title: "Lazy loading", what: "Loads when a visitor comes near" },
  late: { title: "Backgrounds when near", what: "By a small script, as browsers cannot do it by themselves" },
  endless: { title: "Films for animated pictures", what: "They play as the picture did and weigh far less" },
  film: { title: "Lighter films", what: "Coded again and compared frame by frame" },
  wait: { title: "Films when wanted", what: "Nothing loads before somebody plays them or comes near" },
  poster: { title: "No film on phones", what: "Its first picture in narrow windows" },
  priority: { title: "First things first", what: "The largest picture of the first view does not queue" },
  reserve: { title: "Reserve space", what: "The page stays put while pictures arrive" },
};

const Sheet = lazy(() => import("../images/Sheet"));

/** The plan, and the contact sheet of all images. */
export default function Lighten(props: PartProps) {
  const { bench, view, work, busy } = props;
  const sheet = view.part === "sheet";
  return (
    <>
      <div className="head parts">
        <Segmented value={sheet ? "sheet" : "plan"} onChange={(part) => view.set({ part: part === "sheet" ? "sheet" : "" })} options={[{ value: "plan", label: "Plan" }, { value: "sheet", label: "Contact sheet" }]} />
        {bench.plan_differs && !busy ? (
          <span className="row stale"><span>The plan has changed since the site was built.</span><Button size="small" type="primary" onClick={() => work.carryOut.mutate()}>Build, check and weigh it</Button></span>
        ) : (
          <span className="soft">{sheet ? "Every image of the site: where it is shown, what it weighs, what would be left of it" : "What is switched here is built, compared and weighed again"}</span>
        )}
        <a className="end" href={`/api/sites/${bench.id}/plan`} download>Save the plan as a file</a>
      </div>
      {sheet ? <Suspense fallback={<div className="waiting"><Spin /></div>}><Sheet {...props} /></Suspense> : <PlanList {...props} />}
    </>
  );
}

/** The plan: changes grouped by remedy, on or off, with what each saved. */
function PlanList({ bench, work, busy }: PartProps) {
  const groups = Object.keys(REMEDIES).map((remedy) => ({ remedy, changes: bench.changes.filter((change) => change.remedy === remedy) }));
  const filled = groups.filter((group) => group.changes.length > 0);
  if (filled.length === 0) return <main className="narrow"><Nothing>The plan is empty: nothing was found that is worth doing.</Nothing></main>;
  return (
    <main className="plan">
      {filled.map(({ remedy, changes }) => (
        <section key={remedy}>
          <div className="group">
            <h2>{REMEDIES[remedy]!.title}</h2>
            <span className="soft">{REMEDIES[remedy]!.what}</span>
            <span className="end">
              <Button size="small" disabled={busy || changes.every((c) => c.on)} onClick={() => work.edit.mutate({ changes: changes.map((c) => ({ id: c.id, on: true })) })}>All on</Button>{" "}
              <Button size="small" disabled={busy || changes.every((c) => !c.on)} onClick={() => work.edit.mutate({ changes: changes.map((c) => ({ id: c.id, on: false })) })}>All off</Button>
            </span>
          </div>
          <Changes changes={changes} busy={busy} onSwitch={(id, on) => work.edit.mutate({ changes: [{ id, on }] })} />
        </section>
      ))}
    </main>
  );
}

function Changes({ changes, busy, onSwitch }: { changes: Change[]; busy: boolean; onSwitch: (id: string, on: boolean) => void }) {
  return (
    <Table<Change>
      size="small"
      rowKey="id"
      pagination={changes.length > 50 ? { pageSize: 50, showSizeChanger: false } : false}
      dataSource={changes}
      columns={[
        {
          title: "On",
          width: 64,
          render: (_, change) => (
            <Switch size="small" checked={change.on && !change.set_aside} disabled={busy} aria-label={`Switch ${change.id}`} onChange={(on) => onSwitch(change.id, on)} />
          ),
        },
        { title: "Files", ellipsis: true, render: (_, change) => <span title={change.targets.join("\n")}>{targetText(change)}</span> },
        { title: "Pages", width: 110, render: (_, change) => (change.pages.length === 1 ? change.pages[0] : `${change.pages.length} pages`) },
        { title: "State", ellipsis: true, render: (_, change) => <span title={change.set_aside}>{stateText(change)}</span> },
        {
          title: "Saved",
          width: 170,
          align: "right",
          render: (_, change) => (change.saved && change.on && !change.set_aside ? <>{kB(change.saved.bytes)}{change.saved.requests !== 0 && <small className="soft">, {requests(change.saved.requests)}</small>}</> : <span className="soft">not measured</span>),
        },
      ]}
    />
  );
}

function targetText(change: Change): string {
  if (change.embed?.title) return `${change.embed.title}, ${new URL(change.targets[0] ?? "").hostname}`;
  const first = fileName(change.targets[0] ?? "");
  return change.targets.length > 1 ? `${first} and ${change.targets.length - 1} more` : (change.targets[0] ?? "");
}

function stateText(change: Change): string {
  return {
    off: "off",
    on: change.saved ? "checked, same page" : "on",
    "set aside": `set aside: ${change.set_aside}`,
    insisted: "on, whatever the check says",
  }[standing(change)];
}
