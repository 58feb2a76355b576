import { useEffect, useRef } from "react";
import type { Bench } from "../api/client";
import { kB } from "../ui/format";
import { useSize } from "../ui/useSize";
import { counts, type Item, standing, type View } from "../model/state";
import { Nothing } from "../ui/Nothing";

interface Props {
  bench: Bench;
  view: View;
  items: Item[];
  chosen: Item | undefined;
  asFound: boolean;
  onChoose: (id: string) => void;
}

const WORTH_A_TAG = 10_000;

/** The page as a picture, with a tag on every heavy element; a click on a tag chooses its row. */
export function PagePicture({ bench, view, items, chosen, asFound, onChoose }: Props) {
  const found = bench.pictures.find((picture) => picture.page === view.page && picture.device === view.device);
  const pair = bench.run?.pairs.find((entry) => entry.page === view.page && entry.device === view.device);
  const frame = useRef<HTMLElement>(null);
  const room = useSize(frame).width - 28;
  const name = asFound || !pair?.after ? found?.name : pair.after;
  const scale = found ? Math.min(1, room / found.width) : 1;
  const height = Math.min(found?.height ?? 0, 12_000);
  const tags = found ? tagsOf(items, found.shown) : [];
  const target = tags.find((tag) => tag.item.excess.id === chosen?.excess.id);
  const top = target ? target.spot.y * scale : null;
  useEffect(() => {
    if (top === null) return;
    const element = frame.current;
    if (element && (top < element.scrollTop || top > element.scrollTop + element.clientHeight - 120)) {
      element.scrollTo({ top: Math.max(0, top - 80) });
    }
  }, [top]);
  return (
    <section className="picture" ref={frame} aria-label="Page with its heavy elements">
      {!found?.name && (
        <Nothing>{found ? "This page has no picture." : "No weigh-in of this page on this device yet."}</Nothing>
      )}
      {found?.name && room > 0 && (
        <div className="page-sheet" style={{ width: found.width * scale, height: height * scale }}>
          <img
            src={`/api/sites/${bench.id}/pictures/${name}`}
            alt={`${view.page} on a ${view.device}`}
            width={found.width * scale}
          />
          {tags.map(({ item, spot }) => {
            const on = counts(standing(item.change, item.outcome));
            const selected = item.excess.id === chosen?.excess.id;
            return (
              <div key={item.excess.id}>
                {selected && (
                  <div
                    className="ring"
                    style={{
                      left: spot.x * scale,
                      top: spot.y * scale,
                      width: spot.width * scale,
                      height: spot.height * scale,
                    }}
                  />
                )}
                <button
                  type="button"
                  className={`tag${on ? " tried" : ""}${selected ? " sel" : ""}`}
                  style={{ left: Math.max(0, spot.x) * scale + 4, top: spot.y * scale + 4 }}
                  onClick={() => onChoose(item.excess.id)}
                >
                  {on ? `${kB(item.excess.bytes)} off` : kB(item.excess.bytes)}
                </button>
              </div>
            );
          })}
        </div>
      )}
      {asFound && <div className="as-found">As found</div>}
    </section>
  );
}

type Shown = Bench["pictures"][number]["shown"][number];

/** One tag for each element: the largest thing about it, or the one that is chosen stays reachable by the list. */
function tagsOf(items: Item[], shown: Shown[]): { item: Item; spot: Shown }[] {
  const taken = new Set<string>();
  const tags = [];
  for (const item of items) {
    if (item.excess.bytes < WORTH_A_TAG) continue;
    const where = item.excess.facts.where ?? [];
    const spot = shown.find(
      (entry) => entry.visible && (item.excess.targets.includes(entry.path) || where.includes(entry.selector ?? "")),
    );
    if (!spot) continue;
    const place = `${Math.round(spot.x)} ${Math.round(spot.y)}`;
    if (taken.has(place)) continue;
    taken.add(place);
    tags.push({ item, spot });
  }
  return tags;
}
