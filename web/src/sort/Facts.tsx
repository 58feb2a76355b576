import { Button, Radio } from "antd";
import { Fragment, lazy, Suspense } from "react";
import { Link } from "react-router";
import type { Bench, Facts as FactsOf } from "../api/client";
import { useEdit, useTry } from "../api/plan";
import { count, fileName, kB } from "../ui/format";
import { remedyTitle, targetText } from "../model/names";
import { counts, type Item, standing, type View } from "../model/state";

const EmbedForm = lazy(() => import("./EmbedForm"));

interface Props {
  bench: Bench;
  item: Item | undefined;
  busy: boolean;
  view: View;
  onToggle: () => void;
}

type Rows = [string, string][];

/** What the evidence says, in words; each kind has its own. */
function rowsOf(facts: FactsOf): Rows {
  switch (facts.about) {
    case "image": {
      const { to } = facts;
      const rows: Rows = [
        ["File", `${facts.format}, ${size(facts.natural)}`],
        ["Shown at", facts.shown ? `${count(facts.shown)} px wide` : "no size"],
      ];
      if (to.width > 0) rows.push(["Instead", `${to.format}, ${count(to.width)} x ${count(to.height)} px`]);
      rows.push(["Similarity", facts.likeness === 1 ? "every pixel the same" : facts.likeness.toFixed(3)]);
      return rows;
    }
    case "sizes":
      return [
        ["File", `${facts.format}, ${size(facts.natural)}`],
        [
          "Next to it",
          Object.entries(facts.files)
            .map(([width, bytes]) => `${width} px, ${kB(bytes)}`)
            .join("; "),
        ],
      ];
    case "embed":
      return [
        ["Type", `a ${facts.sort}`],
        ["From", facts.host],
        ["Scripts", kB(facts.scripts)],
        ...(facts.blocking > 0 ? ([["Blocks for", `${count(facts.blocking)} ms`]] as Rows) : []),
      ];
    case "widget":
      return [
        ["Type", `a ${facts.sort}`],
        ["From", facts.host],
        ["Hosts", facts.hosts.join(", ")],
      ];
    case "film":
      return [
        ["File", size(facts.natural)],
        ["Runs", `${facts.seconds} s, ${facts.codec}`],
        ["Instead", facts.becomes],
        ["Sound", facts.sound],
        ["Similarity", facts.likeness.toFixed(3)],
      ];
    case "animation":
      return [["Instead", facts.becomes]];
    case "bringer":
      return [["From", facts.hosts.join(", ")]];
    case "families":
      return Object.entries(facts.families).map(([family, bytes]) => [family, kB(bytes)]);
    case "font":
      return [
        ["Format", facts.format],
        ["Used by", facts.asked_by],
        ["Characters", `${count(facts.staying)} of ${count(facts.characters)} kept`],
      ];
    case "rules":
      return [
        ["Unused", `${count(facts.gone)} rules and parts`],
        ["Of", `${count(facts.selectors)} selectors`],
      ];
    case "functions":
      return [
        ["Loads later", `${count(facts.functions)} of ${count(facts.all)} functions`],
        ["When called", `${kB(facts.rest_bytes)}, about ${count(facts.wait)} ms`],
      ];
    case "first picture":
      return [
        ...Object.entries(facts.files).map(([file, bytes]): [string, string] => [
          fileName(file),
          `${kB(bytes)}${facts.spared.includes(file) ? ", not needed for the first picture" : ""}`,
        ]),
        ["Modelled", `${count(facts.before)} ms now, ${count(facts.after)} ms without`],
      ];
    case "hosts":
      return [
        ...(facts.connect.length > 0 ? [["Connect early", facts.connect.join(", ")] as [string, string]] : []),
        ...(facts.idle.length > 0 ? [["Never used", facts.idle.join(", ")] as [string, string]] : []),
      ];
    case "extras":
      return Object.entries(facts.parts).map(([sort, number]) => [sort, count(number)]);
    case "remote fonts":
      return [
        ["Families", facts.families.join(", ")],
        ["From", facts.hosts.join(", ")],
      ];
    case "library":
      return Object.entries(facts.versions).map(([file, version]) => [fileName(file), version]);
    case "use":
      return [["Used", `${count(facts.used)} of ${count(facts.size)} bytes`]];
    case "far":
      return [["Nearest element", `${count(facts.nearest)} px down`]];
    default:
      return [];
  }
}

function size([width = 0, height = 0]: number[]): string {
  return `${count(width)} x ${count(height)} px`;
}

