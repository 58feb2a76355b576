import { Button } from "antd";
import { Fragment, lazy } from "react";
import { Link } from "react-router";
import type { Bench } from "../api/client";
import { count, fileName, kB } from "../ui/format";
import type { PartProps } from "./BenchPage";
import { type Item, standing, type View } from "./state";

const EmbedForm = lazy(() => import("./EmbedForm"));

interface Props {
  bench: Bench;
  item: Item | undefined;
  busy: boolean;
  work: PartProps["work"];
  view: View;
  onToggle: () => void;
}

/** Elements or hosts that the evidence names. */
function where(facts: Record<string, unknown>): string[] {
  const named = facts.where ?? facts.hosts;
  return Array.isArray(named) ? named.map(String) : [];
}

/** What an embed or a film is known by, in words. */
function more(facts: Record<string, unknown>): [string, string][] {
  const rows: [string, string][] = [];
  const text = (name: string) => (typeof facts[name] === "string" ? facts[name] : "");
  if (text("is")) rows.push(["It is", `a ${text("is")}`]);
  if (text("from")) rows.push(["From", text("from")]);
  if (typeof facts.scripts === "number") rows.push(["Scripts", kB(facts.scripts)]);
  if (typeof facts.blocking === "number" && facts.blocking > 0) rows.push(["Keeps busy", `${count(facts.blocking)} ms`]);
  if (typeof facts.seconds === "number") rows.push(["Runs", `${facts.seconds} s, ${text("codec")}`]);
  if (text("becomes")) rows.push(["Instead", text("becomes")]);
  if (text("sound")) rows.push(["Sound", text("sound")]);
  return rows;
}

interface ImageFacts {
  format?: string;
  natural?: [number, number];
  shown?: number;
  to?: { format: string; width: number; height: number; bytes: number };
  likeness?: number;
}

/** What is known of the chosen row, and what can be done about it. */
export function Facts({ bench, item, busy, work, view, onToggle }: Props) {
  if (!item) return <aside className="facts" />;
  const { excess, change } = item;
  const facts = excess.facts as ImageFacts;
  const state = standing(change);
  const on = state === "on" || state === "insisted";
  const kept = excess.targets.every((path) => bench.keep_files.includes(path));
  function keep() {
    const files = kept ? bench.keep_files.filter((path) => !excess.targets.includes(path)) : [...bench.keep_files, ...excess.targets];
    work.edit.mutate({ keep_files: files });
  }
  return (
    <aside className="facts">
      <h2>{excess.title}</h2>
      <p>{excess.why}</p>
      <dl>
        {more(excess.facts).map(([name, words]) => <Fragment key={name}><dt>{name}</dt><dd>{words}</dd></Fragment>)}
        {facts.natural && <><dt>File</dt><dd>{facts.format && `${facts.format}, `}{count(facts.natural[0])} x {count(facts.natural[1])} px</dd></>}
        {facts.shown !== undefined && facts.natural && <><dt>Shown at</dt><dd>{facts.shown ? `${count(facts.shown)} px wide` : "no size"}</dd></>}
        {facts.to && facts.to.width > 0 && <><dt>Instead</dt><dd>{facts.to.format}, {count(facts.to.width)} x {count(facts.to.height)} px</dd></>}
        {facts.likeness !== undefined && <><dt>Similarity</dt><dd>{facts.likeness === 1 ? "every pixel the same" : facts.likeness.toFixed(3)}</dd></>}
        <dt>On</dt><dd>{excess.pages.length} of {bench.pages.length} pages</dd>
        <dt>Figure</dt><dd>{excess.tried ? "tried out" : "estimated"}</dd>
      </dl>
      {excess.bytes > 0 && (
        <p className="now"><b>{kB(excess.of_bytes - excess.bytes)}</b> <s>{kB(excess.of_bytes)}</s></p>
      )}
      {excess.targets.length > 1 && (
        <details>
          <summary>{excess.targets.length} files</summary>
          <ul className="files">{excess.targets.map((path) => <li key={path} title={path}>{fileName(path)}</li>)}</ul>
        </details>
      )}
      {where(excess.facts).length > 0 && (
        <details>
          <summary>Where</summary>
          <ul className="files">{where(excess.facts).map((text) => <li key={text}><code>{text}</code></li>)}</ul>
        </details>
      )}
      {!change && <div className="standing"><b>What you can do</b><p>{excess.advice}</p></div>}
      {change && <p className="standing">{wordsFor(item, bench)}</p>}
      {change?.embed && <EmbedForm key={change.id} bench={bench} change={change} embed={change.embed} busy={busy} work={work} />}
      {excess.excess === "unused" && <Button onClick={() => view.set({ part: "use" })}>See the use map</Button>}
      {change && <div className="actions">
        <Button type={on ? "default" : "primary"} disabled={busy} onClick={onToggle}>{on ? "Take back" : "Try it"}</Button>
        {state === "set aside" && (
          <Button disabled={busy} onClick={() => work.edit.mutate({ changes: [{ id: excess.id, on: true, insist: true }] })}>Do it all the same</Button>
        )}
        <Button disabled={busy} onClick={keep}>{kept ? "Need not keep" : "Keep as is"}</Button>
        {facts.natural && excess.kind === "images" && excess.targets[0] && <Link className="look" to={`/sites/${bench.id}/lighten?part=sheet&look=${encodeURIComponent(excess.targets[0])}`}>Look at it closely</Link>}
      </div>}
    </aside>
  );
}

function wordsFor({ change, excess }: Item, bench: Bench): string {
  if (excess.targets.every((path) => bench.keep_files.includes(path))) return "On the keep list: nothing touches it.";
  switch (standing(change)) {
    case "set aside":
      return `Set aside: ${change?.set_aside ?? ""}`;
    case "on":
      return change?.saved ? `On and checked. Saved ${kB(change.saved.bytes)} over all weigh-ins.` : "On, not carried out yet.";
    case "insisted":
      return "On because you insist; its pages are compared without it.";
    default:
      return "Not tried yet.";
  }
}
