/** What a page of a live copy says of itself; it is somebody else's page, so nothing of it is believed beyond its shape. */
export type Said =
  | { what: "there"; y: number; path: string }
  | { what: "at"; y: number; path: string }
  | { what: "held"; url: string }
  | { what: "error"; text: string }
  | { what: "key"; key: string };

const LONGEST = 2000;

export function saidIn(data: unknown): Said | null {
  if (typeof data !== "object" || data === null) return null;
  const { unladen, what, y, path, url, text, key } = data as Record<string, unknown>;
  if (unladen !== "live") return null;
  if ((what === "there" || what === "at") && typeof y === "number" && Number.isFinite(y) && isText(path)) {
    return path.startsWith("/") ? { what, y, path } : null;
  }
  if (what === "held" && isText(url)) return { what, url };
  if (what === "error" && isText(text)) return { what, text };
  if (what === "key" && isText(key) && key.length === 1) return { what, key };
  return null;
}

function isText(value: unknown): value is string {
  return typeof value === "string" && value.length <= LONGEST;
}

/** Scroll a page of a live copy to this many CSS px from its top. */
export function scrollTo(frame: HTMLIFrameElement, y: number) {
  frame.contentWindow?.postMessage({ unladen: "live", y }, "*");
}
