import { Alert, Button, Checkbox, Modal, Progress, Select, Spin } from "antd";
import { lazy, Suspense, useState } from "react";
import { Navigate, useNavigate, useParams } from "react-router";
import type { Bench, Session } from "../api/client";
import { isActive, useBench, useWork } from "../api/hooks";
import { Beam } from "../beam/Beam";
import { Bar } from "../frame/Bar";
import { Conditions, deviceLabel } from "../frame/Conditions";
import { Foot } from "../frame/Foot";
import { useKeys } from "../frame/keys";
import { Trail } from "../frame/Trail";
import { Trouble } from "../ui/Trouble";
import { isStage, type Stage, STAGES, UNLIMITED, useView, type View, weighInOf } from "./state";

const PARTS = {
  weigh: lazy(() => import("../weigh/Weigh")),
  sort: lazy(() => import("./Sort")),
  lighten: lazy(() => import("./Lighten")),
  check: lazy(() => import("./Check")),
  "hand-over": lazy(() => import("./HandOver")),
};

export interface PartProps {
  bench: Bench;
  view: View;
  work: ReturnType<typeof useWork>;
  busy: boolean;
}

export default function BenchPage({ session }: { session: Session }) {
  const { id = "", stage } = useParams();
  const bench = useBench(id);
  if (!isStage(stage)) return <Navigate to={`/sites/${id}/sort`} replace />;
  if (bench.error) return <Trouble error={bench.error} again={() => void bench.refetch()} />;
  if (!bench.data) {
    return (
      <>
        <Bar session={session} />
        <div className="waiting"><Spin /></div>
      </>
    );
  }
  return <Loaded session={session} bench={bench.data} stage={stage} />;
}

function Loaded({ session, bench, stage }: { session: Session; bench: Bench; stage: Stage }) {
  const view = useView(bench);
  const work = useWork(bench);
  const navigate = useNavigate();
  const [help, setHelp] = useState(false);
  const stages = STAGES.map((name, i) => [
    String(i + 1),
    (down: boolean) => { if (down) void navigate({ pathname: `/sites/${bench.id}/${name}`, search: view.query }); },
  ]);
  useKeys({ ...Object.fromEntries(stages) as Record<string, (down: boolean) => void>, "?": (down) => { if (down) setHelp(true); } });
  const before = weighInOf(bench.weigh_ins, view);
  const after = weighInOf(bench.result?.weigh_ins, view);
  const busy = isActive(bench.job) || [work.lighten, work.edit, work.weigh, work.weighMore, work.walk, work.setRules, work.choose, work.setImages, work.carryOut].some((mutation) => mutation.isPending);
  const Part = PARTS[stage];
  return (
    <div className="bench">
      <Bar
        session={session}
        path={
          <>
            <span className="path-site" title={bench.name}>{bench.name}</span>
            {bench.pages.length > 0 && (
              <>
                <span className="slash">/</span>
                <Select
                  variant="borderless"
                  popupMatchSelectWidth={false}
                  aria-label="Page"
                  value={view.page}
                  onChange={(page) => view.set({ page })}
                  options={bench.pages.map((page) => ({ value: page, label: page }))}
                />
              </>
            )}
          </>
        }
        trail={<Trail bench={bench} stage={stage} query={view.query} />}
        conditions={bench.weigh_ins.length > 0 && <Conditions bench={bench} view={view} busy={busy} onAllow={(bytes) => work.allow.mutate(bytes)} onWeigh={(body) => work.weighMore.mutate(body)} />}
      />
      {before && <Beam before={before} after={after} unweighed={bench.result !== null && !after} allowance={bench.allowance} kind={view.kind} onKind={(kind) => view.set({ kind })} />}
      <JobLine bench={bench} work={work} />
      {work.error && <Alert type="error" banner title={work.error.message} />}
      {bench.weigh_ins.length > 0 ? (
        <>
          {(!before || (bench.result && !after)) && <Unweighed side={before ? "as it is now" : ""} view={view} busy={busy} work={work} />}
          <Suspense fallback={<div className="waiting"><Spin /></div>}>
            <Part bench={bench} view={view} work={work} busy={busy} />
          </Suspense>
        </>
      ) : (
        <FirstWeighIn bench={bench} work={work} />
      )}
      <Foot bench={bench} view={view} onHelp={() => setHelp(true)} />
      <Modal title="Keys" open={help} footer={null} onCancel={() => setHelp(false)}>
        <dl className="keys">
          <dt><kbd>n</kbd> <kbd>p</kbd></dt><dd>next and previous row</dd>
          <dt><kbd>t</kbd></dt><dd>try or take back the change of the row</dd>
          <dt><kbd>b</kbd></dt><dd>hold to see the page as found</dd>
          <dt><kbd>1</kbd> to <kbd>5</kbd></dt><dd>the stages</dd>
          <dt><kbd>/</kbd></dt><dd>filter</dd>
          <dt><kbd>?</kbd></dt><dd>these keys</dd>
        </dl>
      </Modal>
    </div>
  );
}

