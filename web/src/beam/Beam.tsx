import type { WeighIn } from "../api/client";
import { kB, requests } from "../ui/format";
import { COLOURS, type Kind, KINDS, LABELS } from "../ui/kinds";

interface Props {
  before: WeighIn;
  after: WeighIn | undefined;
  /** There is a lighter site, but nobody weighed it under these conditions. */
  unweighed: boolean;
  allowance: number;
  /** What the page weighs of a kind beyond what it may, in words, by kind. */
  over: Record<string, string>;
  kind: Kind | null;
  onKind: (kind: Kind | null) => void;
}

/** Two stacked bars on one scale, as found above and now below; a click on a part filters by its kind. */
export function Beam({ before, after, unweighed, allowance, over, kind, onKind }: Props) {
  const now = after ?? before;
  const scale = Math.max(before.transferred, now.transferred, 1);
  const saved = before.transferred - now.transferred;
  const fewer = before.requests - now.requests;
  const peg = (allowance / scale) * 100;
  const shown = KINDS.filter((name) => (before.kinds[name]?.requests ?? 0) > 0 || (now.kinds[name]?.requests ?? 0) > 0);
  return (
    <section className="beam" aria-label="Weight of the page as found and now">
      <span className="beam-label">As found</span>
      <div className="beam-bars">
        <Stack weighIn={before} scale={scale} kind={kind} onKind={onKind} />
        <div className="beam-now">
          {unweighed ? (
            <span className="beam-none soft">no weigh-in under these conditions</span>
          ) : (
            <Stack weighIn={now} scale={scale} kind={kind} onKind={onKind} />
          )}
          {saved > 0 && (
            <div className="beam-gap" style={{ flexBasis: `${(saved / scale) * 100}%` }}>
              {saved / scale > 0.22 && <span>{gapText(saved, fewer)}</span>}
            </div>
          )}
        </div>
        {peg <= 100 && <div className="peg" style={{ left: `${peg}%` }} aria-hidden="true" />}
      </div>
      <div className="beam-ends">
        <p>
          <b>{kB(before.transferred)}</b> {requests(before.requests)}
        </p>
        <p data-testid="beam-now">
          {unweighed ? (
            ""
          ) : (
            <>
              <b>{kB(now.transferred)}</b> {requests(now.requests)}
            </>
          )}
        </p>
      </div>
      <span className="beam-label second">Now</span>
      <div className="beam-keys">
        {peg <= 100 ? (
          <span className="peg-label" style={{ left: `${peg}%` }}>
            allowance {kB(allowance)}
          </span>
        ) : (
          <span className="soft">within the allowance of {kB(allowance)}</span>
        )}
        <span className="beam-legend">
          {saved > 0 && saved / scale <= 0.22 && <span className="saved">{gapText(saved, fewer)}</span>}
          {saved <= 0 && after && <span className="saved">no saving on this page</span>}
          {shown.map((name) => (
            <button
              key={name}
              type="button"
              className={kind === name ? "on" : ""}
              aria-pressed={kind === name}
              title={over[name]}
              onClick={() => onKind(kind === name ? null : name)}
            >
              <i style={{ background: COLOURS[name] }} />
              {LABELS[name]}
              {over[name] && (
                <>
                  <i className="small-peg" aria-hidden="true" />
                  <span className="unseen">, {over[name]}</span>
                </>
              )}
            </button>
          ))}
        </span>
      </div>
    </section>
  );
}

function gapText(saved: number, fewer: number): string {
  if (fewer > 0) return `${kB(saved)} and ${requests(fewer)} lighter`;
  return `${kB(saved)} lighter`;
}

function Stack({
  weighIn,
  scale,
  kind,
  onKind,
}: {
  weighIn: WeighIn;
  scale: number;
  kind: Kind | null;
  onKind: Props["onKind"];
}) {
  const parts = KINDS.flatMap((name) => {
    const sum = weighIn.kinds[name];
    if (!sum || sum.transferred === 0) return [];
    return [{ name, sum, text: `${LABELS[name]}: ${kB(sum.transferred)}, ${requests(sum.requests)}` }];
  });
  // The kinds are buttons in the legend below; those who see and point may press the parts as well.
  return (
    <div
      className="stack"
      role="img"
      aria-label={parts.map((part) => part.text).join("; ")}
      style={{ flexBasis: `${(weighIn.transferred / scale) * 100}%` }}
    >
      {parts.map(({ name, sum, text }) => {
        return (
          <span
            key={name}
            title={text}
            className={kind && kind !== name ? "dim" : ""}
            style={{ flexGrow: sum.transferred, background: COLOURS[name] }}
            onClick={() => onKind(kind === name ? null : name)}
          />
        );
      })}
    </div>
  );
}
