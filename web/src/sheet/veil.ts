/** The veil: where and how far a drawing departs from its sketch or from an earlier state, in mm. */
import type { VeilData, VeilPoint } from "@/api/client";
import type { Painter } from "./paint";
import { toBlank, type Placing } from "./placing";
import { apply } from "./view";

/** Points off by so many mm; those furthest off belong to the first or the last. */
export interface VeilBin {
  from: number;
  to: number;
  count: number;
  furthest: VeilPoint | null;
}
const BINS = 15;

/** Blue where the drawing is fuller than the sketch, red where it is leaner; the further off, the darker. */
export function veilColour(offMm: number, fullMm: number): string {
  const strength = Math.min(1, Math.abs(offMm) / Math.max(fullMm, 1e-6));
  const [r, g, b] = offMm >= 0 ? [47, 109, 181] : [194, 59, 42];
  return `rgba(${r},${g},${b},${(0.12 + 0.88 * strength).toFixed(2)})`;
}

/** The deviation that is drawn darkest: the 95 % one, but no less than a quarter of the thinnest part. */
export const fullMm = (veil: VeilData, thinMm: number) => Math.max(veil.p95_mm, thinMm / 4);

/** How many places are off by how much, from leanest to fullest. */
export function histogram(veil: VeilData, full: number): VeilBin[] {
  const width = (2 * full) / BINS;
  const bins: VeilBin[] = Array.from({ length: BINS }, (_, k) => ({
    from: k === 0 ? -Infinity : -full + k * width,
    to: k === BINS - 1 ? Infinity : -full + (k + 1) * width,
    count: 0,
    furthest: null,
  }));
  for (const point of veil.points) {
    const bin = bins[Math.max(0, Math.min(BINS - 1, Math.floor((point.off_mm + full) / width)))]!;
    bin.count += 1;
    if (!bin.furthest || Math.abs(point.off_mm) > Math.abs(bin.furthest.off_mm)) bin.furthest = point;
  }
  return bins;
}

export const isIn = (bin: VeilBin, offMm: number) => offMm >= bin.from && offMm < bin.to;

/** Every place a dot, or only those of one bin; the furthest off is ringed. */
export function paintVeil(veil: VeilData, placing: Placing, full: number, bin: VeilBin | null): Painter {
  return (context, view) => {
    context.save();
    for (const point of veil.points) {
      if (bin && !isIn(bin, point.off_mm)) continue;
      const at = apply(view, toBlank(placing, { x: point.x_px, y: point.y_px }));
      const radius = 1.6 + 2.2 * Math.min(1, Math.abs(point.off_mm) / full);
      context.fillStyle = veilColour(point.off_mm, full);
      context.beginPath();
      context.arc(at.x, at.y, radius, 0, 2 * Math.PI);
      context.fill();
    }
    const ringed = bin ? bin.furthest : veil.largest;
    if (ringed) {
      const worst = apply(view, toBlank(placing, { x: ringed.x_px, y: ringed.y_px }));
      context.strokeStyle = "#c23b2a";
      context.lineWidth = 1.8;
      context.beginPath();
      context.arc(worst.x, worst.y, 12, 0.4, 2 * Math.PI + 0.1);
      context.stroke();
    }
    context.restore();
  };
}
