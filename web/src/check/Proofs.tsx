import type { Job, Proof } from "../api/client";

const WORDS: Record<Proof["proven"], string> = {
  "same at rest": "looks as found; walk under way",
  same: "looks and works as found",
  differs: "differs; searching for the culprit",
  "cannot be compared": "cannot be compared",
};
const STOPPED = {
  "same at rest": "looks as found; walk not done",
  differs: "differs; culprit not found",
};

const named = (device: string) => device.charAt(0).toUpperCase() + device.slice(1);
const DONE = ["same", "cannot be compared"];

function byPage(proofs: Proof[]): Map<string, Proof[]> {
  const pages = new Map<string, Proof[]>();
  for (const proof of proofs) pages.set(proof.page, [...(pages.get(proof.page) ?? []), proof]);
  return pages;
}

/** How many pages the check has come to the end of on all devices. */
export function provenPages(job: Job): number {
  return [...byPage(job.proofs).values()].filter((some) => some.every(({ proven }) => DONE.includes(proven))).length;
}

/** What the check has found so far of the page in view. */
export function Verdict({ job, page, pages }: { job: Job; page: string; pages: number }) {
  const own = job.proofs.filter((proof) => proof.page === page);
  if (job.proofs.length === 0) return null;
  return (
    <div className="verdict" role="log" aria-label="Verdict on this page">
      <b>{page}</b>
      {own.length === 0 && <span className="soft">waiting</span>}
      {own.map(({ device, proven, text }) => (
        <span key={device} className={proven === "differs" ? "bad" : ""} title={text}>
          {named(device)}: {WORDS[proven]}
        </span>
      ))}
      <span className="soft">
        {provenPages(job)} of {pages} {pages === 1 ? "page" : "pages"} checked
      </span>
    </div>
  );
}

/** All pages that a check under way has come to, the latest first. */
export function ProofTable({ job }: { job: Job }) {
  const pages = [...byPage(job.proofs)].reverse();
  const words = job.state === "cancelled" ? { ...WORDS, ...STOPPED } : WORDS;
  const devices = [...new Set(job.proofs.map(({ device }) => device))];
  return (
    <table className="proofs" aria-label="Pages checked so far">
      <thead>
        <tr>
          <th>Page</th>
          {devices.map((device) => (
            <th key={device}>{named(device)}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {pages.map(([page, some]) => (
          <tr key={page}>
            <td className="words">{page}</td>
            {devices.map((device) => {
              const proof = some.find((each) => each.device === device);
              return (
                <td key={device} className={proof?.proven === "differs" ? "bad" : ""}>
                  {proof ? words[proof.proven] : <span className="soft">not yet</span>}
                  {proof?.text && <small className="words">{proof.text}</small>}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
