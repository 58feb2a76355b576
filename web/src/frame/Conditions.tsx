import { Button, InputNumber, Popover, Radio } from "antd";
import { useState } from "react";
import type { Bench } from "../api/client";
import type { View } from "../bench/state";

const DEVICES = { phone: "Phone 390 at 2x", desktop: "Desktop 1280 at 1x" } as const;

/** The chip with the conditions in force; it opens the form that changes them for all that is shown. */
export function Conditions({ bench, view, onAllow }: { bench: Bench; view: View; onAllow: (bytes: number) => void }) {
  const device = view.device as keyof typeof DEVICES;
  const weighIn = bench.weigh_ins[0];
  const [allowance, setAllowance] = useState<number | null>(null);
  const kilobytes = allowance ?? bench.allowance / 1000;
  const form = (
    <div className="conditions">
      <p className="soft">Device</p>
      <Radio.Group
        value={device}
        onChange={(event) => view.set({ device: String(event.target.value) })}
        options={Object.entries(DEVICES).map(([value, label]) => ({ value, label }))}
      />
      <dl>
        <dt>Visit</dt><dd>first, nothing kept from before</dd>
        <dt>Link</dt><dd>{weighIn?.link ?? "unlimited"}</dd>
        <dt>Runs</dt><dd>{weighIn?.runs ?? 1}</dd>
        <dt>Browser</dt><dd>{weighIn?.browser ?? "not yet known"}</dd>
      </dl>
      <p className="soft"><label htmlFor="allowance">What a page may weigh</label></p>
      <div className="row">
        <InputNumber id="allowance" min={1} max={1_000_000} value={kilobytes} onChange={(value) => setAllowance(value)} suffix="kB" />
        <Button disabled={!kilobytes || kilobytes * 1000 === bench.allowance} onClick={() => onAllow(Math.round(kilobytes * 1000))}>Set</Button>
      </div>
    </div>
  );
  return (
    <Popover trigger="click" placement="bottomRight" content={form}>
      <button type="button" className="chip">{DEVICES[device]}<span className="chip-tail">, {weighIn?.link ?? "unlimited"} link, first visit</span></button>
    </Popover>
  );
}
