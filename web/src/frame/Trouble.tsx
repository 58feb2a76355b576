import { Alert, Button } from "antd";
import { Bar } from "./Bar";

/** A whole screen for what could not be read. */
export function Trouble({ error, again }: { error: Error; again: () => void }) {
  return (
    <>
      <Bar />
      <div className="narrow">
        <Alert
          type="error"
          showIcon
          title="This part could not be loaded"
          description={error.message}
          action={<Button onClick={again}>Try again</Button>}
        />
      </div>
    </>
  );
}
