import { Alert, Button, Drawer, Input, InputNumber, Segmented, Select, Switch } from "antd";
import { useState } from "react";
import type { Bench, Walk, WalkOrders } from "../api/client";
import { useOrderWalk, useWalkOrders } from "../api/weighing";
import type { View } from "../model/state";
import { kB } from "../ui/format";

type Own = NonNullable<WalkOrders["own"]>[number];
const ACTIONS: { value: Own["action"]; label: string }[] = [
  { value: "click", label: "click on" },
  { value: "hover", label: "point at" },
  { value: "type", label: "type into" },
  { value: "wait", label: "wait" },
];
const WORDS: Record<string, string> = {
  scroll: "scroll",
  hover: "point at",
  open: "open",
  click: "click on",
  type: "type into",
  wait: "wait",
};

interface Props {
  open: boolean;
  bench: Bench;
  view: View;
  walks: Walk[];
  busy: boolean;
  onClose: () => void;
  onWalk: (page: string) => void;
}

/** The steps of the page's walk: what came of them, which are switched off, and those of one's own. */
export function WalkSteps({ open, bench, view, walks, busy, onClose, onWalk }: Props) {
  const [device, setDevice] = useState("phone");
  const orders = useWalkOrders(bench.id, view.page);
  const save = useOrderWalk(bench.id, view.page);
  const [picking, setPicking] = useState(false);
  const walk = walks.find((entry) => entry.page === view.page && entry.device === device);
  const own = orders.data?.own ?? [];
  const off = orders.data?.off ?? [];
  const store = (changes: { own?: Own[]; off?: string[] }) => save.mutate({ page: view.page, own, off, ...changes });
  return (
    <Drawer
      open={open}
      onClose={onClose}
      size={560}
      title={`Walk through ${view.page}`}
      extra={
        <Button
          size="small"
          type="primary"
          disabled={busy || save.isPending}
          onClick={() => {
            onClose();
            onWalk(view.page);
          }}
        >
          Walk through this page again
        </Button>
      }
    >
      <Segmented size="small" value={device} onChange={setDevice} options={["phone", "desktop"]} />
      {(save.error ?? orders.error) && <Alert type="error" title={(save.error ?? orders.error)?.message} />}
      {!walk && <p className="soft">No walk through this page on this device yet.</p>}
      {walk && (
        <table className="weigh-ins steps">
          <thead>
            <tr>
              <th>On</th>
              <th>Step</th>
              <th>Result</th>
              <th className="n">Loaded</th>
            </tr>
          </thead>
          <tbody>
            {walk.steps.map((step, i) => (
              <tr key={`${step.key} ${i}`}>
                <td>
                  <Switch
                    size="small"
                    aria-label={`Include step: ${step.key}`}
                    checked={!off.includes(step.key)}
                    onChange={(on) => store({ off: on ? off.filter((key) => key !== step.key) : [...off, step.key] })}
                  />
                </td>
                <td>
                  {WORDS[step.action]} <b>{step.action === "wait" ? `${step.ms} ms` : step.label || step.selector}</b>
                  {step.own && <small className="soft"> custom</small>}
                  {step.selector && <small className="soft selector">{step.selector}</small>}
                </td>
                <td>{step.outcome || "done"}</td>
                <td className="n">{step.requests > 0 && kB(step.transferred)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {walk && walk.errors.length > 0 && <p className="missing">{walk.errors.join("; ")}</p>}
      <h2>Custom steps</h2>
      <p className="soft">
        The next walk takes custom steps last, on both devices. Links and forms do nothing during a walk.
      </p>
      <ul className="own-steps">
        {own.map((step, i) => (
          <li key={i}>
            {WORDS[step.action]} {step.action === "wait" ? `${step.ms ?? 0} ms` : step.label || step.selector}
            {step.text && ` “${step.text}”`}{" "}
            <Button size="small" onClick={() => store({ own: own.filter((_, k) => k !== i) })}>
              Remove
            </Button>
          </li>
        ))}
      </ul>
      <Add onAdd={(step) => store({ own: [...own, step] })} picking={picking} onPick={() => setPicking(!picking)} />
      {picking && walk && (
        <Picker
          bench={bench}
          walk={walk}
          onPicked={(element) => {
            store({
              own: [
                ...own,
                {
                  action: element.field ? "type" : "click",
                  selector: element.selector,
                  label: element.label,
                  text: element.field ? "tide" : "",
                },
              ],
            });
            setPicking(false);
          }}
        />
      )}
    </Drawer>
  );
}

function Add({ picking, onAdd, onPick }: { picking: boolean; onAdd: (step: Own) => void; onPick: () => void }) {
  const [action, setAction] = useState<Own["action"]>("click");
  const [selector, setSelector] = useState("");
  const [text, setText] = useState("");
  const [ms, setMs] = useState<number | null>(500);
  return (
    <div className="row add-step">
      <Select size="small" aria-label="Action" value={action} onChange={setAction} options={ACTIONS} />
      {action === "wait" ? (
        <InputNumber
          size="small"
          aria-label="Milliseconds"
          min={0}
          max={10_000}
          value={ms}
          onChange={setMs}
          suffix="ms"
        />
      ) : (
        <Input
          size="small"
          aria-label="Selector of the element"
          placeholder=".menu > button"
          value={selector}
          onChange={(event) => setSelector(event.target.value)}
        />
      )}
      {action === "type" && (
        <Input size="small" aria-label="Text to type" value={text} onChange={(event) => setText(event.target.value)} />
      )}
      <Button
        size="small"
        disabled={action !== "wait" && !selector.trim()}
        onClick={() => {
          onAdd({
            action,
            selector: action === "wait" ? "" : selector.trim(),
            text,
            ms: action === "wait" ? (ms ?? 0) : 0,
            label: "",
          });
          setSelector("");
        }}
      >
        Add step
      </Button>
      {action !== "wait" && (
        <Button size="small" aria-pressed={picking} onClick={onPick}>
          {picking ? "Stop picking" : "Pick on the picture"}
        </Button>
      )}
    </div>
  );
}

/** The page's picture with everything that can be picked outlined. */
function Picker({
  bench,
  walk,
  onPicked,
}: {
  bench: Bench;
  walk: Walk;
  onPicked: (element: Walk["elements"][number]) => void;
}) {
  const picture = bench.pictures.find((entry) => entry.page === walk.page && entry.device === walk.device);
  if (!picture?.name) return <p className="soft">This page has no picture.</p>;
  const scale = 500 / picture.width;
  return (
    <div className="picker" style={{ height: Math.min(picture.height, 12_000) * scale }}>
      <img src={`/api/sites/${bench.id}/pictures/${picture.name}`} alt={walk.page} width={500} />
      {walk.elements.map((element, i) => (
        <button
          key={i}
          type="button"
          aria-label={`${element.label}, ${element.selector}`}
          title={`${element.label}\n${element.selector}`}
          style={{
            left: element.x * scale,
            top: element.y * scale,
            width: Math.max(8, element.width * scale),
            height: Math.max(8, element.height * scale),
          }}
          onClick={() => onPicked(element)}
        />
      ))}
    </div>
  );
}
