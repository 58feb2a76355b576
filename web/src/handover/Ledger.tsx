import { Button, Segmented } from "antd";
import { useState } from "react";
import type { Bench, RemedyName, Run, WeighIn } from "../api/client";
import { useBrought } from "../api/plan";
import { deviceLabel } from "../model/devices";
import { Stairs } from "./Stairs";
import { count, kB, seconds } from "../ui/format";
import { COLOURS, type Kind, KINDS, LABELS } from "../ui/kinds";
import { remedyTitle, targetText } from "../model/names";
import { heldOf } from "../model/state";
import { Term } from "../ui/Term";
import { useMore } from "../ui/more";

type By = "Change" | "Remedy" | "File type" | "Loaded by" | "Page and device";

interface Row {
  key: string;
  name: string;
  note: string;
  bytes: number;
  requests: number;
  colour?: string;
  remedy?: string;
}

/** As found less now is the sum of the steps and rows, and what no row explains. */
export function Ledger({ bench, run }: { bench: Bench; run: Run }) {
  const [by, setBy] = useState<By>("Remedy");
  const [remedy, setRemedy] = useState<RemedyName | "">("");
  const found = heldOf(bench.weigh_ins);
  const now = heldOf(bench.now);
  const before = totals(found);
  const after = totals(now);
  const brought = useBrought(bench.id, run.id, by === "Loaded by");
  const all: Row[] =
    by === "Loaded by"
      ? (brought.data ?? []).map(broughtRow)
      : { Change: byChange, Remedy: byRemedy, "File type": byKind, "Page and device": byPage }[by](
          bench,
          run,
          found,
          now,
        );
  const only = by === "Change" && remedy !== "";
  const rows = only ? all.filter((row) => row.remedy === remedy) : all;
  const { shown, more } = useMore(rows);
  const explained = (by === "Change" || by === "Remedy") && !only;
  const sum = totals([
    ...rows.map((row) => ({ transferred: row.bytes, requests: row.requests })),
    ...(explained ? [{ transferred: run.unexplained.bytes, requests: run.unexplained.requests }] : []),
  ]);
  return (
    <>
      <div className="head">
        <h1>
          The <Term of="Ledger">ledger</Term>
        </h1>
        <Segmented<By>
          size="small"
          options={["Remedy", "Change", "File type", "Loaded by", "Page and device"]}
          value={by}
          onChange={(next) => {
            setBy(next);
            setRemedy("");
          }}
        />
        {only && (
          <Button size="small" type="link" onClick={() => setRemedy("")}>
            {remedyTitle(bench.words, remedy)} only; show all
          </Button>
        )}
      </div>
      <Visitors found={found} now={now} journeys={run.journeys} />
      {brought.error && (
        <p role="alert" className="missing">
          {brought.error.message}
        </p>
      )}
      {!only && !brought.isLoading && (
        <Stairs
          before={before.bytes}
          after={after.bytes}
          rows={rows}
          chosen=""
          onChoose={
            by === "Remedy"
              ? (key) => {
                  setRemedy(key as RemedyName);
                  setBy("Change");
                }
              : undefined
          }
        />
      )}
      <table className="ledger">
        <caption className="unseen">What was saved, by {by.toLowerCase()}</caption>
        <thead>
          <tr>
            <th>{by}</th>
            <th className="n">Bytes saved</th>
            <th className="n">Requests saved</th>
          </tr>
        </thead>
        <tbody>
          <tr className="total">
            <td>
              As found <small>over {found.length} weigh-ins: every page, every device, first visit</small>
            </td>
            <td className="n">{count(before.bytes)}</td>
            <td className="n">{count(before.requests)}</td>
          </tr>
          {shown.map((row) => (
            <tr key={`${by} ${row.key}`} data-testid="ledger-row">
              <td>
                {row.colour && <i style={{ background: row.colour }} />}
                {row.name} <small>{row.note}</small>
              </td>
              <td className="n">{count(row.bytes)}</td>
              <td className="n">{row.requests ? count(row.requests) : ""}</td>
            </tr>
          ))}
          {more && (
            <tr>
              <td colSpan={3}>{more}</td>
            </tr>
          )}
          {explained && (
            <tr className="unexplained">
              <td>
                Unexplained <small>bytes that no change accounts for</small>
              </td>
              <td className="n">{count(run.unexplained.bytes)}</td>
              <td className="n">{count(run.unexplained.requests)}</td>
            </tr>
          )}
          <tr className="total">
            <td>Total saved</td>
            <td className="n" data-testid="ledger-saved">
              {count(sum.bytes)}
            </td>
            <td className="n">{count(sum.requests)}</td>
          </tr>
          <tr className="total">
            <td>Now</td>
            <td className="n" data-testid="ledger-now">
              {count(after.bytes)}
            </td>
            <td className="n">{count(after.requests)}</td>
          </tr>
        </tbody>
      </table>
    </>
  );
}

const VISITS = 10_000;

type Figure = { name: string; found: number; now: number; text: (value: number) => string };

