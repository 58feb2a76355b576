import { Popover } from "antd";
import { type ReactNode, useId } from "react";
import { useWords } from "../api/bench";

/** A term that says what it means when it is pointed at, pressed or reached by the keyboard. */
export function Term({ of, children }: { of: string; children?: ReactNode }) {
  const said = useWords().data?.terms[of];
  const id = useId();
  if (!said) return <>{children ?? of}</>;
  return (
    <Popover
      trigger={["hover", "click", "focus"]}
      content={
        <p id={id} className="term-says">
          {said}
        </p>
      }
    >
      <button type="button" className="plain term" aria-description={said}>
        {children ?? of}
      </button>
    </Popover>
  );
}
