import { Alert, Button, Checkbox, Progress } from "antd";
import { isActive } from "../api/cache";
import type { Bench } from "../api/client";
import { useCancel, useGoOn, useSteer, useWeigh } from "../api/work";
import { deviceLabel } from "../model/devices";
import { count, kB } from "../ui/format";
import { Notices } from "../frame/Notices";
import { provenPages, Verdict } from "../check/Proofs";

const STEPS: Record<string, string> = {
  read: "Reading the archive",
  record: "Visiting",
  walk: "Walking through the pages",
  weigh: "Weighing",
  survey: "Trying out smaller files",
  check: "Comparing with the page as found",
  "weigh again": "Weighing again",
};

/** What is being done, with a way to stop it; or why it failed. `page` is the one in view. */
export function JobLine({ bench, page }: { bench: Bench; page: string }) {
  const weigh = useWeigh(bench.id);
  const steer = useSteer(bench.id);
  const cancel = useCancel(bench.id);
  const goOn = useGoOn(bench.id);
  const { job } = bench;
  if (!job) return null;
  const pages = new Set(bench.weigh_ins.map((weighIn) => weighIn.page)).size;
  if (job.state === "cancelled") {
    return (
      <Alert
        type="info"
        banner
        closable
        title={`Stopped. ${provenPages(job)} of ${pages} pages are checked. You can continue the check.`}
        action={
          <Button size="small" loading={goOn.isPending} onClick={() => goOn.mutate(job.id)}>
            Continue the check
          </Button>
        }
      />
    );
  }
  if (job.state === "failed") {
    const canWeigh = !bench.taken && bench.files > 0;
    return (
      <Alert
        type="error"
        banner
        title={`The last job on this site failed: ${job.error}`}
        action={
          canWeigh ? (
            <Button size="small" onClick={() => weigh.mutate(undefined)}>
              Weigh again
            </Button>
          ) : undefined
        }
      />
    );
  }
  if (!isActive(job)) return null;
  const state = { job: job.id, paused: job.paused, easy: job.easy };
  return (
    <>
      <div className="job" role={job.aside ? "note" : "status"}>
        <b>
          {job.aside && "In the background: "}
          {job.paused
            ? "Paused"
            : job.state === "waiting"
              ? "Waiting to start"
              : job.kind === "narrow"
                ? closer(bench)
                : (STEPS[job.stage] ?? "Starting")}
        </b>
        <Progress percent={job.total ? Math.round((job.done / job.total) * 100) : 0} size="small" showInfo={false} />
        <span className="soft job-note">
          {job.total > 0 && `${job.done} of ${job.total}`} {job.note}
        </span>
        <Checkbox checked={job.easy} onChange={(event) => steer.mutate({ ...state, easy: event.target.checked })}>
          Use less of this machine
        </Checkbox>
        <Button size="small" loading={steer.isPending} onClick={() => steer.mutate({ ...state, paused: !job.paused })}>
          {job.paused ? "Continue" : "Pause"}
        </Button>
        <Button size="small" loading={cancel.isPending} onClick={() => cancel.mutate(job.id)}>
          Stop
        </Button>
      </div>
      {!job.aside && <Verdict job={job} page={page} pages={pages} />}
    </>
  );
}

/** What is set aside until the check has told which part of it breaks a page. */
function closer(bench: Bench): string {
  const open = new Set(bench.run?.outcomes.filter((outcome) => outcome.open).map(({ change }) => change));
  const bytes = bench.worth.filter(({ id }) => open.has(id)).reduce((sum, worth) => sum + Math.max(0, worth.bytes), 0);
  if (open.size === 0) return "Checking again what was set aside";
  const changes = `${count(open.size)} ${open.size === 1 ? "change" : "changes"}`;
  return `Checking again ${changes} set aside; up to ${kB(bytes)} may come back`;
}

/** A site of which there are no figures yet. */
export function FirstWeighIn({ bench }: { bench: Bench }) {
  const weigh = useWeigh(bench.id);
  const active = isActive(bench.job);
  const visiting = active && bench.files === 0 && bench.job?.kind === "record";
  const reading = active && bench.files === 0 && !visiting;
  if (!active && bench.files === 0) {
    const visited = bench.job?.kind === "record";
    return (
      <main className="narrow">
        <h1>{visited ? "Nothing was recorded" : "Nothing was read"}</h1>
        <p className="soft">
          {visited
            ? "The address led to no page. Delete this site in the list and try another address."
            : "The archive holds no page; the line above says why. Delete this site in the list and upload another archive."}
        </p>
      </main>
    );
  }
  const words = visiting
    ? "The browser opens the live pages as phone and desktop and scrolls to the end; " +
      "the browser records all responses. Then the pages are weighed."
    : active
      ? "A browser opens every page with an empty cache, as phone and desktop. " +
        "Figures appear page by page. Then smaller files are tried out."
      : "The first weigh-in of this site was stopped or failed. Your site is unchanged.";
  return (
    <main className="narrow">
      <h1>
        {active
          ? visiting
            ? "Recording the site"
            : reading
              ? "Unpacking the archive"
              : "Weighing the pages"
          : "Not weighed yet"}
      </h1>
      <p className="soft">{words}</p>
      {active && bench.weigh_ins.length > 0 && <SoFar bench={bench} />}
      {!active && (
        <Button type="primary" onClick={() => weigh.mutate(undefined)} loading={weigh.isPending}>
          Weigh the site
        </Button>
      )}
      <Notices notices={bench.notices} />
    </main>
  );
}

/** What has been weighed of a site that is on the scales. */
function SoFar({ bench }: { bench: Bench }) {
  return (
    <table className="weigh-ins so-far">
      <thead>
        <tr>
          <th>Page</th>
          <th>Device</th>
          <th className="n">Weight</th>
          <th className="n">Requests</th>
        </tr>
      </thead>
      <tbody>
        {bench.weigh_ins.map((weighIn) => (
          <tr key={weighIn.id}>
            <td>{weighIn.page}</td>
            <td>{deviceLabel(weighIn.device)}</td>
            <td className="n">{kB(weighIn.transferred)}</td>
            <td className="n">{count(weighIn.requests)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
