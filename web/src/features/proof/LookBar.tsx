/** How the sheet is looked at: on which ground, and compared with what. */
import { useState } from "react";
import type { Compare } from "@/sheet/compare";
import { CompareSliders } from "@/sheet/CompareSliders";
import { Picker } from "@/ui/Picker";
import { TextButton } from "@/ui/TextButton";
import { GROUNDS } from "./ColoursPanel";

interface Props {
  ground: string;
  onGround: (colour: string) => void;
  compare: Compare;
  onCompare: (compare: Compare) => void;
  /** What the drawing is compared with, in words; null if there is nothing. */
  other: string | null;
  /** Whether the veil lies over it; null if there is nothing to measure against. */
  veil: boolean | null;
  onVeil: (on: boolean) => void;
}

export function LookBar({ ground, onGround, compare, onCompare, other, veil, onVeil }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <div
      className={`absolute left-[34px] flex items-center gap-3 rounded border border-hair bg-sheet px-2 py-0.5 ${open ? "bottom-12" : "bottom-3"}`}
    >
      <span className="flex items-center gap-1.5">
        <span className="text-pencil">on</span>
        <Picker
          label="Ground"
          value={ground}
          options={GROUNDS.map(([value, label]) => ({ value, label }))}
          onChange={onGround}
          bare
        />
      </span>
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          className="accent-blue-pencil"
          checked={compare.outlines}
          onChange={(event) => onCompare({ ...compare, outlines: event.target.checked })}
        />
        outlines
      </label>
      <label className="flex items-center gap-1.5" title="V">
        <input
          type="checkbox"
          className="accent-blue-pencil"
          checked={veil ?? false}
          disabled={veil === null}
          onChange={(event) => onVeil(event.target.checked)}
        />
        veil
      </label>
      <TextButton
        aria-expanded={open}
        disabled={!other}
        onClick={() => {
          if (open) onCompare({ ...compare, fade: 0, divider: null });
          setOpen(!open);
        }}
      >
        compare
      </TextButton>
      {open && other && (
        <>
          <span className="text-pencil">with {other}:</span>
          <CompareSliders compare={compare} onCompare={onCompare} />
        </>
      )}
    </div>
  );
}
