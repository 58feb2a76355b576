import type { Bench } from "../api/client";

/** What was left alone or left out, and why. */
export function Notices({ bench }: { bench: Bench }) {
  if (bench.notices.length === 0) return null;
  return (
    <details className="notices">
      <summary>{bench.notices.length} notices about files left alone</summary>
      <ul>
        {bench.notices.map((notice) => (
          <li key={notice.name + notice.reason}>
            <b>{notice.name}</b> {notice.reason}
          </li>
        ))}
      </ul>
    </details>
  );
}
