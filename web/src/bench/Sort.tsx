import { Button, Segmented, Spin } from "antd";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import type { Effort } from "../api/client";
import { useKeys } from "../frame/keys";
import { kB } from "../ui/format";
import type { PartProps } from "./BenchPage";
import { ExcessList } from "./ExcessList";
import { Facts } from "./Facts";
import { PagePicture } from "./PagePicture";
import { bytesOf, type Item, itemsOf, standing } from "./state";
import { Nothing } from "../ui/Nothing";

const EFFORTS: { effort: Effort; hint: string }[] = [
  { effort: "gentle", hint: "Nothing lossy" },
  { effort: "steady", hint: "What nobody will notice" },
  { effort: "bold", hint: "All that passes the checks" },
];

const Use = lazy(() => import("../use/Use"));

/** What is worth doing, and which parts of styles and scripts are used where. */
export default function Sort(props: PartProps) {
  const { view } = props;
  return (
    <>
      <div className="head parts">
        <Segmented
          value={view.part === "use" ? "use" : "worth"}
          onChange={(part) => view.set({ part: part === "use" ? "use" : "" })}
          options={[{ value: "worth", label: "Worth doing" }, { value: "use", label: "Use map" }]}
        />
        <span className="soft">{view.part === "use" ? "Which bytes of styles and scripts a walk over the pages used" : "The largest first. A click on a tag in the picture finds its row."}</span>
      </div>
      {view.part === "use" ? <Suspense fallback={<div className="waiting"><Spin /></div>}><Use {...props} /></Suspense> : <WorthDoing {...props} />}
    </>
  );
}

/** The list, the page's picture with tags, the facts of the chosen row. */
function WorthDoing({ bench, view, work, busy }: PartProps) {
  const items = itemsOf(bench, view.kind);
  const [chosen, setChosen] = useState("");
  const [asFound, setAsFound] = useState(false);
  const list = useRef<HTMLDivElement>(null);
  const position = Math.max(0, items.findIndex((item) => item.excess.id === chosen));
  const current: Item | undefined = items[position];

  function move(step: number) {
    const next = items[Math.min(items.length - 1, Math.max(0, position + step))];
    if (next) setChosen(next.excess.id);
  }
  function toggle(item: Item | undefined) {
    if (!item?.change || busy) return;
    const on = standing(item.change) === "off" || standing(item.change) === "set aside";
    work.edit.mutate({ changes: [{ id: item.excess.id, on }] });
  }
  useKeys({
    n: (down) => { if (down) move(1); },
    p: (down) => { if (down) move(-1); },
    t: (down) => { if (down) toggle(current); },
    b: setAsFound,
  });
  useEffect(() => {
    list.current?.querySelector("[aria-selected=true]")?.scrollIntoView({ block: "nearest" });
  }, [chosen]);

  const whole = items.reduce((sum, item) => sum + bytesOf(item), 0);
  return (
    <main className="sort">
      <section className="list" ref={list}>
        <div className="head">
          <h1>Worth doing</h1>
          <span className="soft">{items.length > 0 && `${kB(whole)} could go from the files`}</span>
        </div>
        <div className="efforts">
          <span className="soft">All of it, checked:</span>
          {EFFORTS.map(({ effort, hint }) => (
            <Button key={effort} size="small" type={effort === "steady" && !bench.result ? "primary" : "default"} disabled={busy} title={hint} onClick={() => work.lighten.mutate(effort)}>
              Try {effort}
            </Button>
          ))}
        </div>
        {items.length > 0 ? (
          <ExcessList items={items} whole={whole} chosen={current?.excess.id ?? ""} busy={busy} onChoose={setChosen} onToggle={toggle} />
        ) : (
          <Nothing>{view.kind ? "Nothing of this kind is worth doing." : "Nothing is worth doing: this site is light already."}</Nothing>
        )}
      </section>
      <PagePicture bench={bench} view={view} items={items} chosen={current} asFound={asFound} onChoose={setChosen} />
      <Facts bench={bench} item={current} busy={busy} onToggle={() => toggle(current)} work={work} view={view} />
    </main>
  );
}
