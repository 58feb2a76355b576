import { Segmented, Switch } from "antd";
import { useState } from "react";
import { useCopies, useEdit } from "../api/plan";
import { changeName } from "../model/names";
import type { PartProps } from "../model/part";
import { outcomesOf, standing } from "../model/state";
import { useKeys } from "../frame/keys";
import { Nothing } from "../ui/Nothing";
import { Trouble } from "../frame/Trouble";
import { Waiting } from "../ui/Waiting";
import { LivePair, type Way } from "./LivePair";
import { deviceOf, nextDevice, Tools } from "./Tools";

/** A page as found beside what it is now, both alive, with the changes of this page to be switched while one looks. */
export default function LiveCopy({ bench, view, busy }: PartProps) {
  const copies = useCopies(bench.id, "");
  const edit = useEdit(bench.id);
  const [way, setWay] = useState<Way>("sides");
  const [blink, setBlink] = useState(false);
  const [checked, setChecked] = useState(false);
  const [device, setDevice] = useState(() => deviceOf(bench.words, view.device).name);
  useKeys({
    b: setBlink,
    v: (down) => {
      if (down) setDevice(nextDevice(bench.words, device));
    },
  });
  if (copies.error) return <Trouble error={copies.error} again={() => void copies.refetch()} />;
  if (!copies.data) return <Waiting />;
  const { found, now, plan } = copies.data;
  const version = bench.plan?.version ?? "";
  const isNow = checked && now !== "";
  const outcomes = outcomesOf(bench);
  const changes = (bench.plan?.changes ?? []).filter((change) => change.pages.includes(view.page));
  return (
    <main className="live-copy">
      <section>
        <div className="row live-tools">
          <Tools words={bench.words} device={device} onDevice={setDevice} way={way} onWay={setWay} />
          <Segmented
            size="small"
            aria-label="Beside it"
            value={isNow ? "now" : "plan"}
            onChange={(value) => setChecked(value === "now")}
            options={[
              { value: "plan", label: "Current plan, not checked" },
              { value: "now", label: "Now, checked", disabled: now === "" },
            ]}
          />
        </div>
        <LivePair
          left={{ title: "As found", address: found, stamp: bench.taken ?? "" }}
          right={
            isNow
              ? { title: "Now", address: now, stamp: bench.run?.made ?? "" }
              : { title: "Current plan", address: plan, stamp: version }
          }
          page={view.page}
          device={deviceOf(bench.words, device)}
          way={way}
          blink={blink}
        />
      </section>
      <aside aria-label="Changes on this page">
        <h2>Changes of {view.page}</h2>
        {changes.length === 0 && <Nothing>The plan has no changes for this page.</Nothing>}
        <ul className="switches">
          {changes.map((change) => (
            <li key={change.id}>
              <Switch
                size="small"
                checked={change.on}
                disabled={busy || isNow}
                aria-label={`Turn on ${changeName(bench.words, change)}`}
                onChange={(on) => edit.mutate([{ do: "switch", ids: [change.id], on, insist: false }])}
              />
              <span title={change.targets.join("\n")}>
                {changeName(bench.words, change)}
                {standing(change, outcomes.get(change.id)) === "set aside" && <small> set aside by the check</small>}
              </span>
            </li>
          ))}
        </ul>
      </aside>
    </main>
  );
}
