import { Button } from "antd";
import { Fragment, type KeyboardEvent } from "react";
import { kB, percent, requests } from "../ui/format";
import { COLOURS } from "../ui/kinds";
import { bytesOf, counts, type Item, standing, type State } from "../model/state";
import { useMore } from "../ui/more";

const ROW = 58;
const CRUMB = 40;
const LINE = 28;
const SHARE_WIDTH = 52;
const FEW = 0.8;

interface Props {
  items: Item[];
  whole: number;
  chosen: string;
  busy: boolean;
  onChoose: (id: string) => void;
  onToggle: (item: Item) => void;
}

/** The excess, largest first. Down its side runs the share of the whole saving; a line marks the few that make most. */
export function FindingList({ items, whole, chosen, busy, onChoose, onToggle }: Props) {
  const few = fewThatMakeMost(items, whole);
  const above = items.slice(0, few).reduce((sum, item) => sum + bytesOf(item), 0);
  const position = items.findIndex((item) => item.excess.id === chosen);
  const { shown, more } = useMore(items, position);

  function move(event: KeyboardEvent<HTMLDivElement>) {
    const steps: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, Home: -items.length, End: items.length };
    const step = steps[event.key];
    const next = step && items[Math.min(items.length - 1, Math.max(0, position + step))];
    if (!next) return;
    event.preventDefault();
    onChoose(next.excess.id);
    const row = event.currentTarget.querySelector<HTMLElement>(`[data-row="${CSS.escape(next.excess.id)}"]`);
    row?.focus();
  }
  return (
    <>
      <div className="rows" role="grid" aria-label="Findings, largest first" onKeyDown={move}>
        <RunningShare items={shown} whole={whole} few={few} />
        {shown.map((item, i) => (
          <Fragment key={item.excess.id}>
            {i === few && few < items.length && (
              <div className="line" role="presentation">
                {percent(above / Math.max(whole, 1))} of the possible savings are above this line.
              </div>
            )}
            <Row
              item={item}
              crumb={i >= few}
              selected={item.excess.id === chosen}
              busy={busy}
              onChoose={onChoose}
              onToggle={onToggle}
            />
          </Fragment>
        ))}
      </div>
      {more}
    </>
  );
}

/** How many of the largest make up four fifths. */
function fewThatMakeMost(items: Item[], whole: number): number {
  let sum = 0;
  for (const [i, item] of items.entries()) {
    sum += bytesOf(item);
    if (sum >= FEW * whole) return i + 1;
  }
  return items.length;
}

interface RowProps extends Pick<Props, "busy" | "onChoose" | "onToggle"> {
  item: Item;
  crumb: boolean;
  selected: boolean;
}

function Row({ item, crumb, selected, busy, onChoose, onToggle }: RowProps) {
  const { excess, change } = item;
  const state = standing(change, item.outcome);
  const on = counts(state);
  const where = excess.pages.length === 1 ? excess.pages[0] : `${excess.pages.length} pages`;
  const classes = ["excess", crumb ? "crumb" : "", selected ? "sel" : "", state === "off" ? "" : "done"].join(" ");
  return (
    <div
      className={classes}
      role="row"
      data-row={excess.id}
      aria-selected={selected}
      tabIndex={selected ? 0 : -1}
      onClick={() => onChoose(excess.id)}
    >
      <i style={{ background: COLOURS[excess.kind] }} />
      <div className="what" role="gridcell">
        <b title={excess.title}>{excess.title}</b>
        <small>
          {where}
          {WORDS[state]}
        </small>
      </div>
      <div className="n" role="gridcell">
        {excess.bytes > 0 ? kB(excess.bytes) : "steadier"}
        <small>{amount(item)}</small>
      </div>
      <div className="do" role="gridcell">
        {change ? (
          <Button
            size="small"
            type={selected && !on ? "primary" : "default"}
            className={on ? "back" : ""}
            disabled={busy}
            tabIndex={selected ? 0 : -1}
            onClick={(event) => {
              event.stopPropagation();
              onToggle(item);
            }}
          >
            {on ? "Turn off" : "Turn on"}
          </Button>
        ) : (
          <span className="advice-mark">advice</span>
        )}
      </div>
    </div>
  );
}

function amount({ excess }: Item): string {
  if (excess.visit === "repeat") return "on repeat visits";
  if (excess.requests > 0) return requests(excess.requests);
  return excess.of_bytes > 0 ? `of ${kB(excess.of_bytes)}` : "no bytes";
}

const WORDS: Record<State, string> = {
  off: "",
  on: ". On",
  "set aside": ". Set aside by the check",
  "nothing to gain": ". Off: no further saving",
  insisted: ". Override on",
};

function RunningShare({ items, whole, few }: { items: readonly Item[]; whole: number; few: number }) {
  const steps: [number, number][] = [];
  let y = 0;
  let sum = 0;
  for (const [i, item] of items.entries()) {
    if (i === few) y += LINE;
    sum += bytesOf(item);
    steps.push([(sum / Math.max(whole, 1)) * SHARE_WIDTH, y]);
    y += i < few ? ROW : CRUMB;
  }
  const path = steps
    .map(([x, top], i) => (i === 0 ? `M0 0 L${x} 0` : `L${steps[i - 1]![0]} ${top} L${x} ${top}`))
    .join(" ");
  const last = steps.at(-1)?.[0] ?? 0;
  return (
    <svg className="share" width={SHARE_WIDTH + 2} height={y} aria-hidden="true">
      <path d={`${path} L${last} ${y} L0 ${y}Z`} fill="#EBDFCB" />
      <path d={`${path} L${last} ${y}`} fill="none" stroke="#8A4F22" strokeWidth="1.5" />
    </svg>
  );
}
