/** The veil in numbers: how many places are off by how much. A bar shows its own places alone. */
import type { VeilData } from "@/api/client";
import { fineMm } from "@/ui/format";
import { toBlank, type Placing } from "./placing";
import { useSheetView } from "./sheetView";
import { histogram, veilColour, type VeilBin } from "./veil";

const HIGH_PX = 40;

interface Props {
  veil: VeilData;
  full: number;
  /** What the drawing is compared with, in words. */
  other: string;
  chosen: number | null;
  onChoose: (bin: number | null) => void;
  placing: Placing;
}

export function VeilCard({ veil, full, other, chosen, onChoose, placing }: Props) {
  const bins = histogram(veil, full);
  const most = Math.max(1, ...bins.map((bin) => bin.count));
  const choose = (index: number, bin: VeilBin) => {
    if (index === chosen) return onChoose(null);
    onChoose(index);
    const at = bin.furthest;
    if (at)
      useSheetView.getState().fly(toBlank(placing, { x: at.x_px, y: at.y_px }), Math.abs(at.off_mm) || 0.5);
  };
  return (
    <section aria-label="Veil" className="rounded border border-hair bg-sheet px-2.5 py-1.5">
      <h4 className="font-semibold">Off {other}, mm</h4>
      <dl className="num flex justify-between text-[12px] whitespace-nowrap">
        {(
          [
            ["mean", veil.mean_mm],
            ["95 %", veil.p95_mm],
            ["largest", Math.abs(veil.largest.off_mm)],
          ] as const
        ).map(([name, value]) => (
          <div key={name} className="flex gap-1.5">
            <dt className="text-pencil">{name}</dt>
            <dd>{value.toFixed(3)}</dd>
          </div>
        ))}
      </dl>
      <div className="mt-1 flex items-end gap-px" style={{ height: HIGH_PX }}>
        {bins.map((bin, index) => {
          const middle = Math.max(-full, Math.min(full, (2 * full * (index + 0.5)) / bins.length - full));
          return (
            <button
              key={index}
              type="button"
              disabled={!bin.count}
              aria-pressed={index === chosen}
              aria-label={words(bin, veil.points.length)}
              title={words(bin, veil.points.length)}
              onClick={() => choose(index, bin)}
              className="flex h-full flex-1 items-end enabled:hover:bg-paper aria-pressed:bg-paper"
            >
              <span
                className="block w-full"
                style={{
                  // By the root: a few places far off must be seen beside thousands that are right.
                  height: bin.count ? Math.max(2, HIGH_PX * Math.sqrt(bin.count / most)) : 0,
                  background: veilColour(middle, full),
                  outline: index === chosen ? "1.5px solid #24272b" : undefined,
                }}
              />
            </button>
          );
        })}
      </div>
      <p className="num flex justify-between border-t border-hair text-[11px] text-pencil">
        <span>leaner {fineMm(full)}</span>
        <span>{fineMm(full)} fuller</span>
      </p>
    </section>
  );
}

function words(bin: VeilBin, all: number): string {
  const share = `${((100 * bin.count) / Math.max(1, all)).toFixed(1)} % of the outline`;
  const range =
    bin.from === -Infinity
      ? `leaner by more than ${fineMm(-bin.to)}`
      : bin.to === Infinity
        ? `fuller by more than ${fineMm(bin.from)}`
        : `${fineMm(bin.from)} to ${fineMm(bin.to)}`;
  return `${range}: ${share}`;
}
