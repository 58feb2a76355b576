import { Alert, Button } from "antd";
import { useState } from "react";
import { useUseMap } from "../api/weighing";
import { useWalk } from "../api/work";
import type { PartProps } from "../model/part";
import { kB, percent } from "../ui/format";
import type { Cell } from "./cell";
import { UsedText } from "./UsedText";
import { UseMap } from "./UseMap";
import { WalkSteps } from "./WalkSteps";
import { Nothing } from "../ui/Nothing";
import { Waiting } from "../ui/Waiting";
import { Term } from "../ui/Term";

/** The use map, the text of the chosen file, and the walks behind both. */
export default function Use({ bench, view, busy }: PartProps) {
  const map = useUseMap(bench.id);
  const walk = useWalk(bench.id);
  const stamp = map.data?.walks[0]?.taken ?? "";
  const [cell, setCell] = useState<Cell | null>(null);
  const [steps, setSteps] = useState(false);
  const walkAll = () => walk.mutate([]);
  if (map.error) return <Alert type="error" banner title={map.error.message} />;
  if (!map.data) return <Waiting />;
  if (map.data.walks.length === 0) {
    return (
      <main className="use">
        <Nothing>
          <p>
            No <Term of="Walk">walk</Term> yet. A walk opens every page as phone and desktop, scrolls, points at menus
            and opens tabs and dialogs. The browser records which bytes of styles and scripts are used. A walk never
            leaves a page and never sends a form.
          </p>
          <Button type="primary" disabled={busy} onClick={walkAll}>
            Walk through all pages
          </Button>
        </Nothing>
      </main>
    );
  }
  const files = map.data.files.filter((file) => !view.kind || file.kind === view.kind);
  const unused = files.reduce((sum, file) => sum + file.transferred_unused, 0);
  const sent = files.reduce((sum, file) => sum + file.transferred, 0);
  return (
    <main className="use">
      <div className="head">
        <h1>
          {kB(unused)} of {kB(sent)} unused on all pages
        </h1>
        <span className="soft">
          {percent(unused / Math.max(1, sent))}, estimated in proportion to decoded bytes. A walk proves that bytes are
          used; it cannot prove that the others are never needed.
        </span>
        <span className="end row">
          <Button size="small" onClick={() => setSteps(true)}>
            Show walk steps
          </Button>
          <Button size="small" disabled={busy} onClick={walkAll}>
            Walk again
          </Button>
        </span>
      </div>
      <UseMap files={files} pages={map.data.pages} chosen={cell} onChoose={setCell} />
      {cell && (
        <UsedText
          key={`${cell.file.url} ${cell.page}`}
          bench={bench}
          cell={cell}
          stamp={stamp}
          onClose={() => setCell(null)}
        />
      )}
      <WalkSteps
        open={steps}
        bench={bench}
        view={view}
        walks={map.data.walks}
        busy={busy}
        onClose={() => setSteps(false)}
        onWalk={(page) => walk.mutate([page])}
      />
    </main>
  );
}
