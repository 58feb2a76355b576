import { Alert, Button, Modal, Select, Switch } from "antd";
import { lazy, Suspense, useMemo, useState } from "react";
import { Navigate, useNavigate, useParams } from "react-router";
import { useBench } from "../api/bench";
import { isBusy, useProblem, useSending } from "../api/cache";
import type { Bench, Session } from "../api/client";
import { useWeighMore } from "../api/work";
import { Beam } from "../beam/Beam";
import { Bar } from "../frame/Bar";
import { Conditions } from "../frame/Conditions";
import { deviceLabel } from "../model/devices";
import { Foot } from "../frame/Foot";
import { useKeys, useKeySetting } from "../frame/keys";
import { Trail } from "../frame/Trail";
import { useBroken } from "../weigh/ExceededLimits";
import { Boundary } from "../ui/Boundary";
import { middle } from "../ui/format";
import { Trouble } from "../frame/Trouble";
import { FirstWeighIn, JobLine } from "./Job";
import { MissingFiles } from "./MissingFiles";
import { isStage, type Stage, STAGES, UNLIMITED, useView, type View, weighInOf } from "../model/state";
import { Waiting } from "../ui/Waiting";

const PARTS = {
  weigh: lazy(() => import("../weigh/Weigh")),
  sort: lazy(() => import("../sort/Sort")),
  lighten: lazy(() => import("../lighten/Lighten")),
  check: lazy(() => import("../check/Check")),
  "hand-over": lazy(() => import("../handover/HandOver")),
};

export default function BenchPage({ session }: { session: Session }) {
  const { id = "", stage } = useParams();
  const { bench, error, again } = useBench(id);
  if (!isStage(stage)) return <Navigate to={`/sites/${id}/sort`} replace />;
  if (error) return <Trouble error={error} again={again} />;
  if (!bench) {
    return (
      <>
        <Bar session={session} />
        <Waiting />
      </>
    );
  }
  return <Loaded session={session} bench={bench} stage={stage} />;
}

function Loaded({ session, bench, stage }: { session: Session; bench: Bench; stage: Stage }) {
  const view = useView(bench);
  const navigate = useNavigate();
  const sending = useSending(bench.id);
  const [problem, putAside] = useProblem(bench.id);
  const [help, setHelp] = useState(false);
  const stages = STAGES.map((name, i) => [
    String(i + 1),
    (down: boolean) => {
      if (down) void navigate({ pathname: `/sites/${bench.id}/${name}`, search: view.query });
    },
  ]);
  useKeys({
    ...(Object.fromEntries(stages) as Record<string, (down: boolean) => void>),
    "?": (down) => {
      if (down) setHelp(true);
    },
  });
  const before = weighInOf(bench.weigh_ins, view);
  const after = weighInOf(bench.now, view);
  // Who may only look has nothing to press.
  const busy = isBusy(bench.job) || sending || bench.role === "look";
  const broken = useBroken(bench, view);
  const over = Object.fromEntries(
    broken
      .filter((row) => row.measure === "bytes" && row.kind)
      .map((row) => [row.kind, `${row.value}, at most ${row.most}`]),
  );
  const Part = PARTS[stage];
  const missing = bench.run !== null && !after;
  return (
    <div className="bench">
      <Bar
        session={session}
        path={<Path bench={bench} view={view} />}
        trail={<Trail bench={bench} stage={stage} query={view.query} />}
        conditions={bench.taken && <Conditions bench={bench} view={view} busy={busy} />}
      />
      {before && (
        <Beam
          before={before}
          after={after}
          unweighed={missing}
          allowance={bench.allowance}
          over={over}
          kind={view.kind}
          onKind={(kind) => view.set({ kind })}
        />
      )}
      <JobLine bench={bench} page={view.page} />
      {bench.role === "look" && (
        <Alert
          banner
          type="info"
          title={`You can view this site. Its owner, ${bench.owner}, can make you an editor.`}
        />
      )}
      <MissingFiles bench={bench} />
      {problem && <Alert type="error" banner closable={{ onClose: putAside }} title={problem} />}
      {bench.taken ? (
        <>
          {(!before || missing) && <Unweighed bench={bench} side={before ? "now" : ""} view={view} busy={busy} />}
          <Boundary resetBy={`${stage} ${view.part}`}>
            <Suspense fallback={<Waiting />}>
              <Part bench={bench} view={view} busy={busy} />
            </Suspense>
          </Boundary>
        </>
      ) : (
        <FirstWeighIn bench={bench} />
      )}
      <Foot bench={bench} view={view} onHelp={() => setHelp(true)} />
      {help && <Keys onClose={() => setHelp(false)} />}
    </div>
  );
}

