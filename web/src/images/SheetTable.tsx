import { Table, type TableColumnsType } from "antd";
import { useMemo, useState } from "react";
import type { ImageRow } from "../api/client";
import { count, kB, percent } from "../ui/format";
import { after, FORMATS, logText, nameOf, proposalText, shownText, stateText } from "./rows";

interface Props {
  site: string;
  rows: ImageRow[];
  marked: string[];
  height: number;
  onMark: (paths: string[]) => void;
  onOpen: (path: string) => void;
  onOrder: (rows: readonly ImageRow[]) => void;
}

/** The rows of the contact sheet: only those in sight are drawn. */
export function SheetTable({ site, rows, marked, height, onMark, onOpen, onOrder }: Props) {
  const most = Math.max(...rows.map((row) => row.bytes), 1);
  const columns = useMemo(() => columnsOf(site, most, onOpen), [site, most, onOpen]);
  return (
    <Table<ImageRow>
      size="small"
      rowKey="path"
      dataSource={rows}
      virtual
      scroll={{ y: Math.max(200, height - 42), x: 1180 }}
      pagination={false}
      rowSelection={{
        selectedRowKeys: marked,
        onChange: (keys) => onMark(keys.map(String)),
        columnWidth: 36,
        getCheckboxProps: (row) => ({ "aria-label": `Choose ${row.path}` }),
      }}
      onChange={(_pages, _filters, _sorter, extra) => onOrder(extra.currentDataSource)}
      onRow={(row) => ({ onDoubleClick: () => onOpen(row.path), "aria-label": row.path })}
      locale={{ emptyText: "No images match." }}
      columns={columns}
    />
  );
}

function columnsOf(site: string, most: number, onOpen: (path: string) => void): TableColumnsType<ImageRow> {
  return [
    {
      title: "",
      width: 60,
      render: (_, row) => (
        <button
          type="button"
          className="thumb"
          aria-label={`Open ${nameOf(row)} in the loupe`}
          onClick={() => onOpen(row.path)}
        >
          <Thumb site={site} row={row} />
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
      render: (_, row) => (row.metadata / Math.max(1, row.bytes) >= 0.005 ? percent(row.metadata / row.bytes) : ""),
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
  ];
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
