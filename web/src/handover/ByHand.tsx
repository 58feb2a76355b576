import { Button, Checkbox, Form, Input } from "antd";
import type { HandStep } from "../api/client";
import { useByHand, useTick } from "../api/showing";
import { useVisitAgain } from "../api/work";
import type { PartProps } from "../model/part";
import { count, kB, moment, namely } from "../ui/format";
import { Nothing } from "../ui/Nothing";
import { Waiting } from "../ui/Waiting";
import { Lead } from "../frame/Lead";
import { More } from "../ui/more";

/** For those who swap pictures and paste into a builder: what to do in the order of worth, and whether it is so by now. */
export function ByHand({ bench, busy }: PartProps) {
  const list = useByHand(bench.id, bench.run?.id ?? "");
  const visit = useVisitAgain(bench.id);
  if (!list.data) return <Waiting />;
  const { steps, address, visited, weighed } = list.data;
  const done = steps.filter((step) => step.done).length;
  const sum = (side: "found" | "live") => weighed.reduce((total, row) => total + row[side], 0);
  return (
    <section className="by-hand">
      <div className="head">
        <h1>Steps by hand</h1>
        <span className="soft">
          {done} of {steps.length} done; largest saving first
        </span>
      </div>
      <Form
        layout="inline"
        className="pad"
        initialValues={{ address }}
        onFinish={(body: { address: string }) => visit.mutate(body.address)}
      >
        <Form.Item name="address" label="Live site">
          <Input placeholder="https://" style={{ width: 320 }} />
        </Form.Item>
        <Button htmlType="submit" disabled={busy} loading={visit.isPending}>
          Compare with live site
        </Button>
      </Form>
      {visited && (
        <p className="pad">
          Visited {moment(visited)}: {steps.filter((step) => step.there).length} of {steps.length} steps are live.
          {weighed.length > 0 &&
            ` The live pages weigh ${kB(sum("live"))}, ${kB(sum("found") - sum("live"))} less than as found.`}
        </p>
      )}
      {steps.length === 0 && (
        <Nothing>
          No file differs, so there are no steps. <Lead to="lighten">Open the plan</Lead>
        </Nothing>
      )}
      <More rows={steps}>
        {(shown, more) => (
          <>
            <ol className="steps">
              {shown.map((step) => (
                <Step key={step.key} id={bench.id} step={step} visited={visited !== null} pictures={bench.pictures} />
              ))}
            </ol>
            {more}
          </>
        )}
      </More>
    </section>
  );
}

function Step({
  id,
  step,
  visited,
  pictures,
}: {
  id: string;
  step: HandStep;
  visited: boolean;
  pictures: PartProps["bench"]["pictures"];
}) {
  const tick = useTick(id);
  const page = pictures.find((picture) => step.pages.includes(picture.page));
  const place = page?.shown.find((shown) => shown.path === step.shows);
  return (
    <li>
      <Checkbox
        checked={step.done !== null}
        onChange={(event) => tick.mutate({ key: step.key, done: event.target.checked })}
      >
        <b>{step.title}</b>
      </Checkbox>{" "}
      {step.bytes > 0 && <span className="soft">saves {kB(step.bytes)}</span>}
      {visited && (
        <span className={step.there ? "there" : "missing"}>
          {step.there ? "live" : `not live yet: ${step.why_not}`}
        </span>
      )}
      <div className="step">
        {page?.name && place && (
          <Marked id={id} picture={page.name} width={page.width} height={page.height} place={place} page={page.page} />
        )}
        <div>
          <p className="soft">{step.why}</p>
          {step.files.length > 0 && (
            <details>
              <summary>
                Load up {count(step.files.length)} {step.files.length === 1 ? "file" : "files"}: {namely(step.files)}
              </summary>
              <ul>
                {step.files.map((file) => (
                  <li key={file}>
                    <code>{file}</code>
                  </li>
                ))}
              </ul>
            </details>
          )}
          {step.snippets.map((snippet, i) => (
            <details key={i}>
              <summary>
                {snippet.page}: {snippet.old ? "replace the old text with the new text" : "insert this text"}
              </summary>
              {snippet.old ? (
                <Code label="Old text" text={snippet.old} />
              ) : (
                <Code label="Directly after" text={snippet.after} />
              )}
              <Code label={snippet.new ? "New text" : "Delete"} text={snippet.new} copy />
            </details>
          ))}
          {step.more > 0 && <p className="soft">{step.more} more places; the whole page lies in the archive.</p>}
          {step.pages.length > 0 && (
            <p className="soft">Look afterwards at {namely(step.pages)}, on a phone and on a desktop.</p>
          )}
        </div>
      </div>
    </li>
  );
}

/** The page's picture, cut to what is around a place. */
function Marked({
  id,
  picture,
  width,
  height,
  place,
  page,
}: {
  id: string;
  picture: string;
  width: number;
  height: number;
  place: { x: number; y: number; width: number; height: number };
  page: string;
}) {
  const top = Math.max(0, Math.min(place.y - 60, height - width));
  return (
    <svg viewBox={`0 ${top} ${width} ${width}`} className="marked" role="img" aria-label={`Its place on ${page}`}>
      <image href={`/api/sites/${id}/pictures/${picture}`} width={width} height={height} />
      <rect x={place.x} y={place.y} width={place.width} height={place.height} />
    </svg>
  );
}

function Code({ label, text, copy = false }: { label: string; text: string; copy?: boolean }) {
  if (!text) return null;
  return (
    <div className="snippet">
      <span className="soft">{label}</span>
      {copy && (
        <Button size="small" type="link" onClick={() => void navigator.clipboard.writeText(text)}>
          Copy
        </Button>
      )}
      <pre tabIndex={0}>{text}</pre>
    </div>
  );
}
