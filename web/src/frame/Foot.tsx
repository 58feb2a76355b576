import type { Bench } from "../api/client";
import { moment } from "../ui/format";
import { type View, weighInOf } from "../model/state";

/** Keys, and where the figures come from. */
export function Foot({ bench, view, onHelp }: { bench: Bench; view: View; onHelp: () => void }) {
  const weighIn = weighInOf(bench.weigh_ins, view);
  return (
    <footer className="foot">
      <span>
        <kbd>n</kbd> <kbd>p</kbd> next, previous
      </span>
      <span>
        <kbd>t</kbd> turn on or off
      </span>
      <span>
        hold <kbd>b</kbd> to show the page as found
      </span>
      <button type="button" onClick={onHelp}>
        <kbd>?</kbd> all keys
      </button>
      {weighIn && (
        <span className="provenance">
          {weighIn.runs === 1 ? "One load" : `Median of ${weighIn.runs} loads`}, {moment(weighIn.taken)},{" "}
          {weighIn.browser}
        </span>
      )}
    </footer>
  );
}