/** What a visitor saves: bytes of a visit to all pages, modelled seconds, the journey and a repeat visit. */
function Visitors({ found, now, journeys }: { found: WeighIn[]; now: WeighIn[]; journeys: Run["journeys"] }) {
  const devices = [...new Set(found.map((weighIn) => weighIn.device))];
  const rows = devices.flatMap((device) => {
    const [old, fresh] = [found, now].map((list) => list.filter((weighIn) => weighIn.device === device));
    return figuresOf(
      deviceLabel(device),
      old ?? [],
      fresh ?? [],
      journeys.find((row) => row.device === device),
    );
  });
  return (
    <table className="visitors">
      <thead>
        <tr>
          <th>What visitors load</th>
          <th className="n">As found</th>
          <th className="n">Now</th>
          <th className="n">Difference</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.name}>
            <td>{row.name}</td>
            <td className="n">{row.text(row.found)}</td>
            <td className="n">{row.text(row.now)}</td>
            <td className={row.now > row.found ? "n over" : "n"}>{difference(row)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function figuresOf(
  device: string,
  old: WeighIn[],
  fresh: WeighIn[],
  journey: Run["journeys"][number] | undefined,
): Figure[] {
  const [before, after] = [totals(old), totals(fresh)];
  const pages = old.length === 1 ? "the page" : `all ${count(old.length)} pages`;
  const links = Object.keys(old[0]?.modelled_load_ms ?? {}).slice(-2);
  const ms = (list: WeighIn[], link: string) => list.reduce((sum, row) => sum + (row.modelled_load_ms[link] ?? 0), 0);
  const sum = (side: "found" | "now") => (journey?.pages ?? []).reduce((total, stop) => total + stop[side].bytes, 0);
  const bytes = (name: string, was: number, is: number, text = kB): Figure => {
    return { name: `${device}, ${name}`, found: was, now: is, text };
  };
  return [
    bytes(`visit to ${pages}`, before.bytes, after.bytes),
    bytes(`${count(VISITS)} visits`, before.bytes * VISITS, after.bytes * VISITS, gigabytes),
    ...links.map((link) => bytes(`modelled load time at ${link}`, ms(old, link), ms(fresh, link), seconds)),
    ...((journey?.pages.length ?? 0) > 1 ? [bytes("journey through all pages", sum("found"), sum("now"))] : []),
    ...(journey
      ? [bytes(`repeat visit to ${journey.again.page}`, journey.again.found.bytes, journey.again.now.bytes)]
      : []),
  ];
}

function difference({ found, now, text }: Figure): string {
  if (text(found) === text(now)) return "none";
  return `${text(Math.abs(found - now))} ${now > found ? "more" : "less"}`;
}

function broughtRow({ kind, name, saved }: { kind: string; name: string; saved: { bytes: number; requests: number } }) {
  const whole = kind === "site" ? "The site itself" : kind === "platform" ? name || "Its platform or theme" : name;
  return { key: `${kind} ${name}`, name: whole, note: kind === "site" ? "" : kind, ...saved };
}

function gigabytes(bytes: number): string {
  return `${(bytes / 1e9).toFixed(1)} GB`;
}

function totals(list: { transferred: number; requests: number }[]) {
  return {
    bytes: list.reduce((sum, w) => sum + w.transferred, 0),
    requests: list.reduce((sum, w) => sum + w.requests, 0),
  };
}

const heaviestFirst = (rows: Row[]) => rows.sort((a, b) => b.bytes - a.bytes);

function byRemedy(bench: Bench, run: Run): Row[] {
  const named = bench.words.remedies.filter((remedy) => run.remedies[remedy.name]);
  return heaviestFirst(
    named.map(({ name, title, what }) => ({ key: name, name: title, note: what, ...run.remedies[name]! })),
  );
}

function byChange(bench: Bench, run: Run): Row[] {
  const outcomes = new Map(run.outcomes.map((outcome) => [outcome.change, outcome]));
  const embeds = new Map(bench.plan?.changes.map((change) => [change.id, change.embed]));
  const sums = new Map<string, { bytes: number; requests: number }>();
  for (const line of run.lines) {
    const sum = sums.get(line.change) ?? { bytes: 0, requests: 0 };
    sums.set(line.change, { bytes: sum.bytes + line.bytes, requests: sum.requests + line.requests });
  }
  return heaviestFirst(
    [...sums].map(([key, sum]) => {
      const outcome = outcomes.get(key);
      const name = outcome ? targetText({ targets: outcome.targets, embed: embeds.get(key) }) : "A change";
      return { key, name, note: remedyTitle(bench.words, outcome?.remedy), remedy: outcome?.remedy ?? "", ...sum };
    }),
  );
}

function byKind(_bench: Bench, _run: Run, found: WeighIn[], now: WeighIn[]): Row[] {
  const sum = (list: WeighIn[], kind: Kind, field: "transferred" | "requests") =>
    list.reduce((total, w) => total + (w.kinds[kind]?.[field] ?? 0), 0);
  const rows = KINDS.map((kind) => ({
    key: kind,
    name: LABELS[kind],
    note: "",
    colour: COLOURS[kind],
    bytes: sum(found, kind, "transferred") - sum(now, kind, "transferred"),
    requests: sum(found, kind, "requests") - sum(now, kind, "requests"),
  }));
  return rows.filter((row) => row.bytes !== 0 || row.requests !== 0);
}

function byPage(_bench: Bench, _run: Run, found: WeighIn[], now: WeighIn[]): Row[] {
  return found.map((before) => {
    const after = now.find((w) => w.page === before.page && w.device === before.device) ?? before;
    return {
      key: before.id,
      name: `${before.page}, ${before.device}`,
      note: `${kB(before.transferred)} to ${kB(after.transferred)}`,
      bytes: before.transferred - after.transferred,
      requests: before.requests - after.requests,
    };
  });
}
