import type { Bench } from "../api/client";
import type { View } from "./state";

/** What every part of a stage gets. `busy`: work is under way, or an action is on its way to the server. */
export interface PartProps {
  bench: Bench;
  view: View;
  busy: boolean;
}
