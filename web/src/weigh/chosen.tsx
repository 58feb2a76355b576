import { Alert, Segmented } from "antd";
import { type ReactNode, useState } from "react";
import type { Bench, Detail } from "../api/client";
import { useDetail } from "../api/weighing";
import { type View, weighInOf } from "../model/state";
import { Waiting } from "../ui/Waiting";

type Side = "As found" | "Now";

/** The weigh-in in force, on the side of choice, in full. */
export function useChosen(bench: Bench, view: View) {
  const [wanted, setSide] = useState<Side>("As found");
  const after = weighInOf(bench.now, view);
  const side: Side = wanted === "Now" && after ? "Now" : "As found";
  const weighIn = side === "Now" ? after : weighInOf(bench.weigh_ins, view);
  const detail = useDetail(bench.id, weighIn?.id, JSON.stringify(bench.rules));
  return { side, setSide, weighIn, after, detail };
}

export type Chosen = ReturnType<typeof useChosen>;

export function Sides({ chosen }: { chosen: Chosen }) {
  if (!chosen.after) return null;
  return <Segmented<Side> size="small" options={["As found", "Now"]} value={chosen.side} onChange={chosen.setSide} />;
}

/** What of a weigh-in is shown once it is there. */
export function Loaded({ chosen, children }: { chosen: Chosen; children: (detail: Detail) => ReactNode }) {
  if (!chosen.weighIn)
    return (
      <p className="empty soft">
        No weigh-in under these conditions. Weigh the page with the button above, or choose other conditions in the bar.
      </p>
    );
  if (chosen.detail.error) return <Alert type="error" banner title={chosen.detail.error.message} />;
  if (!chosen.detail.data) return <Waiting />;
  return children(chosen.detail.data);
}
