import { Button, type InputRef, Select, Table } from "antd";
import { useMemo, useRef, useState } from "react";
import type { Detail, RequestRow } from "../api/client";
import type { PartProps } from "../model/part";
import { useKeys } from "../frame/keys";
import { ownerKey, ownerWords, shortAddress } from "../ui/parties";
import { Filter } from "../ui/Filter";
import { count, kB, requests as requestsWords } from "../ui/format";
import { COLOURS, isKind, LABELS } from "../ui/kinds";
import { type Chosen, Loaded, Sides, useChosen } from "./chosen";
import { type Entry, receiving, waiting } from "./entry";
import { Lanes } from "./Lanes";
import { RequestDrawer } from "./RequestDrawer";

const SIZES = [0, 10_000, 100_000, 500_000];

/** Lanes on a time axis, and the table of all requests. */
export default function Requests({ bench, view }: PartProps) {
  const chosen = useChosen(bench, view);
  return (
    <Loaded chosen={chosen}>
      {(detail) => <Shown key={detail.weigh_in.id} bench={bench} view={view} chosen={chosen} detail={detail} />}
    </Loaded>
  );
}

function Shown({
  bench,
  view,
  chosen,
  detail,
}: Pick<PartProps, "bench" | "view"> & { chosen: Chosen; detail: Detail }) {
  const [filter, setFilter] = useState("");
  const [least, setLeast] = useState(0);
  const [open, setOpen] = useState<number | null>(null);
  const owner = detail.brought.some((row) => ownerKey(row) === view.who) ? view.who : "";
  const box = useRef<InputRef>(null);
  const all = useMemo<Entry[]>(() => detail.requests.map((request, position) => ({ ...request, position })), [detail]);
  const text = filter.toLowerCase();
  const rows = all.filter(
    (row) =>
      (!view.kind || row.kind === view.kind) &&
      (!owner || ownerKey(row.brought_by) === owner) &&
      row.transferred >= least &&
      row.url.toLowerCase().includes(text),
  );
  const order = useRef<readonly Entry[]>(rows);
  function move(step: number) {
    const list = order.current.filter((row) => rows.includes(row));
    const at = list.findIndex((row) => row.position === open);
    const next = list[Math.min(list.length - 1, Math.max(0, at + step))];
    if (next) setOpen(next.position);
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
  const base = `/api/sites/${bench.id}/weigh-ins/${detail.weigh_in.id}`;
  const bytes = rows.reduce((sum, row) => sum + row.transferred, 0);
  const asked = rows.filter((row) => !row.cached).length;
  return (
    <section className="requests">
      <div className="head">
        <h1>{view.page}</h1>
        <Sides chosen={chosen} />
        <span className="soft" data-testid="shown-sum">
          {rows.length < all.length ? `${count(rows.length)} of ${count(all.length)} shown: ` : ""}
          {requestsWords(asked)}, {kB(bytes)}
        </span>
        <span className="end row">
          <Filter ref={box} label="Filter by address" value={filter} onChange={setFilter} />
          <Select
            size="small"
            aria-label="Loaded by"
            className="who"
            value={owner}
            onChange={(who) => view.set({ who })}
            popupMatchSelectWidth={false}
            options={[
              { value: "", label: "Loaded by anyone" },
              ...detail.brought.map((row) => ({ value: ownerKey(row), label: ownerWords(row) })),
            ]}
          />
          <Select
            size="small"
            aria-label="Size"
            value={least}
            onChange={setLeast}
            options={SIZES.map((value) => ({ value, label: value ? `from ${kB(value)}` : "Any size" }))}
          />
          <Button size="small" href={`${base}/weigh-in.har`}>
            HAR
          </Button>
          <Button size="small" href={`${base}/requests.csv`}>
            CSV
          </Button>
        </span>
      </div>
      <Lanes rows={rows} own={detail.own_hosts} marks={detail.marks} open={open} onOpen={setOpen} />
      <Table<Entry>
        size="small"
        rowKey="position"
        dataSource={rows}
        virtual
        scroll={{ y: 300, x: 1060 }}
        pagination={false}
        onChange={(_pages, _filters, _sorter, extra) => {
          order.current = extra.currentDataSource;
        }}
        rowClassName={(row) => `${row.position === open ? "sel" : ""}${row.after_load || row.scrolled ? " later" : ""}`}
        onRow={(row) => ({
          onClick: () => setOpen(row.position),
          onKeyDown: (event) => {
            if (event.key === "Enter") setOpen(row.position);
          },
          tabIndex: 0,
          "aria-label": row.url,
        })}
        locale={{ emptyText: all.length ? "No requests match." : "The page made no requests." }}
        columns={[
          {
            title: "Kind",
            width: 104,
            render: (_, row) => (
              <span className="kind">
                <i style={{ background: isKind(row.kind) ? COLOURS[row.kind] : undefined }} />
                {isKind(row.kind) ? LABELS[row.kind] : row.kind}
              </span>
            ),
          },
          {
            title: "Address",
            ellipsis: true,
            render: (_, row) => (
              <span title={row.url}>
                {shortAddress(row.url, detail.own_hosts)}
                <Marks row={row} />
              </span>
            ),
          },
          {
            title: "Loaded by",
            width: 170,
            ellipsis: true,
            render: (_, row) => <span title={ownerWords(row.brought_by)}>{ownerWords(row.brought_by)}</span>,
          },
          {
            title: "Transferred",
            width: 124,
            align: "right",
            defaultSortOrder: "descend",
            sorter: (a, b) => a.transferred - b.transferred,
            render: (_, row) => (row.cached ? "from cache" : kB(row.transferred)),
          },
          {
            title: "Unpacked",
            width: 110,
            align: "right",
            sorter: (a, b) => a.decoded - b.decoded,
            render: (_, row) => kB(row.decoded),
          },
          {
            title: "Begins",
            width: 92,
            align: "right",
            sorter: (a, b) => a.started - b.started,
            render: (_, row) => (row.scrolled ? "on scroll" : `${count(row.started)} ms`),
          },
          {
            title: "Waits",
            width: 88,
            align: "right",
            sorter: (a, b) => waiting(a) - waiting(b),
            render: (_, row) => `${count(waiting(row))} ms`,
          },
          {
            title: "Receives",
            width: 104,
            align: "right",
            sorter: (a, b) => receiving(a) - receiving(b),
            render: (_, row) => `${count(receiving(row))} ms`,
          },
        ]}
      />
      <RequestDrawer bench={bench} detail={detail} entry={open === null ? undefined : all[open]} onOpen={setOpen} />
    </section>
  );
}

function Marks({ row }: { row: RequestRow }) {
  return (
    <>
      {row.missing && <em className="missing"> missing</em>}
      {row.status >= 300 && row.status < 400 && (
        <em className="soft"> {row.status === 304 ? "unchanged" : "redirect"}</em>
      )}
      {row.again && <em className="soft"> {row.again}</em>}
    </>
  );
}
