import { Button } from "./Button";
import { Panel } from "./Panel";

/** Asks before anything is spent. Without a question nothing is shown. */
export function Spend({
  question,
  onYes,
  onNo,
}: {
  question: string | null;
  onYes: () => void;
  onNo: () => void;
}) {
  const final = question?.includes("allowance") ?? false;
  return (
    <Panel open={question !== null} onClose={onNo} title="Before anything is spent">
      <p>{question}</p>
      <div className="mt-3 flex gap-2">
        {!final && (
          <Button kind="ink" onClick={onYes}>
            Agree and draw
          </Button>
        )}
        <Button onClick={onNo}>{final ? "Close" : "Do not draw"}</Button>
      </div>
    </Panel>
  );
}
