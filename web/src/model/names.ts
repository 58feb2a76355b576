import type { Change, RemedyName, Words } from "../api/client";
import { hostOf } from "../ui/parties";
import { fileName } from "../ui/format";

/** What a remedy is called. */
export function remedyTitle(words: Words, name: RemedyName | null | undefined): string {
  return words.remedies.find((remedy) => remedy.name === name)?.title ?? "Change from an older plan";
}

/** What a change works on: its file, or the first of several; of an embed its name and host. */
export function targetText({ targets, embed }: { targets: string[]; embed?: Change["embed"] }): string {
  const first = targets[0] ?? "";
  const host = hostOf(first);
  if (embed?.title) return host ? `${embed.title}, ${host}` : embed.title;
  if (targets.length > 1) return `${fileName(first)} and ${targets.length - 1} more`;
  return first;
}

/** A change as somebody would call it. */
export function changeName(
  words: Words,
  change: { remedy: RemedyName | null; targets: string[]; embed?: Change["embed"] },
) {
  return `${remedyTitle(words, change.remedy)}: ${targetText(change)}`;
}

/** What a kind of difference is called. */
export function kindName(words: Words, what: string): string {
  return words.differences.find((kind) => kind.name === what)?.title ?? what;
}
