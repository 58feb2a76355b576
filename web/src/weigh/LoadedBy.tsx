import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Rule } from "../api/client";
import { useSetRules } from "../api/work";
import type { PartProps } from "../model/part";
import { ownerKey, ownerWords } from "../ui/parties";
import { kB, percent, requests } from "../ui/format";
import { Loaded, Sides, useChosen } from "./chosen";
import { Term } from "../ui/Term";

const KINDS: { value: Rule["kind"]; label: string }[] = [
  { value: "site", label: "the site itself" },
  { value: "platform", label: "its platform or theme" },
  { value: "third party", label: "a third party" },
  { value: "embed", label: "an embed" },
];

/** Who brings the weight, and whose hosts are. */
export default function Brought({ bench, view, busy }: PartProps) {
  const setRules = useSetRules(bench.id);
  const chosen = useChosen(bench, view);
  return (
    <div className="two">
      <section>
        <div className="head">
          <h1>Who brings the weight of {view.page}</h1>
          <Sides chosen={chosen} />
        </div>
        <Loaded chosen={chosen}>
          {(detail) => {
            const most = Math.max(1, ...detail.brought.map((row) => row.transferred));
            return (
              <table className="ledger bringers">
                <thead>
                  <tr>
                    <th>
                      <Term of="Loaded by" />
                    </th>
                    <th>Share</th>
                    <th className="n">
                      <Term of="Transferred" />
                    </th>
                    <th className="n">Requests</th>
                    <th />
                  </tr>
                </thead>
                <tbody>
                  {detail.brought.map((row) => (
                    <tr key={`${row.kind} ${row.name}`}>
                      <td>
                        {ownerWords(row)}
                        {row.hosts.join() !== row.name && <small>{row.hosts.join(", ")}</small>}
                      </td>
                      <td>
                        <span
                          className={`share-bar ${row.kind === "site" ? "own" : ""}`}
                          style={{ width: `${(row.transferred / most) * 100}%` }}
                        />
                      </td>
                      <td className="n">
                        {kB(row.transferred)}{" "}
                        <small>{percent(row.transferred / Math.max(1, detail.weigh_in.transferred))}</small>
                      </td>
                      <td className="n">{requests(row.requests)}</td>
                      <td className="n">
                        <Button size="small" onClick={() => view.set({ part: "requests", who: ownerKey(row) })}>
                          Rows
                        </Button>
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            );
          }}
        </Loaded>
      </section>
      <Rules
        key={JSON.stringify(bench.rules)}
        rules={bench.rules}
        busy={busy}
        onSave={(rules) => setRules.mutate(rules)}
      />
    </div>
  );
}

function Rules({ rules, busy, onSave }: { rules: Rule[]; busy: boolean; onSave: (rules: Rule[]) => void }) {
  const [rows, setRows] = useState(rules);
  const change = (i: number, part: Partial<Rule>) =>
    setRows(rows.map((row, k) => (k === i ? { ...row, ...part } : row)));
  const whole = rows.every((row) => row.pattern.trim());
  return (
    <aside className="facts">
      <h2>Correct who loads a file</h2>
      <p>
        The chain of requests tells who loads a file. To correct it, enter a host, or host and path with * for the rest.
      </p>
      {rows.map((row, i) => (
        <div key={i} className="rule">
          <Input
            size="small"
            aria-label="Host or path"
            placeholder="media.merrow.example/*"
            value={row.pattern}
            onChange={(event) => change(i, { pattern: event.target.value })}
          />
          <Select
            size="small"
            aria-label="Loaded by"
            value={row.kind}
            onChange={(kind) => change(i, { kind })}
            options={KINDS}
          />
          <Input
            size="small"
            aria-label="Name"
            placeholder="Name (optional)"
            value={row.name}
            onChange={(event) => change(i, { name: event.target.value })}
          />
          <Button size="small" onClick={() => setRows(rows.filter((_, k) => k !== i))}>
            Remove rule
          </Button>
        </div>
      ))}
      <div className="row">
        <Button size="small" onClick={() => setRows([...rows, { pattern: "", kind: "site", name: "" }])}>
          Add rule
        </Button>
        <Button
          size="small"
          type="primary"
          disabled={busy || !whole || JSON.stringify(rows) === JSON.stringify(rules)}
          onClick={() => onSave(rows)}
        >
          Save rules
        </Button>
      </div>
    </aside>
  );
}
