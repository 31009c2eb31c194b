/** How far bringing in many pictures has come, and which were refused and why. */
import { Button } from "@/ui/Button";
import { Panel } from "@/ui/Panel";
import { plural } from "@/ui/format";
import { forgetRefused, useBringing } from "./bringing";

export function BroughtIn() {
  const { sent, total, refused } = useBringing();
  const under = sent < total;
  if (under && total > 1)
    return (
      <div
        role="status"
        className="num absolute right-4 bottom-4 z-20 border border-graphite bg-sheet px-3 py-1.5"
      >
        bringing in {sent + 1} of {total}
      </div>
    );
  return (
    <Panel
      open={!under && refused.length > 0}
      onClose={forgetRefused}
      title={`${plural(refused.length, "picture")} of ${total} could not be brought in`}
      description="All the others are on the sheet."
      width={620}
    >
      <ul aria-label="Refused pictures" className="max-h-[46vh] overflow-y-auto border-t border-hair">
        {refused.map((each, index) => (
          <li key={index} className="grid grid-cols-[180px_1fr] gap-4 border-b border-hair py-1.5">
            <span className="num truncate" title={each.name}>
              {each.name}
            </span>
            <span>{each.why}</span>
          </li>
        ))}
      </ul>
      <div className="mt-3">
        <Button onClick={forgetRefused}>Close</Button>
      </div>
    </Panel>
  );
}
