import type { RequestRow } from "../api/client";

/** A request with its position in the weigh-in. */
export type Entry = RequestRow & { position: number };

/** Ms until the first byte came. */
export function waiting(row: RequestRow): number {
  return Math.max(0, (row.responded || row.ended) - row.started);
}

/** Ms from the first byte to the last. */
export function receiving(row: RequestRow): number {
  return row.responded ? Math.max(0, row.ended - row.responded) : 0;
}
