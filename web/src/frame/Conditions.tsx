import { Button, Input, InputNumber, Popover, Radio, Select } from "antd";
import { useState } from "react";
import type { Bench, WeighMore } from "../api/client";
import { useAllow, useWeighMore } from "../api/work";
import { deviceLabel, DEVICES, OWN_DEVICE } from "../model/devices";
import { UNLIMITED, type View, type Visit, weighInOf } from "../model/state";

const LINKS = [UNLIMITED, "10 Mbit/s, 40 ms", "1.6 Mbit/s, 150 ms", "0.4 Mbit/s, 400 ms"];
const OWN = "own";

interface Props {
  bench: Bench;
  view: View;
  busy: boolean;
}

/** The chip with the conditions in force; it opens the form that changes them for all that is shown. */
export function Conditions({ bench, view, busy }: Props) {
  const [open, setOpen] = useState(false);
  const allow = useAllow(bench.id);
  const weighMore = useWeighMore(bench.id);
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      open={open}
      onOpenChange={setOpen}
      content={
        <Form
          bench={bench}
          view={view}
          busy={busy}
          onAllow={(bytes) => allow.mutate(bytes)}
          onWeigh={(body) => {
            setOpen(false);
            weighMore.mutate(body);
          }}
        />
      }
    >
      <button type="button" className="chip">
        {deviceLabel(view.device)}
        <span className="chip-tail">
          , {view.link === UNLIMITED ? "unlimited network" : view.link}, {view.visit} visit
        </span>
      </button>
    </Popover>
  );
}

interface FormProps extends Props {
  onAllow: (bytes: number) => void;
  onWeigh: (body: WeighMore) => void;
}

function Form({ bench, view, busy, onAllow, onWeigh }: FormProps) {
  const [allowance, setAllowance] = useState<number | null>(null);
  const [runs, setRuns] = useState<number | null>(3);
  const [everywhere, setEverywhere] = useState(false);
  const [ownLink, setOwnLink] = useState(LINKS.includes(view.link) ? null : view.link);
  const own = OWN_DEVICE.exec(view.device);
  const kilobytes = allowance ?? bench.allowance / 1000;
  const known = weighInOf(bench.weigh_ins, view);
  const setSize = (width: number, height: number, density: number) =>
    view.set({ device: `${width}x${height}@${density}` });
  const [width, height, density] = own ? [Number(own[1]), Number(own[2]), Number(own[3])] : [1440, 900, 1];
  return (
    <div className="conditions">
      <fieldset>
        <legend>Device</legend>
        <Radio.Group
          value={own ? OWN : view.device}
          onChange={(event) => {
            if (event.target.value === OWN) setSize(width, height, density);
            else view.set({ device: String(event.target.value) });
          }}
          options={[
            ...Object.entries(DEVICES).map(([value, label]) => ({ value, label })),
            { value: OWN, label: "Custom viewport" },
          ]}
        />
        {own && (
          <div className="row">
            <InputNumber
              size="small"
              aria-label="Width in CSS px"
              min={200}
              max={4096}
              value={width}
              onChange={(value) => {
                if (value) setSize(value, height, density);
              }}
            />
            <InputNumber
              size="small"
              aria-label="Height in CSS px"
              min={200}
              max={4096}
              value={height}
              onChange={(value) => {
                if (value) setSize(width, value, density);
              }}
            />
            <InputNumber
              size="small"
              aria-label="Density"
              min={0.5}
              max={4}
              step={0.5}
              value={density}
              onChange={(value) => {
                if (value) setSize(width, height, value);
              }}
            />
          </div>
        )}
      </fieldset>
      <fieldset>
        <legend>Network</legend>
        <Select
          aria-label="Network"
          value={ownLink === null ? view.link : OWN}
          onChange={(value) => {
            if (value === OWN) setOwnLink("4 Mbit/s, 80 ms");
            else {
              setOwnLink(null);
              view.set({ link: value });
            }
          }}
          options={[...LINKS.map((value) => ({ value, label: value })), { value: OWN, label: "Custom figures" }]}
        />
        {ownLink !== null && (
          <Input
            size="small"
            aria-label="Network figures"
            value={ownLink}
            onChange={(event) => setOwnLink(event.target.value)}
            onBlur={() => view.set({ link: ownLink.trim() })}
            onPressEnter={() => view.set({ link: ownLink.trim() })}
          />
        )}
      </fieldset>
      <fieldset>
        <legend>Visit</legend>
        <Radio.Group
          value={view.visit}
          onChange={(event) => view.set({ visit: event.target.value as Visit })}
          options={[
            { value: "first", label: "First, empty cache" },
            { value: "repeat", label: "Repeat, filled cache" },
          ]}
        />
      </fieldset>
      <p className="soft">
        {known
          ? `Weighed: ${known.runs === 1 ? "one load" : `median of ${known.runs} loads`}, ${known.browser}.`
          : "No weigh-in of this page under these conditions yet."}
      </p>
      <div className="row">
        <InputNumber
          size="small"
          aria-label="Loads"
          min={1}
          max={15}
          value={runs}
          onChange={setRuns}
          suffix={runs === 1 ? "run" : "runs"}
        />
        <Select
          size="small"
          aria-label="Pages to weigh"
          value={everywhere}
          onChange={setEverywhere}
          options={[
            { value: false, label: "This page" },
            { value: true, label: "All pages" },
          ]}
        />
        <Button
          size="small"
          type={known ? "default" : "primary"}
          disabled={busy || !runs}
          onClick={() =>
            onWeigh({
              devices: [view.device],
              visit: view.visit,
              link: view.link,
              runs: runs ?? 3,
              pages: everywhere ? [] : [view.page],
            })
          }
        >
          {known ? "Weigh again" : "Weigh"}
        </Button>
      </div>
      <p className="soft">
        <label htmlFor="allowance">Page limit</label>
      </p>
      <div className="row">
        <InputNumber
          id="allowance"
          size="small"
          min={1}
          max={1_000_000}
          value={kilobytes}
          onChange={(value) => setAllowance(value)}
          suffix="kB"
        />
        <Button
          size="small"
          disabled={!kilobytes || kilobytes * 1000 === bench.allowance}
          onClick={() => onAllow(Math.round(kilobytes * 1000))}
        >
          Set limit
        </Button>
      </div>
    </div>
  );
}
