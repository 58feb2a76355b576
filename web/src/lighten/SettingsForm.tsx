import { Button, Form, Input, InputNumber, Select } from "antd";
import { useState } from "react";
import type { Bench, Change } from "../api/client";
import { useEdit } from "../api/plan";

/** How a change does its work, as far as its remedy leaves that to the user. */
export function SettingsForm({ bench, change, busy }: { bench: Bench; change: Change; busy: boolean }) {
  const [values, setValues] = useState(change.settings);
  const edit = useEdit(bench.id);
  const settings = (bench.words.remedies.find(({ name }) => name === change.remedy)?.settings ?? []).filter(
    ({ name }) => name in change.settings,
  );
  if (settings.length === 0) return null;
  const same = settings.every(({ name }) => values[name] === change.settings[name]);
  const put = (name: string, value: string | number | null) => {
    setValues({ ...values, [name]: value ?? 0 });
  };
  return (
    <Form
      layout="vertical"
      size="small"
      className="settings"
      disabled={busy}
      onFinish={() => edit.mutate([{ do: "set", id: change.id, values }])}
    >
      {settings.map(({ name, title, sort, words, unit, low, high }) => (
        <Form.Item key={name} label={title} htmlFor={`${change.id}-${name}`}>
          {sort === "word" && (
            <Select
              id={`${change.id}-${name}`}
              value={values[name]}
              options={Object.entries(words).map(([value, label]) => ({ value, label }))}
              onChange={(value) => {
                put(name, value);
              }}
            />
          )}
          {sort === "number" && (
            <InputNumber
              id={`${change.id}-${name}`}
              value={Number(values[name])}
              min={low}
              max={high}
              precision={0}
              suffix={low === 0 && values[name] === 0 ? "never" : unit}
              onChange={(value) => {
                put(name, value);
              }}
            />
          )}
          {sort === "text" && (
            <Input
              id={`${change.id}-${name}`}
              value={String(values[name])}
              onChange={(event) => {
                put(name, event.target.value);
              }}
            />
          )}
        </Form.Item>
      ))}
      <Button htmlType="submit" disabled={busy || same}>
        Apply
      </Button>
    </Form>
  );
}
