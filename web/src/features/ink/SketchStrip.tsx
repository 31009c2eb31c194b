import { pictureUrl, type Sketch } from "@/api/client";

/** The motif's sketches below the sheet, kept ones first: which one is traced. */
export function SketchStrip({
  sketches,
  chosenId,
  onChoose,
}: {
  sketches: Sketch[];
  chosenId: number;
  onChoose: (id: number) => void;
}) {
  const ordered = [...sketches].sort((a, b) => Number(b.kept) - Number(a.kept) || a.id - b.id);
  return (
    <div
      role="listbox"
      aria-label="Sketch to trace"
      className="flex gap-3 overflow-x-auto border-t border-hair px-3.5 py-2"
    >
      {ordered.map((sketch) => (
        <button
          key={sketch.id}
          type="button"
          role="option"
          aria-selected={sketch.id === chosenId}
          onClick={() => onChoose(sketch.id)}
          className={`w-[104px] shrink-0 border-b-[3px] pb-0.5 text-left ${sketch.id === chosenId ? "border-blue-pencil" : "border-transparent"}`}
        >
          <span
            className={`grid h-[62px] place-items-center overflow-hidden border bg-sheet ${sketch.id === chosenId ? "border-blue-pencil" : "border-hair hover:border-graphite"}`}
          >
            <img
              src={pictureUrl(sketch.thumb_sha)}
              alt={`Sketch ${sketch.id}`}
              className="h-[62px] object-contain on-paper"
            />
          </span>
          <span className="num flex justify-between text-[11px] leading-[15px] text-pencil">
            <span>no. {sketch.id}</span>
            <span className={sketch.kept ? "text-blue-pencil" : ""}>
              {sketch.kept ? "kept" : sketch.source === "upload" ? "own" : ""}
            </span>
          </span>
        </button>
      ))}
    </div>
  );
}
