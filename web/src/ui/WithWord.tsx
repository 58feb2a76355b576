import { Button, Input, Popover } from "antd";
import { useState } from "react";

/** A button that asks for a word first. */
export function WithWord({
  label,
  hint,
  disabled,
  onSay,
}: {
  label: string;
  hint: string;
  disabled: boolean;
  onSay: (why: string) => void;
}) {
  const [open, setOpen] = useState(false);
  const [why, setWhy] = useState("");
  const say = () => {
    setOpen(false);
    onSay(why.trim());
  };
  return (
    <Popover
      trigger="click"
      open={open}
      onOpenChange={setOpen}
      content={
        <div className="row">
          <Input
            size="small"
            autoFocus
            placeholder={hint}
            aria-label={hint}
            value={why}
            maxLength={500}
            onChange={(event) => setWhy(event.target.value)}
            onPressEnter={say}
          />
          <Button size="small" type="primary" onClick={say}>
            Confirm
          </Button>
        </div>
      }
    >
      <Button size="small" disabled={disabled}>
        {label}
      </Button>
    </Popover>
  );
}
