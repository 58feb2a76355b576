import { kB } from "../ui/format";

export interface Tread {
  key: string;
  name: string;
  bytes: number;
  colour?: string;
}

const MOST = 12;

/** From found down to now, a step for each row; a click on one leads to its rows below. */
export function Stairs({
  before,
  after,
  rows,
  chosen,
  onChoose,
}: {
  before: number;
  after: number;
  rows: Tread[];
  chosen: string;
  onChoose?: (key: string) => void;
}) {
  const treads = rows.length > MOST ? [...rows.slice(0, MOST - 1), together(rows.slice(MOST - 1))] : rows;
  const scale = Math.max(before, after, 1);
  // What is left after each step.
  const leftAfter = treads.reduce<number[]>((sums, tread) => [...sums, (sums.at(-1) ?? before) - tread.bytes], []);
  return (
    <ol className="stairs" aria-label={`From ${kB(before)} as found to ${kB(after)} now`}>
      <Step name="As found" start={0} size={before} scale={scale} text={kB(before)} whole />
      {treads.map((tread, i) => {
        const rest = leftAfter[i] ?? 0;
        const start = Math.min(rest, rest + tread.bytes);
        return (
          <Step
            key={tread.key}
            name={tread.name}
            start={Math.max(0, start)}
            size={Math.abs(tread.bytes)}
            scale={scale}
            colour={tread.colour}
            text={`${tread.bytes >= 0 ? "−" : "+"}${kB(Math.abs(tread.bytes))}`}
            chosen={chosen === tread.key}
            onChoose={onChoose && tread.key && (() => onChoose(tread.key))}
          />
        );
      })}
      <Step name="Now" start={0} size={after} scale={scale} text={kB(after)} whole />
    </ol>
  );
}

function together(rows: Tread[]): Tread {
  return { key: "", name: `${rows.length} smaller changes`, bytes: rows.reduce((sum, row) => sum + row.bytes, 0) };
}

function Step({
  name,
  start,
  size,
  scale,
  text,
  colour,
  whole = false,
  chosen = false,
  onChoose,
}: {
  name: string;
  start: number;
  size: number;
  scale: number;
  text: string;
  colour?: string;
  whole?: boolean;
  chosen?: boolean;
  onChoose?: (() => void) | "" | undefined;
}) {
  const bar = (
    <>
      <span className="stairs-name" title={name}>
        {name}
      </span>
      <span className="stairs-track">
        <i
          className={whole ? "whole" : ""}
          style={{ left: `${(start / scale) * 100}%`, width: `${(size / scale) * 100}%`, background: colour }}
        />
      </span>
      <span className="n">{text}</span>
    </>
  );
  return (
    <li>
      {onChoose ? (
        <button type="button" aria-pressed={chosen} onClick={onChoose}>
          {bar}
        </button>
      ) : (
        <div>{bar}</div>
      )}
    </li>
  );
}
