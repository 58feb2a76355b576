import { useSearchParams } from "react-router";
import type { Bench, Change, Excess, WeighIn } from "../api/client";
import { isKind, type Kind } from "../ui/kinds";

export const STAGES = ["weigh", "sort", "lighten", "check", "hand-over"] as const;
export type Stage = (typeof STAGES)[number];

export const STAGE_LABELS: Record<Stage, string> = {
  weigh: "Weigh",
  sort: "Sort",
  lighten: "Lighten",
  check: "Check",
  "hand-over": "Hand over",
};

export function isStage(value: string | undefined): value is Stage {
  return STAGES.includes(value as Stage);
}

/** Page, device and kind in force; they stand in the address, so that a link leads to the same view. */
export function useView(bench: Bench | undefined) {
  const [search, setSearch] = useSearchParams();
  const pages = bench?.pages ?? [];
  const wanted = search.get("page") ?? "";
  const page = pages.includes(wanted) ? wanted : (pages[0] ?? "");
  const device = search.get("device") === "desktop" ? "desktop" : "phone";
  const kindText = search.get("kind");
  const kind: Kind | null = isKind(kindText) ? kindText : null;

  function set(changes: { page?: string; device?: string; kind?: Kind | null }) {
    setSearch(
      (old) => {
        const next = new URLSearchParams(old);
        for (const [name, value] of Object.entries(changes)) {
          if (value) next.set(name, value);
          else next.delete(name);
        }
        return next;
      },
      { replace: true },
    );
  }
  return { page, device, kind, set, query: search.toString() };
}

export type View = ReturnType<typeof useView>;

export function weighInOf(list: WeighIn[] | undefined, view: { page: string; device: string }): WeighIn | undefined {
  return list?.find((weighIn) => weighIn.page === view.page && weighIn.device === view.device);
}

/** A thing worth doing with the change that does it. */
export interface Item {
  excess: Excess;
  change: Change | undefined;
}

export function itemsOf(bench: Bench, kind: Kind | null): Item[] {
  const changes = new Map(bench.changes.map((change) => [change.id, change]));
  return bench.excess
    .filter((excess) => kind === null || excess.kind === kind)
    .map((excess) => ({ excess, change: changes.get(excess.id) }));
}

/** Where a change stands, in a word for the list. */
export function standing(change: Change | undefined): "off" | "on" | "set aside" | "insisted" {
  if (!change) return "off";
  if (change.set_aside) return "set aside";
  if (!change.on) return "off";
  return change.insist ? "insisted" : "on";
}
