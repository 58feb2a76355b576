import type { RequestRow } from "../api/client";

type Owner = RequestRow["brought_by"];

/** Who brought something, in words. */
export function ownerWords(owner: Owner): string {
  switch (owner.kind) {
    case "site":
      return owner.name || "the site itself";
    case "platform":
      return owner.name ? `platform or theme: ${owner.name}` : "platform or theme";
    case "embed":
      return `embed: ${owner.name}`;
    default:
      return owner.name || "third party";
  }
}

export function ownerKey(owner: Owner): string {
  return `${owner.kind} ${owner.name}`;
}

export function hostOf(url: string): string {
  return /^https?:\/\/([^/?#]*)/.exec(url)?.[1] ?? "";
}

/** The address without the host where that is the site's own. */
export function shortAddress(url: string, own: readonly string[]): string {
  const host = hostOf(url);
  return own.includes(host) ? url.slice(url.indexOf(host) + host.length) || "/" : url.replace(/^https?:\/\//, "");
}
