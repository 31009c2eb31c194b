/** Fading over to the other, or a divider between the two. */
import type { Compare } from "./compare";

export function CompareSliders({
  compare,
  onCompare,
}: {
  compare: Compare;
  onCompare: (compare: Compare) => void;
}) {
  return (
    <>
      <label className="flex items-center gap-1.5">
        fade
        <input
          type="range"
          className="w-20 accent-blue-pencil"
          min={0}
          max={1}
          step={0.05}
          value={compare.fade}
          onChange={(event) => onCompare({ ...compare, divider: null, fade: Number(event.target.value) })}
        />
      </label>
      <label className="flex items-center gap-1.5">
        divider
        <input
          type="range"
          className="w-20 accent-blue-pencil"
          min={0}
          max={1}
          step={0.01}
          value={compare.divider ?? 0}
          onChange={(event) =>
            onCompare({ ...compare, fade: 0, divider: Number(event.target.value) || null })
          }
        />
      </label>
    </>
  );
}
