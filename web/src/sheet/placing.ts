/** Where a drawing lies on a blank: its figure's box in the middle, at its finished size. */
import type { DrawingData, Finding } from "@/api/client";
import type { Point, Size } from "./view";

export interface Placing {
  mmPerPx: number;
  /** Where the drawing's own (0, 0) lies on the blank, mm. */
  origin: Point;
}

export function placeOnBlank(drawing: DrawingData, blank: Size, widthMm?: number): Placing {
  const { x_min: x0, y_min: y0, x_max: x1, y_max: y1 } = drawing.figure_px;
  const mmPerPx = widthMm !== undefined && x1 > x0 ? widthMm / (x1 - x0) : drawing.mm_per_px;
  return {
    mmPerPx,
    origin: {
      x: blank.width / 2 - ((x0 + x1) / 2) * mmPerPx,
      y: blank.height / 2 - ((y0 + y1) / 2) * mmPerPx,
    },
  };
}

export function toBlank(placing: Placing, px: Point): Point {
  return { x: placing.origin.x + px.x * placing.mmPerPx, y: placing.origin.y + px.y * placing.mmPerPx };
}

export function toDrawing(placing: Placing, mm: Point): Point {
  return { x: (mm.x - placing.origin.x) / placing.mmPerPx, y: (mm.y - placing.origin.y) / placing.mmPerPx };
}

export function findingOnBlank(placing: Placing, finding: Finding): Point {
  return toBlank(placing, { x: finding.x_px, y: finding.y_px });
}

/** A picture that is not traced yet: as wide as the yardstick says, in the middle. */
export function placePicture(size: Size, blank: Size, widthMm: number): Placing {
  const mmPerPx = Math.min(widthMm / size.width, blank.height / size.height);
  return {
    mmPerPx,
    origin: { x: (blank.width - size.width * mmPerPx) / 2, y: (blank.height - size.height * mmPerPx) / 2 },
  };
}