/** What is known of the chosen row, and what can be done about it. */
export function Facts({ bench, item, busy, view, onToggle }: Props) {
  const edit = useEdit(bench.id);
  const tryOut = useTry(bench.id);
  if (!item) return <aside className="facts" />;
  const { excess, change, changes } = item;
  const state = standing(change, item.outcome);
  const on = counts(state);
  const keepFiles = bench.plan?.keep.files ?? [];
  const kept = excess.targets.every((path) => keepFiles.includes(path));
  const where = excess.facts.where ?? [];
  function keep() {
    const files = kept ? keepFiles.filter((path) => !excess.targets.includes(path)) : [...keepFiles, ...excess.targets];
    edit.mutate([{ do: "keep", files }]);
  }
  return (
    <aside className="facts">
      <h2>{excess.title}</h2>
      <p>{excess.why}</p>
      <dl>
        {rowsOf(excess.facts).map(([name, words]) => (
          <Fragment key={name}>
            <dt>{name}</dt>
            <dd>{words}</dd>
          </Fragment>
        ))}
        <dt>On</dt>
        <dd>
          {excess.pages.length} of {bench.pages.length} pages
        </dd>
        <dt>Figure</dt>
        <dd>{excess.tried ? "measured" : "estimated"}</dd>
      </dl>
      {excess.bytes > 0 && (
        <p className="now">
          <b>{kB(excess.of_bytes - excess.bytes)}</b> <s>{kB(excess.of_bytes)}</s>
        </p>
      )}
      {excess.targets.length > 1 && (
        <details>
          <summary>{excess.targets.length} files</summary>
          <ul className="files">
            {excess.targets.map((path) => (
              <li key={path} title={path}>
                {fileName(path)}
              </li>
            ))}
          </ul>
        </details>
      )}
      {where.length > 0 && (
        <details>
          <summary>Places</summary>
          <ul className="files">
            {where.map((text) => (
              <li key={text}>
                <code>{text}</code>
              </li>
            ))}
          </ul>
        </details>
      )}
      {!change && (
        <div className="standing">
          <b>What you can do</b>
          <p>{excess.advice}</p>
        </div>
      )}
      {change && <p className="standing">{wordsFor(item, bench, kept)}</p>}
      {change && changes.length > 1 && (
        <Radio.Group
          aria-label="Remedy"
          className="cures"
          value={change.id}
          disabled={busy}
          onChange={(event) =>
            edit.mutate([{ do: "pick", id: String(event.target.value), others: changes.map((entry) => entry.id) }])
          }
          options={changes.map((entry) => ({
            value: entry.id,
            label: `${remedyTitle(bench.words, entry.remedy)}, ${targetText(entry)}`,
          }))}
        />
      )}
      {change?.embed && (
        <Suspense>
          <EmbedForm key={change.id} bench={bench} change={change} embed={change.embed} busy={busy} />
        </Suspense>
      )}
      {excess.facts.about === "rules" && change && (
        <Link className="look" to={`/sites/${bench.id}/lighten`}>
          See all rules in the plan
        </Link>
      )}
      {excess.facts.about === "use" && <Button onClick={() => view.set({ part: "use" })}>Open the use map</Button>}
      {change && (
        <div className="actions">
          <Button type={on ? "default" : "primary"} disabled={busy} onClick={onToggle}>
            {on ? "Turn off" : "Turn on"}
          </Button>
          {state === "set aside" && (
            <>
              <Button
                disabled={busy}
                onClick={() =>
                  tryOut.mutate({ commands: [{ do: "switch", ids: [change.id], on: true, insist: true }] })
                }
              >
                Override check
              </Button>
              <Button
                disabled={busy}
                onClick={() => edit.mutate([{ do: "switch", ids: [change.id], on: false, insist: false }])}
              >
                Leave off
              </Button>
            </>
          )}
          <Button disabled={busy} onClick={keep}>
            {kept ? "Remove from keep list" : "Add to keep list"}
          </Button>
          {excess.facts.about === "image" && excess.targets[0] && (
            <Link
              className="look"
              to={`/sites/${bench.id}/lighten?part=sheet&look=${encodeURIComponent(excess.targets[0])}`}
            >
              Open in the loupe
            </Link>
          )}
        </div>
      )}
    </aside>
  );
}

const CLOSER = ". A longer check follows and may bring part of it back.";

function wordsFor({ change, outcome }: Item, bench: Bench, kept: boolean): string {
  if (kept) return "On the keep list: no change touches it.";
  const saved = outcome?.saved;
  switch (standing(change, outcome)) {
    case "set aside":
      return `Set aside: ${outcome?.reason ?? ""}${outcome?.open ? CLOSER : ""}`;
    case "nothing to gain":
      return "No further saving.";
    case "on":
      return saved && !bench.plan?.differs
        ? `On and checked. Saved ${kB(saved.bytes)} over all weigh-ins.`
        : saved
          ? `On. Saved ${kB(saved.bytes)} in the last run.`
          : "On. No run yet.";
    case "insisted":
      return "Override on: not checked.";
    default:
      return "Off. No run yet.";
  }
}
