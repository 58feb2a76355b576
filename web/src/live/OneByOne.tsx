import { Button } from "antd";
import { useState } from "react";
import { isBusy } from "../api/cache";
import type { Bench, Change } from "../api/client";
import { useCopies, useEdit } from "../api/plan";
import { changeName, targetText } from "../model/names";
import type { PartProps } from "../model/part";
import { outcomesOf, standing, worthOf } from "../model/state";
import { useKeys } from "../frame/keys";
import { kB, requests } from "../ui/format";
import { Nothing } from "../ui/Nothing";
import { Trouble } from "../frame/Trouble";
import { Waiting } from "../ui/Waiting";
import { LivePair, type Way } from "./LivePair";
import { deviceOf, nextDevice, Tools } from "./Tools";
import { Lead } from "../frame/Lead";

type Answer = "kept" | "dropped";

/** All changes, the largest first, each without and with it: keep it or drop it, and the next one comes. By keys alone. */
export default function OneByOne({ bench, view }: PartProps) {
  const edit = useEdit(bench.id);
  const outcomes = outcomesOf(bench);
  const worth = worthOf(bench);
  // The order stays while somebody decides.
  const [order] = useState(() =>
    [...(bench.plan?.changes ?? [])]
      .map((change) => ({ id: change.id, bytes: worth.get(change.id)?.bytes ?? 0 }))
      .sort((a, b) => b.bytes - a.bytes)
      .map(({ id }) => id),
  );
  const [at, setAt] = useState(0);
  const [answers, setAnswers] = useState<Record<string, Answer>>({});
  const [way, setWay] = useState<Way>("blink");
  const [blink, setBlink] = useState(false);
  const [device, setDevice] = useState(() => deviceOf(bench.words, view.device).name);
  const changes = new Map((bench.plan?.changes ?? []).map((change) => [change.id, change]));
  const known = order.flatMap((id) => changes.get(id) ?? []);
  const change = known[at];
  const go = (step: number) => setAt(Math.max(0, Math.min(known.length, at + step)));
  // Whoever is quick need not wait until the last answer has arrived.
  const busy = isBusy(bench.job);
  const decide = (answer: Answer) => {
    if (!change || busy) return;
    const on = answer === "kept";
    setAnswers({ ...answers, [change.id]: answer });
    if (change.on !== on) edit.mutate([{ do: "switch", ids: [change.id], on, insist: false }]);
    go(1);
  };
  const onPress = (act: () => void) => (down: boolean) => {
    if (down) act();
  };
  useKeys({
    n: onPress(() => go(1)),
    p: onPress(() => go(-1)),
    k: onPress(() => decide("kept")),
    d: onPress(() => decide("dropped")),
    v: onPress(() => setDevice(nextDevice(bench.words, device))),
    b: setBlink,
  });
  const decided = Object.keys(answers).length;
  if (known.length === 0) {
    return (
      <main className="narrow">
        <Nothing>
          The plan is empty: no changes to decide on. <Lead to="sort">Open the findings</Lead>
        </Nothing>
      </main>
    );
  }
  if (!change) {
    const dropped = Object.values(answers).filter((answer) => answer === "dropped").length;
    return (
      <main className="narrow">
        <Nothing>
          All {known.length} changes seen: {decided - dropped} kept, {dropped} dropped, {known.length - decided}{" "}
          undecided. <Button onClick={() => setAt(0)}>Start again</Button>
        </Nothing>
      </main>
    );
  }
  const page = change.pages.includes(view.page) ? view.page : (change.pages[0] ?? view.page);
  const { bytes = 0, requests: fewer = 0, sure = false } = worth.get(change.id) ?? {};
  const state = standing(change, outcomes.get(change.id));
  return (
    <main className="one-by-one">
      <div className="row decide">
        <span>
          <b>{changeName(bench.words, change)}</b> on {page}
          <small className="soft" title={change.targets.join("\n")}>
            {targetText(change) !== change.targets[0] && ` ${change.targets.length} files`}
          </small>
          <br />
          <small className="soft">
            {sure ? "Saves" : "About"} {kB(bytes)}
            {fewer !== 0 && `, ${requests(fewer)}`}
            {state === "set aside" && `; the check set it aside: ${outcomes.get(change.id)?.reason ?? ""}`}
            {answers[change.id] && `; ${answers[change.id]}`}
            {!answers[change.id] && (change.on ? "; on" : "; off")}
          </small>
        </span>
        <span className="end row">
          <span className="soft">
            {at + 1} of {known.length}, {decided} decided
          </span>
          <Button size="small" disabled={at === 0} onClick={() => go(-1)}>
            Previous (p)
          </Button>
          <Button size="small" onClick={() => go(1)}>
            Next (n)
          </Button>
          <Button size="small" disabled={busy} onClick={() => decide("dropped")}>
            Drop (d)
          </Button>
          <Button size="small" type="primary" disabled={busy} onClick={() => decide("kept")}>
            Keep (k)
          </Button>
        </span>
      </div>
      <div className="row live-tools">
        <Tools words={bench.words} device={device} onDevice={setDevice} way={way} onWay={setWay} />
      </div>
      <Both
        key={change.id}
        bench={bench}
        change={change}
        page={page}
        device={deviceOf(bench.words, device)}
        way={way}
        blink={blink}
      />
    </main>
  );
}

interface BothProps {
  bench: Bench;
  change: Change;
  page: string;
  device: ReturnType<typeof deviceOf>;
  way: Way;
  blink: boolean;
}

function Both({ bench, change, page, device, way, blink }: BothProps) {
  const copies = useCopies(bench.id, change.id);
  if (copies.error) return <Trouble error={copies.error} again={() => void copies.refetch()} />;
  if (!copies.data) return <Waiting />;
  // Both are the plan as it was when this change came up: a decision on it makes no difference to either.
  return (
    <LivePair
      left={{ title: "Without the change", address: copies.data.without_it, stamp: "" }}
      right={{ title: "With the change", address: copies.data.with_it, stamp: "" }}
      page={page}
      device={device}
      way={way}
      blink={blink}
    />
  );
}
