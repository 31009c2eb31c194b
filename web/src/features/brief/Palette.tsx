/** Colours of flat drawings: how many at most, or exactly which. */
import { Segments } from "@/ui/Segments";
import type { Draft } from "./draft";

const COUNTS = [
  { value: "0", label: "Any" },
  { value: "2", label: "2" },
  { value: "3", label: "3" },
  { value: "4", label: "4" },
  { value: "6", label: "6" },
];
const FIRST = "#24405c";
const MOST = 12;

interface Props {
  style: Draft["style"];
  onChange: (change: Partial<Draft["style"]>) => void;
}

export function Palette({ style, onChange }: Props) {
  const palette = style.palette ?? [];
  return (
    <>
      <div className="mt-1.5 grid grid-cols-[62px_1fr] items-center">
        <span>Colours</span>
        <Segments
          label="Colours"
          value={String(palette.length ? palette.length : (style.colours ?? 0))}
          segments={COUNTS}
          onChange={(count) => onChange({ colours: Number(count) || null, palette: [] })}
        />
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-1.5" aria-label="Palette">
        {palette.map((colour, index) => (
          <span key={index} className="flex items-center border border-hair">
            <input
              type="color"
              value={colour}
              aria-label={`Colour ${index + 1}`}
              onChange={(event) =>
                onChange({ palette: palette.map((each, k) => (k === index ? event.target.value : each)) })
              }
              className="h-6 w-8 cursor-pointer border-0 bg-transparent p-0.5"
            />
            <button
              type="button"
              aria-label={`Leave colour ${index + 1} out`}
              className="px-1 text-pencil hover:text-red-pencil"
              onClick={() => onChange({ palette: palette.filter((_, k) => k !== index) })}
            >
              ✕
            </button>
          </span>
        ))}
        {palette.length < MOST && (
          <button
            type="button"
            className="link"
            onClick={() => onChange({ palette: [...palette, palette.at(-1) ?? FIRST], colours: null })}
          >
            {palette.length ? "one more" : "choose the colours"}
          </button>
        )}
      </div>
    </>
  );
}
