import { Button, Dropdown, Input, Modal } from "antd";
import { useRef, useState } from "react";
import type { Bench } from "../api/client";
import { type Other, useGoTo } from "../api/plan";
import { useKeepPreset } from "../api/presets";
import { useKeys } from "../frame/keys";
import { PlanComparison } from "./PlanComparison";
import { Versions } from "./Versions";

/** Steps back and forth, all versions, the plan as a file, out and in, and as a preset for other sites. */
export function PlanTools({ bench, busy }: { bench: Bench; busy: boolean }) {
  const goTo = useGoTo(bench.id);
  const [versions, setVersions] = useState(false);
  const [other, setOther] = useState<Other>();
  const [naming, setNaming] = useState(false);
  const chooser = useRef<HTMLInputElement>(null);
  const { plan } = bench;
  const go = (to: string | null | undefined) => {
    if (to && !busy) goTo.mutate(to);
  };
  useKeys({
    u: (down) => {
      if (down) go(plan?.undo);
    },
    r: (down) => {
      if (down) go(plan?.redo);
    },
  });
  return (
    <span className="end row plan-tools">
      <Button size="small" disabled={busy || !plan?.undo} onClick={() => go(plan?.undo)}>
        Undo
      </Button>
      <Button size="small" disabled={busy || !plan?.redo} onClick={() => go(plan?.redo)}>
        Redo
      </Button>
      <Button size="small" onClick={() => setVersions(true)}>
        Versions
      </Button>
      <Dropdown
        trigger={["click"]}
        menu={{
          items: [
            {
              key: "save",
              label: (
                <a href={`/api/sites/${bench.id}/plan/document`} download>
                  Save plan as file
                </a>
              ),
            },
            {
              key: "load",
              label: "Load plan from file",
              disabled: busy,
              onClick: () => chooser.current?.click(),
            },
            { key: "preset", label: "Save as preset for other sites", onClick: () => setNaming(true) },
          ],
        }}
      >
        <Button size="small">Files and presets</Button>
      </Dropdown>
      <input
        ref={chooser}
        type="file"
        hidden
        accept=".json,application/json"
        aria-label="Plan file"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) setOther({ file });
          event.target.value = "";
        }}
      />
      {versions && (
        <Versions
          bench={bench}
          busy={busy}
          onClose={() => setVersions(false)}
          onCompare={(version, name) => setOther({ version, name })}
        />
      )}
      {other && <PlanComparison bench={bench} other={other} busy={busy} onClose={() => setOther(undefined)} />}
      {naming && <KeepPreset bench={bench} onClose={() => setNaming(false)} />}
    </span>
  );
}

function KeepPreset({ bench, onClose }: { bench: Bench; onClose: () => void }) {
  const keep = useKeepPreset(bench.id);
  const [name, setName] = useState("");
  const off = bench.words.remedies.filter(({ name: remedy }) => {
    const changes = bench.plan?.changes.filter((change) => change.remedy === remedy) ?? [];
    return changes.length > 0 && changes.every((change) => !change.on);
  });
  return (
    <Modal
      open
      title="Save as preset"
      okText="Save preset"
      okButtonProps={{ disabled: name.trim() === "" }}
      onCancel={onClose}
      onOk={() => keep.mutate(name, { onSuccess: onClose })}
    >
      <p>
        Effort {bench.plan?.effort} with this plan's settings for images and delivery
        {off.length > 0 && `, without ${off.map(({ title }) => title.toLowerCase()).join(", ")}`}. The preset appears
        next to the efforts under Findings, for all your sites.
      </p>
      <Input
        aria-label="Preset name"
        placeholder="Preset name"
        maxLength={60}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      {keep.error && (
        <p role="alert" className="problem">
          {keep.error.message}
        </p>
      )}
    </Modal>
  );
}