const MOST_OF_PATH = 24; // characters

function Path({ bench, view }: { bench: Bench; view: View }) {
  // There may be thousands, and the list is gone through anew for every other one.
  const options = useMemo(() => bench.pages.map((page) => ({ value: page, label: page })), [bench.pages]);
  return (
    <>
      <span className="path-site" title={bench.name}>
        {bench.name}
      </span>
      {bench.pages.length > 0 && (
        <>
          <span className="slash">/</span>
          <Select
            variant="borderless"
            popupMatchSelectWidth={false}
            aria-label="Page"
            value={view.page}
            onChange={(page) => view.set({ page })}
            options={options}
            labelRender={({ value }) => <span title={String(value)}>{middle(String(value), MOST_OF_PATH)}</span>}
          />
        </>
      )}
    </>
  );
}

function Keys({ onClose }: { onClose: () => void }) {
  const [on, setOn] = useKeySetting();
  return (
    <Modal title="Keys" open footer={null} onCancel={onClose}>
      <dl className="keys">
        <dt>
          <kbd>n</kbd> <kbd>p</kbd>
        </dt>
        <dd>next and previous row; in the loupe, next and previous image</dd>
        <dt>
          <kbd>t</kbd>
        </dt>
        <dd>turn the row's change on or off</dd>
        <dt>
          <kbd>b</kbd>
        </dt>
        <dd>hold to show the page as found</dd>
        <dt>
          <kbd>k</kbd> <kbd>d</kbd>
        </dt>
        <dd>One by one: keep or drop the change and go to the next</dd>
        <dt>
          <kbd>x</kbd> <kbd>o</kbd> <kbd>u</kbd> <kbd>r</kbd>
        </dt>
        <dd>Plan: mark the row, open it, undo, redo</dd>
        <dt>
          <kbd>v</kbd>
        </dt>
        <dd>Live copy: next device</dd>
        <dt>
          <kbd>1</kbd> to <kbd>5</kbd>
        </dt>
        <dd>the stages</dd>
        <dt>
          <kbd>/</kbd>
        </dt>
        <dd>filter</dd>
        <dt>
          <kbd>?</kbd>
        </dt>
        <dd>this list of keys</dd>
        <dt>
          <kbd>↑</kbd> <kbd>↓</kbd>
        </dt>
        <dd>move through the focused list or use map</dd>
      </dl>
      <p>
        <label className="row">
          <Switch size="small" checked={on} onChange={setOn} aria-label="Single-key shortcuts" /> Single-key shortcuts
        </label>
        <span className="soft">Turn shortcuts off if you use voice control or press keys by accident.</span>
      </p>
    </Modal>
  );
}

/** Nothing is shown for conditions under which nothing was measured. */
function Unweighed({ bench, side, view, busy }: { bench: Bench; side: string; view: View; busy: boolean }) {
  const weighMore = useWeighMore(bench.id);
  return (
    <div className="unweighed">
      <span>
        No weigh-in of <b>{view.page}</b>
        {side && `, ${side},`} under these conditions: {deviceLabel(view.device)}, {view.link}, {view.visit} visit.
      </span>
      <Button
        size="small"
        type="primary"
        disabled={busy}
        onClick={() =>
          weighMore.mutate({ devices: [view.device], visit: view.visit, link: view.link, runs: 3, pages: [view.page] })
        }
      >
        Weigh with three loads
      </Button>
      <Button size="small" onClick={() => view.set({ device: "phone", visit: "first", link: UNLIMITED })}>
        Back to the usual conditions
      </Button>
    </div>
  );
}
