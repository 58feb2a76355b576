import { Button, Checkbox, Input, Popover } from "antd";
import { useState } from "react";
import type { Bench, Change } from "../api/client";
import { useEdit } from "../api/plan";

interface Props {
  bench: Bench;
  change: Change;
  busy: boolean;
}

/** On which pages a change counts; it opens the form that says so, page by page or by a pattern. */
export function Scope({ bench, change, busy }: Props) {
  const [open, setOpen] = useState(false);
  const { pages } = change;
  const text = pages.length === 1 ? pages[0] : pages.length === 0 ? "no page" : `${pages.length} pages`;
  return (
    <Popover
      trigger="click"
      open={open}
      onOpenChange={setOpen}
      destroyOnHidden
      content={<Form bench={bench} change={change} busy={busy} onDone={() => setOpen(false)} />}
    >
      <button type="button" className="link scope" title={pages.join("\n")} aria-label={`Pages: ${text ?? ""}`}>
        {text}
      </button>
    </Popover>
  );
}

function Form({ bench, change, busy, onDone }: Props & { onDone: () => void }) {
  const edit = useEdit(bench.id);
  // Pages where it counted, and those where others of the plan do: of the rest it has nothing to change.
  const proposed = bench.excess.find((excess) => excess.changes.includes(change.id))?.pages ?? [];
  const all = [...new Set([...proposed, ...change.pages])].sort();
  const [chosen, setChosen] = useState(change.pages);
  const [pattern, setPattern] = useState("");
  const set = (pages: string[], by: string) => {
    edit.mutate([{ do: "scope", id: change.id, pages, pattern: by }]);
    onDone(); // at once: an answer that comes late must not close a form that was opened since
  };
  return (
    <div className="scope-form">
      <Checkbox.Group value={chosen} onChange={setChosen} options={all.map((page) => ({ value: page, label: page }))} />
      <Input
        size="small"
        aria-label="Pages that match"
        placeholder="/journal/*"
        value={pattern}
        onChange={(event) => setPattern(event.target.value)}
      />
      <div className="row">
        <Button size="small" disabled={busy || pattern.trim() === ""} onClick={() => set(all, pattern.trim())}>
          Apply pattern
        </Button>
        <Button size="small" onClick={() => setChosen(all)}>
          All
        </Button>
        <Button size="small" type="primary" disabled={busy} onClick={() => set(chosen, "*")}>
          Apply
        </Button>
      </div>
    </div>
  );
}
