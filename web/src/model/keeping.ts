import type { Command, Keep } from "../api/client";

/** The edit that keeps files as they are from now on, with a word why. */
export function keepFiles(keep: Keep, files: string[], why: string): Command {
  return {
    do: "keep",
    files: [...new Set([...keep.files, ...files])],
    notes: [...keep.notes, ...files.map((file) => ({ kind: "files" as const, pattern: file, why, remedy: "" }))],
  };
}
