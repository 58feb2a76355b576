import { Button, Input, InputNumber } from "antd";
import { useState } from "react";
import type { PartProps } from "../model/part";
import { useChoosePages } from "../api/work";
import { count, counted, namely } from "../ui/format";
import { Term } from "../ui/Term";

/** Which pages count, which of them were weighed, and for how many others those stand. */
export function WhichPages({ bench, busy }: Pick<PartProps, "bench" | "busy">) {
  const [open, setOpen] = useState(false);
  const stands = Object.entries(bench.alike);
  const covered = stands.reduce((sum, [, others]) => sum + others, 0);
  const alone = bench.pages_left_out - covered;
  return (
    <div className="chosen-pages">
      <p>
        {bench.chosen.length === 0 ? "All pages of the site are included." : `Pages included: ${namely(bench.chosen)}.`}{" "}
        {bench.pages_left_out > 0 && (
          <>
            Neither weighed nor checked: {counted(bench.pages_left_out, "page")}.{" "}
            {stands.length > 0 &&
              `Pages of a group get the same changes as its representative: ${namely(stands.map(([page, others]) => `${page} represents ${count(others)} more`))}. `}
            {alone > 0 &&
              `Without a representative: ${counted(alone, "page")}; only files that keep their address change there. `}
          </>
        )}
        {!open && (
          <Button size="small" onClick={() => setOpen(true)}>
            Choose pages to weigh
          </Button>
        )}
      </p>
      {open && <Choice bench={bench} busy={busy} onDone={() => setOpen(false)} />}
    </div>
  );
}

function Choice({ bench, busy, onDone }: Pick<PartProps, "bench" | "busy"> & { onDone: () => void }) {
  const choose = useChoosePages(bench.id);
  const [lines, setLines] = useState(bench.chosen.join("\n"));
  const [most, setMost] = useState<number | null>(bench.most);
  const chosen = lines
    .split("\n")
    .map((line) => line.trim())
    .filter(Boolean);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        choose.mutate({ chosen, most: most ?? bench.most }, { onSuccess: onDone });
      }}
    >
      <label htmlFor="chosen-pages">Pages to include, one per line</label>
      <Input.TextArea
        id="chosen-pages"
        rows={4}
        value={lines}
        placeholder={"/index.html\n/blog/*\nsitemap"}
        onChange={(event) => setLines(event.target.value)}
      />
      <p className="soft">
        A path, a pattern with <code>*</code> for anything, or the word <code>sitemap</code> for the pages of the
        site&rsquo;s sitemap. Leave empty for all {count(bench.pages.length)} pages.
      </p>
      <label htmlFor="most-pages">Weigh at most</label>{" "}
      <InputNumber id="most-pages" min={1} max={200} value={most} onChange={setMost} suffix="pages" />{" "}
      <span className="soft">
        Some pages of each <Term of="Page group">page group</Term> represent the others.
      </span>
      <div className="buttons">
        <Button type="primary" htmlType="submit" disabled={busy} loading={choose.isPending}>
          Weigh pages
        </Button>
        <Button onClick={onDone}>Cancel</Button>
      </div>
      {choose.error && (
        <p role="alert" className="missing">
          {choose.error.message}
        </p>
      )}
    </form>
  );
}
