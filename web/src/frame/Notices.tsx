import type { Bench } from "../api/client";
import { counted } from "../ui/format";

/** Files that were left alone or left out, with the reasons. */
export function Notices({ notices }: Pick<Bench, "notices">) {
  if (notices.length === 0) return null;
  return (
    <details className="notices">
      <summary>{counted(notices.length, "notice")} about files left alone</summary>
      <ul>
        {notices.map((notice) => (
          <li key={notice.name + notice.reason}>
            <b>{notice.name}</b> {notice.reason}
          </li>
        ))}
      </ul>
    </details>
  );
}
