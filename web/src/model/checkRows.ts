import type { Outcome, Pair, Run } from "../api/client";

/** Something to be looked at: what a change, or one file of it, was set aside for, or a page as it is now. */
export interface CheckRow {
  key: string;
  pair: Pair;
  outcome?: Outcome;
  target?: string;
  reason?: string;
}

export function rowsOf(run: Run): CheckRow[] {
  const aside = run.outcomes.flatMap((outcome): CheckRow[] => {
    const { change: key, pair, reason } = outcome;
    const parts = outcome.parts.flatMap((part): CheckRow[] =>
      part.pair
        ? [{ key: `${key} ${part.target}`, pair: part.pair, outcome, target: part.target, reason: part.reason }]
        : [],
    );
    return parts.length > 0 ? parts : pair ? [{ key, pair, outcome, reason }] : [];
  });
  const pages = run.pairs.map((pair): CheckRow => ({ key: `${pair.page} ${pair.device}`, pair }));
  const rank = ({ pair }: CheckRow) => (pair.passed ? 2 : pair.cannot ? 1 : 0);
  return [...aside, ...pages.sort((a, b) => rank(a) - rank(b))];
}
