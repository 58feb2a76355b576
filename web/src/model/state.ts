import { useSearchParams } from "react-router";
import type { Bench, Change, Finding, Outcome, WeighIn, Words, Worth } from "../api/client";
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

export type Visit = "first" | "repeat";
export const UNLIMITED = "unlimited";
/** What holds when the address does not say; it need not stand there. */
const USUAL: Record<string, string> = { visit: "first", link: UNLIMITED };

/** Page, conditions, part and kind in force; they stand in the address, so that a link leads to the same view. */
export function useView(bench: Bench | undefined) {
  const [search, setSearch] = useSearchParams();
  const pages = bench?.pages ?? [];
  const wanted = search.get("page") ?? "";
  const page = pages.includes(wanted) ? wanted : (pages[0] ?? "");
  const device = search.get("device") ?? "phone";
  const visit: Visit = search.get("visit") === "repeat" ? "repeat" : "first";
  const link = search.get("link") ?? UNLIMITED;
  const part = search.get("part") ?? "";
  const who = search.get("who") ?? "";
  const kindText = search.get("kind");
  const kind: Kind | null = isKind(kindText) ? kindText : null;

  function set(changes: {
    page?: string;
    device?: string;
    visit?: Visit;
    link?: string;
    part?: string;
    who?: string;
    kind?: Kind | null;
  }) {
    setSearch(
      (old) => {
        const next = new URLSearchParams(old);
        for (const [name, value] of Object.entries(changes)) {
          if (value && value !== USUAL[name]) next.set(name, value);
          else next.delete(name);
        }
        return next;
      },
      { replace: true },
    );
  }
  return { page, device, visit, link, part, who, kind, set, query: search.toString() };
}

export type View = ReturnType<typeof useView>;

interface Spot {
  page: string;
  device: string;
  visit: string;
  link: string;
}

/** The weigh-in of a page under the conditions in force; of several numbers of runs the most. */
export function weighInOf(list: WeighIn[] | undefined, spot: Spot): WeighIn | undefined {
  return list
    ?.filter((w) => w.page === spot.page && w.device === spot.device && w.visit === spot.visit && w.link === spot.link)
    .reduce<WeighIn | undefined>((best, w) => (best && best.runs >= w.runs ? best : w), undefined);
}

/** Those that the plan and the ledger stand on. */
export function heldOf(list: WeighIn[] | undefined): WeighIn[] {
  return (list ?? []).filter((weighIn) => weighIn.held);
}

/** A thing worth doing with the changes that cure it, the one in question, and what a run found of that. */
export interface Item {
  excess: Finding;
  changes: Change[];
  change: Change | undefined;
  outcome: Outcome | undefined;
}

/** What a row adds to the saving of a first visit. */
export function bytesOf(item: Item): number {
  return item.excess.visit === "first" ? item.excess.bytes : 0;
}

/** Whether a row's bytes are not gone but load once a visitor wants them. */
export function loadsLater(words: Words, item: Item): boolean {
  return words.remedies.some((remedy) => remedy.defers && remedy.name === item.change?.remedy);
}

export function outcomesOf(bench: Bench): Map<string, Outcome> {
  return new Map((bench.run?.outcomes ?? []).map((outcome) => [outcome.change, outcome]));
}

/** What each change brings over all weigh-ins, by id. */
export function worthOf(bench: Bench): Map<string, Worth> {
  return new Map(bench.worth.map((worth) => [worth.id, worth]));
}

export function itemsOf(bench: Bench, kind: Kind | null): Item[] {
  const plan = new Map((bench.plan?.changes ?? []).map((change) => [change.id, change]));
  const outcomes = outcomesOf(bench);
  return bench.excess
    .filter((excess) => kind === null || excess.kind === kind)
    .map((excess) => {
      const changes = excess.changes.flatMap((id) => plan.get(id) ?? []);
      const change = changes.find((entry) => entry.on) ?? changes[0];
      return { excess, changes, change, outcome: change && outcomes.get(change.id) };
    });
}

export type State = "off" | "on" | "set aside" | "nothing to gain" | "insisted";

/** Where a change stands: what is wanted of it, and what the run that is shown found. */
export function standing(change: Change | undefined, outcome: Outcome | undefined): State {
  if (!change?.on) return "off";
  if (change.insist) return "insisted";
  if (outcome?.standing === "set aside" || outcome?.standing === "nothing to gain") return outcome.standing;
  return "on";
}

/** Whether a change counts in what is handed over, as far as anybody knows. */
export function counts(state: State): boolean {
  return state === "on" || state === "insisted";
}
