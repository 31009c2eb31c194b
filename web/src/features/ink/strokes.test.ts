import { describe, expect, it } from "vitest";
import type { CleanStep } from "@/api/cleaning";
import { stepOf, stepRows } from "./strokes";

// 100 px are 50 mm; the picture's corner lies at 10, 20 mm.
const how = {
  placing: { mmPerPx: 0.5, origin: { x: 10, y: 20 } },
  picture: { width: 100, height: 200 },
  brushMm: 5,
};

describe("strokes on the sheet", () => {
  it("become brush steps in shares of the picture", () => {
    const step = stepOf(
      "rub-out",
      [
        { x: 10, y: 20 },
        { x: 35, y: 70 },
      ],
      how,
    );
    expect(step).toEqual({
      kind: "brush", on: true, restore: false, width: 0.05, path: [[0, 0], [0.5, 0.5]],
    }); // prettier-ignore
    expect(stepOf("bring-back", [{ x: 0, y: 0 }], how)).toMatchObject({ restore: true });
  });

  it("become boxes from corner to corner, whichever way they are drawn, inside the picture", () => {
    const box = { x_min: 0.5, y_min: 0.25, x_max: 1, y_max: 0.5 };
    for (const corners of [
      [
        { x: 35, y: 45 },
        { x: 99, y: 70 },
      ],
      [
        { x: 99, y: 70 },
        { x: 50, y: 50 },
        { x: 35, y: 45 },
      ],
    ])
      expect(stepOf("wipe-box", corners, how)).toEqual({ kind: "wipe-box", on: true, ...box });
    expect(stepOf("crop", [{ x: 35, y: 45 }], how)).toBeNull();
  });
});

describe("rows of steps", () => {
  const brush = (restore: boolean): CleanStep => ({ kind: "brush", on: true, restore });
  it("put strokes together that follow each other and do the same", () => {
    const steps = [brush(false), brush(false), brush(true), { kind: "invert", on: true }, brush(true)];
    expect(stepRows(steps).map((row) => [row.step.kind, row.from, row.count])).toEqual([
      ["brush", 0, 2], ["brush", 2, 1], ["invert", 3, 1], ["brush", 4, 1],
    ]); // prettier-ignore
  });
});