/** Nothing is shown for conditions under which nothing was measured. */
function Unweighed({ side, view, busy, work }: { side: string; view: View; busy: boolean; work: PartProps["work"] }) {
  return (
    <div className="unweighed">
      <span><b>{view.page}</b>{side && `, ${side},`} was not weighed under these conditions: {deviceLabel(view.device)}, {view.link}, {view.visit} visit.</span>
      <Button size="small" type="primary" disabled={busy} onClick={() => work.weighMore.mutate({ devices: [view.device], visit: view.visit, link: view.link, runs: 3, pages: [view.page] })}>Weigh it, three runs</Button>
      <Button size="small" onClick={() => view.set({ device: "phone", visit: "first", link: UNLIMITED })}>Back to the usual ones</Button>
    </div>
  );
}

const STEPS: Record<string, string> = {
  record: "Visiting",
  walk: "Walking over the pages",
  weigh: "Weighing",
  survey: "Trying out smaller files",
  check: "Comparing with the page as found",
  "weigh again": "Weighing again",
};

/** What is being done, with a way to stop it; or why it failed. */
function JobLine({ bench, work }: { bench: Bench; work: PartProps["work"] }) {
  const job = bench.job;
  if (!job) return null;
  if (job.state === "failed") {
    return <Alert type="error" banner title={`The last work on this site failed: ${job.error}`} action={bench.weigh_ins.length > 0 || bench.files === 0 ? undefined : <Button size="small" onClick={() => work.weigh.mutate()}>Weigh again</Button>} />;
  }
  return (
    <div className="job" role="status">
      <b>{job.paused ? "Paused" : job.state === "waiting" ? "Waiting to start" : (STEPS[job.stage] ?? "Starting")}</b>
      <Progress percent={job.total ? Math.round((job.done / job.total) * 100) : 0} size="small" showInfo={false} />
      <span className="soft job-note">{job.total > 0 && `${job.done} of ${job.total}`} {job.note}</span>
      <Checkbox checked={job.easy} onChange={(event) => work.steer.mutate({ job: job.id, paused: job.paused, easy: event.target.checked })}>Go easy on this machine</Checkbox>
      <Button size="small" loading={work.steer.isPending} onClick={() => work.steer.mutate({ job: job.id, paused: !job.paused, easy: job.easy })}>{job.paused ? "Go on" : "Pause"}</Button>
      <Button size="small" loading={work.cancel.isPending} onClick={() => work.cancel.mutate(job.id)}>Stop</Button>
    </div>
  );
}

function FirstWeighIn({ bench, work }: { bench: Bench; work: PartProps["work"] }) {
  const active = isActive(bench.job);
  const visiting = active && bench.files === 0 && bench.job?.kind === "record";
  if (!active && bench.files === 0) {
    return (
      <main className="narrow">
        <h1>Nothing was recorded</h1>
        <p className="soft">The visit to the site's address brought no page. Delete it in the list of sites and try another address.</p>
      </main>
    );
  }
  return (
    <main className="narrow">
      <h1>{active ? (visiting ? "On the way there" : "On the scales") : "Not weighed yet"}</h1>
      <p className="soft">
        {visiting
          ? "The live pages are opened on a phone and on a desktop and scrolled to the end; all that they are answered is recorded. Then they are weighed."
          : active
          ? "Every page is opened in a browser with an empty cache, on a phone and on a desktop. Then smaller files are tried out. Figures appear here when that is done."
          : "The first weigh-in of this site was stopped or failed. Nothing was altered."}
      </p>
      {!active && <Button type="primary" onClick={() => work.weigh.mutate()} loading={work.weigh.isPending}>Weigh it</Button>}
      <Notices bench={bench} />
    </main>
  );
}

export function Notices({ bench }: { bench: Bench }) {
  if (bench.notices.length === 0) return null;
  return (
    <details className="notices">
      <summary>{bench.notices.length} left alone or left out</summary>
      <ul>{bench.notices.map((notice) => <li key={notice.name + notice.reason}><b>{notice.name}</b> {notice.reason}</li>)}</ul>
    </details>
  );
}
