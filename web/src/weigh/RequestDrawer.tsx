import { Drawer, Spin } from "antd";
import type { Bench, Detail } from "../api/client";
import { useHeaders } from "../api/weighing";
import { ownerWords, shortAddress } from "../ui/parties";
import { count, kB } from "../ui/format";
import { isKind, LABELS } from "../ui/kinds";
import { type Entry, receiving, waiting } from "./entry";

interface Props {
  bench: Bench;
  detail: Detail;
  entry: Entry | undefined;
  onOpen: (position: number | null) => void;
}

/** One request in full: why it is here, sizes, times, what may be kept, headers, the file itself. */
export function RequestDrawer({ bench, detail, entry, onOpen }: Props) {
  const headers = useHeaders(bench.id, detail.weigh_in.id, entry ? entry.position : null);
  return (
    <Drawer
      open={entry !== undefined}
      onClose={() => onOpen(null)}
      size={430}
      mask={false}
      title={
        entry && (
          <span className="drawer-title" title={entry.url}>
            {shortAddress(entry.url, detail.own_hosts)}
          </span>
        )
      }
    >
      {entry && (
        <div className="request">
          <h2>Loaded because</h2>
          <ol className="chain">
            {entry.chain.map((position) => {
              const link = detail.requests[position];
              if (!link) return null;
              return (
                <li key={position}>
                  {position === entry.position ? (
                    <b>{shortAddress(link.url, detail.own_hosts)}</b>
                  ) : (
                    <button type="button" className="plain" onClick={() => onOpen(position)}>
                      {shortAddress(link.url, detail.own_hosts)}
                    </button>
                  )}
                </li>
              );
            })}
          </ol>
          <p className="soft">
            Loaded by {ownerWords(entry.brought_by)}.{entry.blocking && " The first paint waits for it."}
            {entry.after_load && " Requested after the page had loaded."}
            {entry.scrolled && " Requested when the page was scrolled."}
          </p>
          <dl>
            <dt>File type</dt>
            <dd>
              {isKind(entry.kind) ? LABELS[entry.kind] : entry.kind}, {entry.media_type || "unknown type"}
            </dd>
            <dt>Response</dt>
            <dd>
              {entry.status || "none"}
              {entry.protocol && `, ${entry.protocol}`}
              {entry.failed && `, ${entry.failed}`}
            </dd>
            <dt>Transferred</dt>
            <dd>{entry.cached ? "0 bytes, from the cache" : `${count(entry.transferred)} bytes`}</dd>
            <dt>Body</dt>
            <dd>{count(entry.body)} bytes</dd>
            <dt>Decoded</dt>
            <dd>{count(entry.decoded)} bytes</dd>
            <dt>Priority</dt>
            <dd>{entry.priority || "unknown"}</dd>
            <dt>Starts after</dt>
            <dd>{count(entry.started)} ms</dd>
            <dt>Waits for</dt>
            <dd>{count(waiting(entry))} ms</dd>
            <dt>Receives for</dt>
            <dd>{count(receiving(entry))} ms</dd>
            <dt>Cached</dt>
            <dd>{entry.lifetime_words || `for ${lasting(entry.lifetime)}`}</dd>
            {entry.again && (
              <>
                <dt>On a repeat visit</dt>
                <dd>{entry.again}</dd>
              </>
            )}
          </dl>
          {headers.isLoading && <Spin size="small" />}
          {headers.data && (
            <>
              {headers.data.preview && entry.kind === "images" && (
                <img className="preview" src={headers.data.preview} alt="" loading="lazy" />
              )}
              {headers.data.preview && (
                <p>
                  <a href={headers.data.preview} target="_blank" rel="noreferrer">
                    Open the file
                  </a>{" "}
                  <span className="soft">({kB(entry.decoded)}, on a host of its own)</span>
                </p>
              )}
              <Fields title="Request headers" fields={headers.data.request} />
              <Fields title="Response headers" fields={headers.data.response} />
            </>
          )}
        </div>
      )}
    </Drawer>
  );
}

function Fields({ title, fields }: { title: string; fields: readonly (readonly string[])[] }) {
  if (fields.length === 0) return null;
  return (
    <details open={title === "Response headers"}>
      <summary>
        {title}: {fields.length} header fields
      </summary>
      <table className="fields">
        <tbody>
          {fields.map(([name, value], i) => (
            <tr key={i}>
              <th scope="row">{name}</th>
              <td>{value}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}

function lasting(seconds: number): string {
  const units: [number, string][] = [
    [86_400 * 365, "years"],
    [86_400, "days"],
    [3600, "hours"],
    [60, "minutes"],
  ];
  for (const [length, name] of units) if (seconds >= length * 1.5) return `${Math.round(seconds / length)} ${name}`;
  return `${Math.round(seconds)} seconds`;
}
