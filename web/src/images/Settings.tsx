import { Button, Checkbox, Input, InputNumber, Popover, Radio, Select } from "antd";
import { useState } from "react";
import type { ImageSettings } from "../api/client";
import { LIKENESSES } from "./rows";

interface Props {
  settings: ImageSettings;
  usual: string;
  busy: boolean;
  onSet: (settings: ImageSettings) => void;
}

const CAPS: { name: "content_width" | "background_width" | "phone_width"; label: string }[] = [
  { name: "content_width", label: "Content images" },
  { name: "background_width", label: "Full-width backgrounds" },
  { name: "phone_width", label: "On phones" },
];

type Rule = NonNullable<ImageSettings["folders"]>[number];

/** Folders whose images are treated in another way; the innermost one counts. */
function Folders({ rules, onSet }: { rules: Rule[]; onSet: (rules: Rule[]) => void }) {
  const put = (place: number, change: Partial<Rule>) =>
    onSet(rules.map((rule, n) => (n === place ? { ...rule, ...change } : rule)));
  return (
    <fieldset>
      {rules.map((rule, place) => (
        <div key={place} className="row folder-rule">
          <Input
            size="small"
            aria-label="Folder"
            placeholder="/img/team/"
            value={rule.folder}
            status={rule.folder.startsWith("/") ? "" : "error"}
            onChange={(event) => put(place, { folder: event.target.value })}
          />
          <Select
            size="small"
            aria-label="Images in this folder"
            value={rule.likeness}
            onChange={(likeness) => put(place, { likeness })}
            options={[
              ...LIKENESSES.map(({ value, label }) => ({ value, label })),
              { value: "leave" as const, label: "leave unchanged" },
            ]}
          />
          <Button
            size="small"
            type="text"
            aria-label={`Remove the rule for ${rule.folder}`}
            onClick={() => onSet(rules.filter((_, n) => n !== place))}
          >
            ×
          </Button>
        </div>
      ))}
      <Button size="small" onClick={() => onSet([...rules, { folder: "/", likeness: "true" }])}>
        Add a rule for a folder
      </Button>
    </fieldset>
  );
}

/** How all images are treated; a change proposes anew and leaves what was chosen for single ones. */
export function Settings({ settings, usual, busy, onSet }: Props) {
  const [open, setOpen] = useState(false);
  const [draft, setDraft] = useState(settings);
  const set = (change: Partial<ImageSettings>) => setDraft({ ...draft, ...change });
  const changed = JSON.stringify(draft) !== JSON.stringify(settings);
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      open={open}
      onOpenChange={setOpen}
      content={
        <div className="image-settings">
          <fieldset>
            <legend>Likeness</legend>
            <Select
              aria-label="Likeness of all images"
              value={draft.likeness ?? ""}
              onChange={(likeness) => set({ likeness })}
              options={[
                { value: "", label: `from the effort (${usual})` },
                ...LIKENESSES.map(({ value, label, hint }) => ({ value, label: `${label}: ${hint}` })),
              ]}
            />
          </fieldset>
          <Folders rules={draft.folders ?? []} onSet={(folders) => set({ folders })} />
          <fieldset>
            <legend>Maximum file width, px</legend>
            {CAPS.map(({ name, label }) => (
              <label key={name} className="row between">
                {label}
                <InputNumber
                  size="small"
                  min={100}
                  max={16000}
                  value={draft[name]}
                  onChange={(value) => {
                    if (value) set({ [name]: value });
                  }}
                />
              </label>
            ))}
            <label className="row between">
              Pixel density
              <Select
                size="small"
                value={draft.density ?? 0}
                onChange={(density) => set({ density })}
                options={[
                  { value: 0, label: "from the effort" },
                  { value: 1, label: "1" },
                  { value: 1.5, label: "1.5" },
                  { value: 2, label: "2" },
                  { value: 3, label: "3" },
                ]}
              />
            </label>
            <label className="row between">
              Visits from phones, %
              <InputNumber
                size="small"
                min={0}
                max={100}
                value={draft.phones ?? 60}
                onChange={(phones) => set({ phones: phones ?? 60 })}
              />
            </label>
          </fieldset>
          <fieldset>
            <legend>File names</legend>
            <Radio.Group
              value={draft.same_names ?? false}
              onChange={(event) => set({ same_names: Boolean(event.target.value) })}
              options={[
                { value: false, label: "New names; all references are rewritten" },
                { value: true, label: "Same names and formats, for replacing by hand" },
              ]}
            />
            <Checkbox
              disabled={draft.same_names}
              checked={draft.widths}
              onChange={(event) => set({ widths: event.target.checked })}
            >
              Narrower files for phones
            </Checkbox>
            <Checkbox
              disabled={draft.same_names}
              checked={draft.fallback}
              onChange={(event) => set({ fallback: event.target.checked })}
            >
              Keep the older format as a fallback
            </Checkbox>
            <Checkbox
              disabled={draft.same_names}
              checked={draft.avif}
              onChange={(event) => set({ avif: event.target.checked })}
            >
              Add AVIF where it is a tenth smaller
            </Checkbox>
            <Checkbox checked={draft.copyright} onChange={(event) => set({ copyright: event.target.checked })}>
              Keep copyright metadata
            </Checkbox>
          </fieldset>
          <Button
            type="primary"
            size="small"
            disabled={busy || !changed || (draft.folders ?? []).some((rule) => !rule.folder.startsWith("/"))}
            onClick={() => {
              setOpen(false);
              onSet(draft);
            }}
          >
            Update proposals
          </Button>
        </div>
      }
    >
      <Button size="small">Image settings</Button>
    </Popover>
  );
}
