import { Button, Segmented } from "antd";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { useTry } from "../api/plan";
import { usePresets } from "../api/presets";
import { useLighten } from "../api/work";
import { useKeys } from "../frame/keys";
import { kB } from "../ui/format";
import { Nothing } from "../ui/Nothing";
import { FindingList } from "./FindingList";
import { Facts } from "./Facts";
import { PagePicture } from "./PagePicture";
import type { PartProps } from "../model/part";
import { Presets } from "./Presets";
import { bytesOf, counts, type Item, itemsOf, loadsLater, standing } from "../model/state";
import { Waiting } from "../ui/Waiting";
import { Term } from "../ui/Term";
import { Lead } from "../frame/Lead";

const USUAL_EFFORT = "steady";
const Use = lazy(() => import("../use/Use"));

/** What is worth doing, and which parts of styles and scripts are used where. */
export default function Sort(props: PartProps) {
  const { view } = props;
  const use = view.part === "use";
  return (
    <>
      <div className="head parts">
        <Segmented
          value={use ? "use" : "worth"}
          onChange={(part) => view.set({ part: part === "use" ? "use" : "" })}
          options={[
            { value: "worth", label: "Findings" },
            { value: "use", label: "Use map" },
          ]}
        />
        <span className="soft">
          {use
            ? "Bytes of styles and scripts that a walk used"
            : "Largest first. Click a tag in the picture to find its row."}
        </span>
      </div>
      {use ? (
        <Suspense fallback={<Waiting />}>
          <Use {...props} />
        </Suspense>
      ) : (
        <WorthDoing {...props} />
      )}
    </>
  );
}

/** The list, the page's picture with tags, the facts of the chosen row. */
function WorthDoing({ bench, view, busy }: PartProps) {
  const tryOut = useTry(bench.id);
  const lighten = useLighten(bench.id);
  const presets = usePresets();
  const items = itemsOf(bench, view.kind);
  const [chosen, setChosen] = useState("");
  const [asFound, setAsFound] = useState(false);
  const list = useRef<HTMLDivElement>(null);
  const position = Math.max(
    0,
    items.findIndex((item) => item.excess.id === chosen),
  );
  const current: Item | undefined = items[position];

  function move(step: number) {
    const next = items[Math.min(items.length - 1, Math.max(0, position + step))];
    if (next) setChosen(next.excess.id);
  }
  function toggle(item: Item | undefined) {
    if (!item?.change || busy) return;
    const { id } = item.change;
    const state = standing(item.change, item.outcome);
    if (counts(state)) tryOut.mutate({ commands: [{ do: "switch", ids: [id], on: false, insist: false }] });
    else if (state === "off") tryOut.mutate({ commands: [{ do: "switch", ids: [id], on: true, insist: false }] });
    else tryOut.mutate({ commands: [], again: [id] });
  }
  useKeys({
    n: (down) => {
      if (down) move(1);
    },
    p: (down) => {
      if (down) move(-1);
    },
    t: (down) => {
      if (down) toggle(current);
    },
    b: setAsFound,
  });
  useEffect(() => {
    list.current?.querySelector("[aria-selected=true]")?.scrollIntoView({ block: "nearest" });
  }, [chosen]);

  const sum = (some: Item[]) => some.reduce((total, item) => total + bytesOf(item), 0);
  const whole = sum(items);
  const later = sum(items.filter((item) => loadsLater(bench.words, item)));
  return (
    <main className="sort">
      <section className="list" ref={list}>
        <div className="head">
          <h1>Findings</h1>
          <span className="soft">
            {items.length > 0 && (
              <>
                <Term of="Finding">{kB(whole - later)} could go</Term>
                {later > 0 && `, ${kB(later)} could load on demand`}
              </>
            )}
          </span>
        </div>
        <div className="efforts">
          <span className="soft">
            Try all by <Term of="Effort">effort</Term>:
          </span>
          {bench.words.efforts.map(({ name, hint }) => (
            <Button
              key={name}
              size="small"
              type={name === USUAL_EFFORT && !bench.run ? "primary" : "default"}
              disabled={busy}
              title={hint}
              onClick={() => lighten.mutate({ effort: name, page: view.page })}
            >
              Try {name}
            </Button>
          ))}
          {presets.data && presets.data.length > 0 && (
            <Presets
              presets={presets.data}
              busy={busy}
              onTry={(body) => lighten.mutate({ ...body, page: view.page })}
            />
          )}
        </div>
        {items.length > 0 ? (
          <FindingList
            items={items}
            whole={whole}
            chosen={current?.excess.id ?? ""}
            busy={busy}
            onChoose={setChosen}
            onToggle={toggle}
          />
        ) : (
          <Nothing>
            {view.kind ? (
              <>
                Nothing of this kind is worth doing.{" "}
                <Button size="small" onClick={() => view.set({ kind: null })}>
                  Show all file types
                </Button>
              </>
            ) : (
              <>
                Nothing is worth doing: this site is light already.{" "}
                <Lead to="weigh" part="allowances">
                  Set limits for pages
                </Lead>
              </>
            )}
          </Nothing>
        )}
      </section>
      <PagePicture bench={bench} view={view} items={items} chosen={current} asFound={asFound} onChoose={setChosen} />
      <Facts bench={bench} item={current} busy={busy} onToggle={() => toggle(current)} view={view} />
    </main>
  );
}
