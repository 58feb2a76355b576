import type { UseFile } from "../api/client";

/** A place of the use map: a file on a page, "" for all pages together. */
export interface Cell {
  file: UseFile;
  page: string;
}
