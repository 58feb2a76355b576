import { Spin } from "antd";

/** Stands where a part will be once it is there; as tall as the part, so that nothing below it jumps. */
export function Waiting() {
  return (
    <div className="waiting">
      <Spin />
    </div>
  );
}
