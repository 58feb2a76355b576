import { Input, type InputRef } from "antd";
import type { Ref } from "react";

interface Props {
  ref: Ref<InputRef>;
  label: string;
  value: string;
  onChange: (text: string) => void;
}

/** Narrows a list down while somebody types. */
export function Filter({ ref, label, value, onChange }: Props) {
  return (
    <Input
      ref={ref}
      className="filter"
      size="small"
      allowClear
      placeholder={label}
      aria-label={label}
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
