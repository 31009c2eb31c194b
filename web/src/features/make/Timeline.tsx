import { duration } from "@/ui/format";
import type { Rehearsal } from "./rehearsal";

const COLOUR: Record<string, string> = {
  engrave: "bg-graphite",
  travel: "bg-blue-line",
  cut: "bg-red-pencil",
};

/** The rehearsal on a line: which operation takes how long, in the order they run. */
export function Timeline({ rehearsal }: { rehearsal: Rehearsal }) {
  const total = rehearsal.operations.reduce((sum, operation) => sum + operation.seconds, 0) || 1;
  return (
    <figure
      aria-label={`Rehearsal: ${duration(rehearsal.seconds)}`}
      className="border-t border-hair px-10 pt-2 pb-3"
    >
      <figcaption className="num flex justify-between text-[11px] text-pencil">
        <span>rehearsal on the stand-in laser</span>
        <span>{duration(rehearsal.seconds)}</span>
      </figcaption>
      <div className="mt-1 flex h-2 border-t border-graphite">
        {rehearsal.operations.map((operation) => (
          <div
            key={operation.name}
            className={COLOUR[operation.name] ?? "bg-pencil"}
            style={{ width: `${(100 * operation.seconds) / total}%` }}
          />
        ))}
      </div>
      <div className="mt-1 flex gap-5">
        {rehearsal.operations.map((operation) => (
          <span key={operation.name} className="flex items-center gap-1.5 text-sm">
            <i aria-hidden className={`size-2 ${COLOUR[operation.name] ?? "bg-pencil"}`} />
            {operation.name}{" "}
            <span className="num text-[11px] text-pencil">{duration(operation.seconds)}</span>
          </span>
        ))}
      </div>
    </figure>
  );
}
