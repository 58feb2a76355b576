import { Button, Input, Segmented, Table, Tag } from "antd";
import { useState } from "react";
import type { Bench, Change } from "../api/client";
import { useEdit, useRules } from "../api/plan";
import { count } from "../ui/format";
import { StayingRules } from "./StayingRules";

const PER_PAGE = 8;

/** What a trim takes out of style sheets, with why; what is kept all the same stands above. */
export function TrimmedRules({ bench, change, busy }: { bench: Bench; change: Change; busy: boolean }) {
  const [words, setWords] = useState("");
  const found = useRules(bench.id, change.id, words, bench.plan?.version ?? "");
  const [part, setPart] = useState<"gone" | "staying">("gone");
  const edit = useEdit(bench.id);
  const rules = found.data;
  const keep = (patterns: string[]) => edit.mutate([{ do: "keep rules", id: change.id, patterns }]);
  const kept = rules?.keep ?? [];
  const [own, setOwn] = useState("");
  const add = () => {
    if (own.trim()) keep([...kept, own.trim()]);
    setOwn("");
  };
  return (
    <section className="trimmed-rules">
      <h3>
        {rules
          ? `${count(rules.total)} unused parts of ${count(rules.selectors)} selectors`
          : found.error
            ? found.error.message
            : "Unused"}
      </h3>
      <div className="row">
        <Segmented
          size="small"
          value={part}
          onChange={setPart}
          options={[
            { value: "gone", label: "Unused" },
            { value: "staying", label: "Kept" },
          ]}
        />
        <Input
          size="small"
          allowClear
          aria-label="Search rules"
          placeholder="Search class, name or reason"
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
        <Input
          size="small"
          aria-label="Keep rules that match"
          placeholder="Keep rules that match, such as .menu-*"
          value={own}
          disabled={busy}
          onChange={(event) => setOwn(event.target.value)}
          onPressEnter={add}
        />
        <Button size="small" disabled={busy || !own.trim()} onClick={add}>
          Keep rules
        </Button>
      </div>
      {rules && rules.missed.length > 0 && (
        <p>
          <span className="soft">Kept; the check found them in use: </span>
          {rules.missed.map((name) => (
            <code key={name} className="missed">
              {name}
            </code>
          ))}
        </p>
      )}
      {kept.length > 0 && (
        <p>
          <span className="soft">Kept: </span>
          {kept.map((pattern) => (
            <Tag key={pattern} closable={!busy} onClose={() => keep(kept.filter((other) => other !== pattern))}>
              {pattern}
            </Tag>
          ))}
        </p>
      )}
      {part === "staying" && <StayingRules bench={bench} change={change} words={words} />}
      {part === "gone" && (
        <Table
          size="small"
          tableLayout="fixed"
          rowKey={(rule) => `${rule.start} ${rule.what}`}
          loading={found.isFetching && !rules}
          dataSource={rules?.gone ?? []}
          pagination={{ pageSize: PER_PAGE, size: "small", showSizeChanger: false, hideOnSinglePage: true }}
          columns={[
            {
              title: "Unused rules and reasons",
              dataIndex: "what",
              render: (what: string, rule) => (
                <>
                  <code className="rule" title={what}>
                    {what}
                  </code>
                  <small className="soft">
                    {rule.sort}: {rule.why}
                  </small>
                </>
              ),
            },
            {
              title: "",
              width: 100,
              render: (_, rule) =>
                rule.sort !== "group" && (
                  <Button
                    size="small"
                    disabled={busy || edit.isPending}
                    onClick={() => keep([...kept, ...(rule.selectors.length > 0 ? rule.selectors : [rule.what])])}
                  >
                    Keep rule
                  </Button>
                ),
            },
          ]}
        />
      )}
      {part === "gone" && rules && rules.total > rules.gone.length && (
        <p className="soft">The first {count(rules.gone.length)} are shown; look for words to find others.</p>
      )}
    </section>
  );
}
