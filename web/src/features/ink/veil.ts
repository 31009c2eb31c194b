/** The veil: where and how far the trace departs from the sketch, in mm. */
import { useQuery } from "@tanstack/react-query";
import { api, ask, type NamedYardstick, type TraceSettings, type VeilData } from "@/api/client";
import type { SeenSketch } from "@/api/queries";
import type { Painter } from "@/sheet/paint";
import { toBlank, type Placing } from "@/sheet/placing";
import { apply } from "@/sheet/view";

export function useVeil(
  sketch: SeenSketch | null,
  settings: TraceSettings,
  yardstick: NamedYardstick,
  on: boolean,
) {
  return useQuery({
    queryKey: ["veil", sketch?.id, sketch?.picture_sha, settings, yardstick.yardstick],
    queryFn: () =>
      ask(
        api.POST("/api/sketches/{sketch_id}/veil", {
          params: { path: { sketch_id: sketch?.id ?? 0 } },
          body: settings,
        }),
      ),
    enabled: on && sketch !== null,
    staleTime: Infinity,
    placeholderData: (before) => before,
  }).data;
}

/** Blue where the drawing is fuller than the sketch, red where it is leaner; the further off, the darker. */
export function veilColour(offMm: number, fullMm: number): string {
  const strength = Math.min(1, Math.abs(offMm) / Math.max(fullMm, 1e-6));
  const [r, g, b] = offMm >= 0 ? [47, 109, 181] : [194, 59, 42];
  return `rgba(${r},${g},${b},${(0.12 + 0.88 * strength).toFixed(2)})`;
}

/** The deviation that is drawn darkest: the 95 % one, but no less than a quarter of the thinnest part. */
export const fullMm = (veil: VeilData, thinMm: number) => Math.max(veil.p95_mm, thinMm / 4);

export function paintVeil(veil: VeilData, placing: Placing, thinMm: number): Painter {
  const full = fullMm(veil, thinMm);
  return (context, view) => {
    context.save();
    for (const point of veil.points) {
      const at = apply(view, toBlank(placing, { x: point.x_px, y: point.y_px }));
      const radius = 1.6 + 2.2 * Math.min(1, Math.abs(point.off_mm) / full);
      context.fillStyle = veilColour(point.off_mm, full);
      context.beginPath();
      context.arc(at.x, at.y, radius, 0, 2 * Math.PI);
      context.fill();
    }
    const worst = apply(view, toBlank(placing, { x: veil.largest.x_px, y: veil.largest.y_px }));
    context.strokeStyle = "#c23b2a";
    context.lineWidth = 1.8;
    context.beginPath();
    context.arc(worst.x, worst.y, 12, 0.4, 2 * Math.PI + 0.1);
    context.stroke();
    context.restore();
  };
}
