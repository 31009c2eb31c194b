import { expect, it } from "vitest";
import type { DrawingData } from "@/api/client";
import { placeOnBlank, placePicture, toBlank, toDrawing } from "./placing";

const drawing = {
  figure_px: { x_min: 100, y_min: 50, x_max: 900, y_max: 450 },
  mm_per_px: 0.1,
  width_px: 1024,
  height_px: 1024,
} as unknown as DrawingData;
const blank = { width: 100, height: 60 };

it("puts the middle of the figure on the middle of the blank", () => {
  const placing = placeOnBlank(drawing, blank);
  expect(toBlank(placing, { x: 500, y: 250 })).toEqual({ x: 50, y: 30 });
});

it("gives the figure the width that is asked for", () => {
  const placing = placeOnBlank(drawing, blank, 40);
  expect(toBlank(placing, { x: 900, y: 0 }).x - toBlank(placing, { x: 100, y: 0 }).x).toBeCloseTo(40, 9);
});

it("finds its way back from the blank to the drawing", () => {
  const placing = placeOnBlank(drawing, blank);
  const back = toDrawing(placing, toBlank(placing, { x: 123, y: 321 }));
  expect(back.x).toBeCloseTo(123, 9);
  expect(back.y).toBeCloseTo(321, 9);
});

it("never lets a tall picture stand out of the blank", () => {
  const placing = placePicture({ width: 500, height: 1500 }, blank, 80);
  expect(1500 * placing.mmPerPx).toBeLessThanOrEqual(blank.height);
});
