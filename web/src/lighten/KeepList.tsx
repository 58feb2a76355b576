import { Button, Input, Select, Table } from "antd";
import { useState } from "react";
import type { Keep } from "../api/client";
import { useEdit } from "../api/plan";
import { kB } from "../ui/format";
import { remedyTitle } from "../model/names";
import type { PartProps } from "../model/part";

type Kind = Keep["notes"][number]["kind"];

interface Entry {
  kind: Kind;
  pattern: string;
  why: string;
  remedy: string;
}

const KINDS: { value: Kind; label: string; hint: string }[] = [
  { value: "files", label: "Files", hint: "/images/*.jpg" },
  { value: "pages", label: "Pages", hint: "/shop/*" },
  { value: "selectors", label: "Elements", hint: ".slider, #map" },
  { value: "hosts", label: "Hosts", hint: "*.tickets.example" },
];

function entriesOf(keep: Keep): Entry[] {
  return KINDS.flatMap(({ value: kind }) =>
    keep[kind].map((pattern) => {
      const note = keep.notes.find((entry) => entry.kind === kind && entry.pattern === pattern);
      return { kind, pattern, why: note?.why ?? "", remedy: note?.remedy ?? "" };
    }),
  );
}

/** What must never be touched, in general or by one remedy: each entry with why, and with what it costs. */
export default function KeepList({ bench, busy }: PartProps) {
  const edit = useEdit(bench.id);
  const [kind, setKind] = useState<Kind>("files");
  const [pattern, setPattern] = useState("");
  const [why, setWhy] = useState("");
  const [remedy, setRemedy] = useState("");
  const keep = bench.plan?.keep;
  if (!keep) return null;
  const entries = entriesOf(keep);
  const say = (next: Entry[]) =>
    edit.mutate([
      {
        do: "keep",
        files: next.filter((entry) => entry.kind === "files").map((entry) => entry.pattern),
        pages: next.filter((entry) => entry.kind === "pages").map((entry) => entry.pattern),
        selectors: next.filter((entry) => entry.kind === "selectors").map((entry) => entry.pattern),
        hosts: next.filter((entry) => entry.kind === "hosts").map((entry) => entry.pattern),
        notes: next.filter((entry) => entry.why || entry.remedy),
      },
    ]);
  const add = () => {
    const said = pattern.trim();
    if (!said) return;
    say([
      ...entries.filter((e) => e.kind !== kind || e.pattern !== said),
      { kind, pattern: said, why: why.trim(), remedy },
    ]);
    setPattern("");
    setWhy("");
  };
  return (
    <main className="keep">
      <div className="row pad">
        <Select size="small" aria-label="Type of entry" value={kind} onChange={setKind} options={KINDS} />
        <Input
          size="small"
          aria-label="Name or pattern"
          placeholder={KINDS.find(({ value }) => value === kind)?.hint}
          value={pattern}
          maxLength={1000}
          onChange={(event) => setPattern(event.target.value)}
          onPressEnter={add}
        />
        <Select
          size="small"
          aria-label="Protected from"
          value={remedy}
          onChange={setRemedy}
          popupMatchSelectWidth={false}
          options={[
            { value: "", label: "From all changes" },
            ...bench.words.remedies.map(({ name, title }) => ({ value: name, label: `From “${title}”` })),
          ]}
        />
        <Input
          size="small"
          aria-label="Reason for keeping"
          placeholder="Reason"
          value={why}
          maxLength={500}
          onChange={(event) => setWhy(event.target.value)}
          onPressEnter={add}
        />
        <Button size="small" type="primary" disabled={busy || !pattern.trim()} onClick={add}>
          Add to keep list
        </Button>
      </div>
      <Table<Entry>
        size="small"
        rowKey={(entry) => `${entry.kind} ${entry.pattern}`}
        pagination={entries.length > 50 ? { pageSize: 50, showSizeChanger: false } : false}
        dataSource={entries}
        scroll={{ x: 720 }}
        locale={{ emptyText: "The keep list is empty: changes may touch every file and page." }}
        columns={[
          { title: "What", width: 100, render: (_, entry) => KINDS.find(({ value }) => value === entry.kind)?.label },
          { title: "Name or pattern", render: (_, entry) => <code>{entry.pattern}</code> },
          {
            title: "Protected from",
            width: 170,
            render: (_, { remedy: name }) =>
              name ? remedyTitle(bench.words, bench.words.remedies.find((r) => r.name === name)?.name) : "everything",
          },
          { title: "Reason", render: (_, { why: said }) => said || <span className="soft">no reason given</span> },
          {
            title: "Costs",
            width: 110,
            align: "right",
            render: (_, entry) => {
              const cost = keep.costs.find(({ kind: of, pattern: by }) => of === entry.kind && by === entry.pattern);
              return cost ? kB(cost.bytes) : <span className="soft">not known</span>;
            },
          },
          {
            width: 90,
            render: (_, entry) => (
              <Button
                size="small"
                disabled={busy}
                onClick={() => say(entries.filter((e) => e.kind !== entry.kind || e.pattern !== entry.pattern))}
              >
                Remove
              </Button>
            ),
          },
        ]}
      />
    </main>
  );
}
