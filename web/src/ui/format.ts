const whole = new Intl.NumberFormat("en-GB", { maximumFractionDigits: 0 });
const tenth = new Intl.NumberFormat("en-GB", { maximumFractionDigits: 1, minimumFractionDigits: 1 });

/** Bytes in kB (1 kB is 1,000 bytes everywhere); small ones with a decimal, the smallest as they are, so that they do not vanish. */
export function kB(bytes: number): string {
  if (bytes !== 0 && Math.abs(bytes) < 50) return `${bytes} bytes`;
  return `${Math.abs(bytes) < 9950 && bytes !== 0 ? tenth.format(bytes / 1000) : whole.format(bytes / 1000)} kB`;
}

/** Room on a disk: "412 MB", "1.2 GB". */
export function disk(bytes: number): string {
  return bytes >= 1e9 ? `${tenth.format(bytes / 1e9)} GB` : `${whole.format(Math.ceil(bytes / 1e6))} MB`;
}

export const count = (value: number): string => whole.format(value);

/** A number with its noun, such as "1 limit" or "3 limits". */
export function counted(value: number, noun: string): string {
  return `${whole.format(value)} ${noun}${value === 1 ? "" : "s"}`;
}

export function requests(value: number): string {
  return counted(value, "request");
}

export function seconds(ms: number): string {
  return `${(ms / 1000).toFixed(2)} s`;
}

/** 54.2 of 100 as "54 %". */
export function percent(share: number): string {
  return `${whole.format(share * 100)} %`;
}

export function moment(iso: string): string {
  return new Date(iso).toLocaleString("en-GB", {
    day: "numeric",
    month: "short",
    year: "numeric",
    hour: "2-digit",
    minute: "2-digit",
  });
}

export function fileName(path: string): string {
  return path.slice(path.lastIndexOf("/") + 1) || path;
}

const MOST_NAMED = 4;

/** A few names of many. */
export function namely(names: string[]): string {
  const more = names.length - MOST_NAMED;
  return names.slice(0, MOST_NAMED).join(", ") + (more > 0 ? ` and ${more} more` : "");
}

/** A path of at most so many characters, shortened in its middle. */
export function middle(path: string, most: number): string {
  if (path.length <= most) return path;
  const tail = Math.ceil((most - 1) * 0.6);
  return `${path.slice(0, most - 1 - tail)}…${path.slice(-tail)}`;
}
