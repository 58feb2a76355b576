import { useVirtualizer } from "@tanstack/react-virtual";
import { Alert, Button } from "antd";
import { useMemo, useRef } from "react";
import type { Bench } from "../api/client";
import { useEdit } from "../api/plan";
import { useUsedText } from "../api/weighing";
import { count, percent } from "../ui/format";
import type { Cell } from "./cell";
import { type Line, linesOf, nextUnused, partsOf } from "./lines";
import { Waiting } from "../ui/Waiting";

const HEIGHT = 18;

/** A file's text, used parts solid and unused ones hatched; only what is in sight is drawn: long files stay quick. */
export function UsedText({
  bench,
  cell,
  stamp,
  onClose,
}: {
  bench: Bench;
  cell: Cell;
  stamp: string;
  onClose: () => void;
}) {
  const { file, page } = cell;
  const found = useUsedText(bench.id, file.url, page, stamp);
  const frame = useRef<HTMLDivElement>(null);
  const text = found.data?.text ?? "";
  const lines = useMemo(() => linesOf(text), [text]);
  const spans = found.data?.spans ?? [];
  const used = page ? (file.pages[page] ?? 0) : file.used;
  // Only a compiler that memoizes by itself minds; none is in use.
  // eslint-disable-next-line react-hooks/incompatible-library
  const rows = useVirtualizer({
    count: lines.length,
    getScrollElement: () => frame.current,
    estimateSize: () => HEIGHT,
    overscan: 5,
  });
  function skip() {
    const top = Math.ceil((rows.scrollOffset ?? 0) / HEIGHT);
    const line = nextUnused(lines, spans, top + 1);
    if (line >= 0) rows.scrollToIndex(line, { align: "start" });
  }
  return (
    <section className="used-text" aria-label={`Text of ${file.path}`}>
      <div className="head">
        <h1>{file.path}</h1>
        <span className="soft">
          {page ? `on ${page}` : "on all pages"}: {count(used)} of {count(file.size)} bytes used,{" "}
          {percent(file.size ? used / file.size : 0)}
        </span>
        <span className="end row">
          <Without bench={bench} cell={cell} />
          <Button size="small" onClick={skip}>
            Show next unused part
          </Button>
          <Button size="small" onClick={onClose}>
            Close text
          </Button>
        </span>
      </div>
      {found.error && <Alert type="error" banner title={found.error.message} />}
      {found.isLoading && <Waiting />}
      {found.data && (
        <div className="text-frame" ref={frame} tabIndex={0}>
          <div style={{ height: rows.getTotalSize(), position: "relative" }}>
            {rows.getVirtualItems().map(({ index, start }) => {
              const line = lines[index];
              return line && <Row key={index} line={line} text={text} spans={spans} top={start} />;
            })}
          </div>
          {found.data.cut && <p className="soft pad">Only the first {count(text.length)} characters are shown.</p>}
        </div>
      )}
    </section>
  );
}

/** Leaves the file out of the chosen page, or of all that load it, or has it there again. */
function Without({ bench, cell }: { bench: Bench; cell: Cell }) {
  const edit = useEdit(bench.id);
  const { file, page } = cell;
  const loading = Object.keys(file.pages);
  const pages = page ? [page] : loading;
  const change = bench.plan?.changes.find(({ id }) => id === `leave-out:${file.path}`);
  const gone = change?.on ? pages.filter((each) => change.pages.includes(each)) : [];
  const out = gone.length < pages.length;
  if (!bench.plan) return null;
  const where = page ? "this page" : `all ${count(loading.length)} pages`;
  return (
    <Button
      size="small"
      loading={edit.isPending}
      title="Files that it loads are left out too. The check shows whether the page still works."
      onClick={() => edit.mutate([{ do: "leave out", file: file.path, pages, out }])}
    >
      {out ? `Leave file out of ${where}` : `Restore file on ${where}`}
    </Button>
  );
}

function Row({ line, text, spans, top }: { line: Line; text: string; spans: readonly number[][]; top: number }) {
  return (
    <pre style={{ top, height: HEIGHT }}>
      <span className="line-number">{line.number || ""}</span>
      {partsOf(line, spans).map((part) => (
        <span key={part.start} className={part.used ? "used" : "unused"}>
          {text.slice(part.start, part.end)}
        </span>
      ))}
    </pre>
  );
}
