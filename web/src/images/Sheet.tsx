import { Button, Checkbox, type InputRef, Select, Table } from "antd";
import { useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import type { ImageRow, ImagesCommand } from "../api/client";
import { useImages } from "../api/images";
import { useChooseImages } from "../api/plan";
import { useSetImages } from "../api/work";
import type { PartProps } from "../workspace/part";
import { useKeys } from "../frame/keys";
import { count, kB, percent } from "../ui/format";
import { Filter } from "../ui/Filter";
import { Nothing } from "../ui/Nothing";
import { Trouble } from "../ui/Trouble";
import { useSize } from "../ui/useSize";
import { Loupe } from "./Loupe";
import {
  after,
  fits,
  FORMATS,
  LIKENESSES,
  logText,
  nameOf,
  proposalText,
  type Show,
  SHOWS,
  shownText,
  stateText,
} from "./rows";
import { Settings } from "./Settings";
import { Waiting } from "../ui/Waiting";
import { Lead } from "../ui/Lead";

/** Every image of the site: thumbnail, showings, bytes now and after; many can be chosen and treated together. */
export default function Sheet({ bench, busy }: PartProps) {
  const images = useImages(bench.id);
  const choose = useChooseImages(bench.id);
  const setImages = useSetImages(bench.id);
  const [text, setText] = useState("");
  const [show, setShow] = useState<Show>("all");
  const [format, setFormat] = useState("");
  const [marked, setMarked] = useState<string[]>([]);
  const [search] = useSearchParams();
  const [open, setOpen] = useState<string | null>(search.get("look"));
  const box = useRef<InputRef>(null);
  const area = useRef<HTMLDivElement>(null);
  const { height } = useSize(area, images.data !== undefined);
  const all = useMemo(() => images.data?.images ?? [], [images.data]);
  const rows = useMemo(
    () => all.filter((row) => fits(row, show, format, text.toLowerCase())),
    [all, show, format, text],
  );
  const order = useRef<readonly ImageRow[]>(rows);
  const current = all.find((row) => row.path === open);
  function move(step: number) {
    const list = order.current.filter((row) => rows.includes(row));
    const next = list[Math.min(list.length - 1, Math.max(0, list.findIndex((row) => row.path === open) + step))];
    if (next && open) setOpen(next.path);
  }
  useKeys({
    "/": (down) => {
      if (down) box.current?.focus();
    },
    n: (down) => {
      if (down) move(1);
    },
    p: (down) => {
      if (down) move(-1);
    },
  });
  if (images.error) return <Trouble error={images.error} again={() => void images.refetch()} />;
  if (!images.data) return <Waiting />;
  if (all.length === 0)
    return (
      <main className="narrow">
        <Nothing>
          This site has no images. <Lead to="sort">Open other findings</Lead>
        </Nothing>
      </main>
    );
  const before = rows.reduce((sum, row) => sum + row.bytes, 0);
  const left = rows.reduce((sum, row) => sum + after(row), 0);
  const most = Math.max(...rows.map((row) => row.bytes), 1);
  const formats = [...new Set(all.map((row) => row.format).filter(Boolean))].sort();
  return (
    <section className="sheet">
      <div className="head">
        <span data-testid="sheet-sum">
          <b>{count(rows.length)}</b>{" "}
          <span className="soft">
            {rows.length === all.length ? "images" : `of ${count(all.length)} images`}: {kB(before)}, {kB(left)} after
            what is proposed
          </span>
        </span>
        <span className="end row">
          <Filter ref={box} label="Filter by name" value={text} onChange={setText} />
          <Select
            size="small"
            aria-label="Show"
            value={show}
            onChange={setShow}
            options={SHOWS}
            popupMatchSelectWidth={false}
          />
          <Select
            size="small"
            aria-label="Format"
            value={format}
            onChange={setFormat}
            popupMatchSelectWidth={false}
            options={[
              { value: "", label: "Any format" },
              ...formats.map((value) => ({ value, label: FORMATS[value] ?? value })),
            ]}
          />
          <Settings
            key={JSON.stringify(images.data.settings)}
            settings={images.data.settings}
            usual={images.data.effort_likeness}
            busy={busy}
            onSet={(body) => setImages.mutate(body)}
          />
        </span>
      </div>
      <Treat
        marked={marked}
        rows={all}
        busy={busy}
        onTreat={(body) => {
          choose.mutate(body);
          setMarked([]);
        }}
        onClear={() => setMarked([])}
      />
      <div className="sheet-rows" ref={area}>
        <Table<ImageRow>
          size="small"
          rowKey="path"
          dataSource={rows}
          virtual
          scroll={{ y: Math.max(200, height - 42), x: 1180 }}
          pagination={false}
          rowSelection={{
            selectedRowKeys: marked,
            onChange: (keys) => setMarked(keys.map(String)),
            columnWidth: 36,
            getCheckboxProps: (row) => ({ "aria-label": `Choose ${row.path}` }),
          }}
          onChange={(_pages, _filters, _sorter, extra) => {
            order.current = extra.currentDataSource;
          }}
          onRow={(row) => ({ onDoubleClick: () => setOpen(row.path), "aria-label": row.path })}
          locale={{ emptyText: "No images match." }}
          columns={[
            {
              title: "",
              width: 60,
              render: (_, row) => (
                <button
                  type="button"
                  className="thumb"
                  aria-label={`Open ${nameOf(row)} in the loupe`}
                  onClick={() => setOpen(row.path)}
                >
                  <Thumb site={bench.id} row={row} />
                </button>
              ),
            },
            {
              title: "File",
              ellipsis: true,
              sorter: (a, b) => a.path.localeCompare(b.path),
              render: (_, row) => (
                <span title={logText(row)}>
                  <span className="file">{nameOf(row)}</span>
                  <small className="soft">{marksText(row)}</small>
                </span>
              ),
            },
            {
              title: "Shown, CSS px",
              width: 132,
              sorter: (a, b) => widest(a) - widest(b),
              render: (_, row) => (
                <small className="soft lines">
                  {shownText(row).map((line) => (
                    <span key={line}>{line}</span>
                  ))}
                  {Object.keys(row.shown).length === 0 && "not shown"}
                </small>
              ),
            },
            {
              title: "Pixels",
              width: 96,
              align: "right",
              sorter: (a, b) => a.width - b.width,
              render: (_, row) => (row.width ? `${count(row.width)}x${count(row.height)}` : ""),
            },
            {
              title: "Format",
              width: 80,
              sorter: (a, b) => a.format.localeCompare(b.format),
              render: (_, row) => FORMATS[row.format] ?? "unread",
            },
            {
              title: "Bytes",
              width: 86,
              align: "right",
              defaultSortOrder: "descend",
              sorter: (a, b) => a.bytes - b.bytes,
              render: (_, row) => kB(row.bytes),
            },
            {
              title: "Bytes per px",
              width: 86,
              align: "right",
              sorter: (a, b) => (a.per_pixel ?? 0) - (b.per_pixel ?? 0),
              render: (_, row) => (row.per_pixel === null ? "" : row.per_pixel.toFixed(2)),
            },
            {
              title: "Metadata",
              width: 92,
              align: "right",
              sorter: (a, b) => a.metadata / a.bytes - b.metadata / b.bytes,
              render: (_, row) =>
                row.metadata / Math.max(1, row.bytes) >= 0.005 ? percent(row.metadata / row.bytes) : "",
            },
            {
              title: "Proposed",
              width: 170,
              ellipsis: true,
              render: (_, row) => (
                <span title={proposalText(row)} className={row.proposed ? "" : "soft"}>
                  {proposalText(row)}
                </span>
              ),
            },
            {
              title: "After",
              width: 134,
              align: "right",
              sorter: (a, b) => after(a) - after(b),
              render: (_, row) => <Left row={row} most={most} />,
            },
            {
              title: "",
              width: 66,
              render: (_, row) => (
                <span className="soft" title={row.proposed?.set_aside}>
                  {stateText(row)}
                </span>
              ),
            },
          ]}
        />
      </div>
      {current && (
        <Loupe
          key={current.path}
          bench={bench}
          row={current}
          busy={busy}
          onClose={() => setOpen(null)}
          onMove={move}
          onUse={(body) => {
            choose.mutate(body);
            setOpen(null);
          }}
        />
      )}
    </section>
  );
}

function Thumb({ site, row }: { site: string; row: ImageRow }) {
  const [failed, setFailed] = useState(false);
  if (failed || row.refused || !row.format) return <span className="no-thumb">no preview</span>;
  const source =
    row.format === "SVG"
      ? row.file
      : `/api/sites/${site}/images/thumb?path=${encodeURIComponent(row.path)}&of=${row.digest.slice(0, 8)}`;
  return <img src={source} alt="" loading="lazy" decoding="async" onError={() => setFailed(true)} />;
}

/** Bytes after as a bar on the scale of the heaviest: solid what is left, hatched what would go. */
function Left({ row, most }: { row: ImageRow; most: number }) {
  const rest = after(row);
  return (
    <span className="left">
      <svg width="58" height="10" aria-hidden="true">
        <rect width={(row.bytes / most) * 58} height="10" fill="url(#hatch-images)" />
        <rect width={(rest / most) * 58} height="10" fill="#B4532A" />
        <defs>
          <pattern id="hatch-images" width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="4" height="4" fill="#F5F1E8" />
            <line x1="0" y1="0" x2="0" y2="4" stroke="#B4532A" strokeWidth="1.6" />
          </pattern>
        </defs>
      </svg>
      {rest < row.bytes ? kB(rest) : "same"}
    </span>
  );
}

function widest(row: ImageRow): number {
  return Math.max(0, ...Object.values(row.shown).map(([width = 0]) => width));
}

function marksText(row: ImageRow): string {
  const marks = [];
  if (row.by_script) marks.push("referenced by scripts only");
  if (row.family)
    marks.push(row.family === row.path ? "largest size" : `smaller size of ${nameOf({ ...row, path: row.family })}`);
  if (row.frames > 1) marks.push(`${row.frames} frames`);
  if (marks.length === 0) marks.push(row.pages.length === 1 ? (row.pages[0] ?? "") : `${row.pages.length} pages`);
  return marks.join(", ");
}

type Treatment = "" | "leave" | "WEBP" | "AVIF" | "JPEG" | "PNG";

/** How the chosen images are treated, all at once. */
function Treat({
  marked,
  rows,
  busy,
  onTreat,
  onClear,
}: {
  marked: string[];
  rows: ImageRow[];
  busy: boolean;
  onTreat: (body: ImagesCommand) => void;
  onClear: () => void;
}) {
  const [format, setFormat] = useState<Treatment>("WEBP");
  const [likeness, setLikeness] = useState<"exact" | "true" | "fine" | "fair">("fine");
  const [family, setFamily] = useState(false);
  if (marked.length === 0) return null;
  const chosen = new Set(marked);
  const related = rows.some((row) => row.family && chosen.has(row.path));
  const body: ImagesCommand = {
    do: "images",
    paths: marked,
    format,
    likeness,
    width: 0,
    quality: 0,
    on: true,
    family: family && related,
  };
  return (
    <div className="treat" role="region" aria-label="Selected images">
      <b>{marked.length === 1 ? "1 image" : `${count(marked.length)} images`}</b>
      <Select
        size="small"
        aria-label="New format"
        value={format}
        onChange={setFormat}
        popupMatchSelectWidth={false}
        options={[
          { value: "WEBP", label: "WebP" },
          { value: "AVIF", label: "AVIF" },
          { value: "", label: "Same format and name" },
          { value: "JPEG", label: "JPEG" },
          { value: "leave", label: "Leave unchanged" },
        ]}
      />
      {format !== "leave" && (
        <Select
          size="small"
          aria-label="Likeness"
          value={likeness}
          onChange={setLikeness}
          popupMatchSelectWidth={false}
          options={LIKENESSES.map(({ value, label, hint }) => ({ value, label: `${label}: ${hint}` }))}
        />
      )}
      {related && (
        <Checkbox checked={family} onChange={(event) => setFamily(event.target.checked)}>
          including their other sizes
        </Checkbox>
      )}
      <Button size="small" type="primary" disabled={busy} onClick={() => onTreat(body)}>
        Add to plan
      </Button>
      <Button size="small" onClick={onClear}>
        Clear selection
      </Button>
    </div>
  );
}
