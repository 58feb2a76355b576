import { type InputRef, Select } from "antd";
import { useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import type { ImageRow } from "../api/client";
import { useImages } from "../api/images";
import { useChooseImages } from "../api/plan";
import { useSetImages } from "../api/work";
import type { PartProps } from "../model/part";
import { useKeys } from "../frame/keys";
import { count, kB } from "../ui/format";
import { Filter } from "../ui/Filter";
import { Nothing } from "../ui/Nothing";
import { Trouble } from "../frame/Trouble";
import { useSize } from "../ui/useSize";
import { Loupe } from "./Loupe";
import { after, fits, FORMATS, type Show, SHOWS } from "./rows";
import { Settings } from "./Settings";
import { SheetTable } from "./SheetTable";
import { Treat } from "./Treat";
import { Waiting } from "../ui/Waiting";
import { Lead } from "../frame/Lead";

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
        <SheetTable
          site={bench.id}
          rows={rows}
          marked={marked}
          height={height}
          onMark={setMarked}
          onOpen={setOpen}
          onOrder={(list) => {
            order.current = list;
          }}
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
