import { describe, expect, it } from "vitest";
import type { ShapeData } from "@/api/client";
import { applyTo, move, scaleAbout, turnAbout } from "./matrix";
import { boxOf, inBox, inLasso, sameColour, sameSize, smallerThan, touching, withGroups } from "./selecting";

const shape = (id: string, x: number, y: number, changes: Partial<ShapeData> = {}): ShapeData => ({
  id,
  fill: "#24272b",
  d: "",
  node_count: 4,
  area_px2: 100,
  fill_rule: "evenodd",
  stroke_width_px: null,
  cap: "round",
  join: "round",
  mitre_limit: 4,
  box_px: { x_min: x, y_min: y, x_max: x + 10, y_max: y + 10 },
  group: "",
  locked: false,
  hidden: false,
  letters: "",
  ...changes,
});
const shapes = [
  shape("a", 0, 0),
  shape("b", 5, 5, { fill: "#aa5500", group: "eyes" }),
  shape("c", 50, 50, { fill: "#aa5500", area_px2: 300, group: "eyes" }),
  shape("d", 80, 0, { locked: true }),
];

describe("selecting", () => {
  it("takes what lies whole in a box, in any direction of the drag", () => {
    expect(inBox(shapes, { x: 20, y: 20 }, { x: -1, y: -1 })).toEqual(["a", "b"]);
    expect(inBox(shapes, { x: -1, y: -1 }, { x: 12, y: 12 })).toEqual(["a"]);
  });

  it("leaves locked and hidden shapes out", () => {
    expect(inBox(shapes, { x: -9, y: -9 }, { x: 200, y: 200 })).toEqual(["a", "b", "c"]);
  });

  it("takes what a lasso encloses", () => {
    const line = [
      { x: 40, y: 40 },
      { x: 70, y: 40 },
      { x: 70, y: 70 },
      { x: 40, y: 70 },
    ];
    expect(inLasso(shapes, line)).toEqual(["c"]);
  });

  it("goes by colour, size, touch and smallness", () => {
    expect(sameColour(shapes, new Set(["b"]))).toEqual(["b", "c"]);
    expect(sameSize(shapes, new Set(["a"]))).toEqual(["a", "b"]);
    expect(touching(shapes, new Set(["a"]))).toEqual(["a", "b"]);
    expect(smallerThan(shapes, 30, 0.5)).toEqual(["a", "b"]);
  });

  it("takes a group whole", () => {
    expect([...withGroups(shapes, ["b"])]).toEqual(["b", "c"]);
    expect([...withGroups(shapes, ["a"])]).toEqual(["a"]);
  });

  it("knows the box around what is chosen", () => {
    expect(boxOf(shapes, new Set(["a", "c"]))).toEqual({ x: 0, y: 0, width: 60, height: 60 });
    expect(boxOf(shapes, new Set())).toBeNull();
  });
});

describe("changes of place", () => {
  it("keeps the middle where it is", () => {
    const middle = { x: 7, y: -3 };
    for (const matrix of [scaleAbout(middle, 2, 0.5), turnAbout(middle, 33), scaleAbout(middle, -1, 1)]) {
      const { x, y } = applyTo(matrix, middle);
      expect(x).toBeCloseTo(7);
      expect(y).toBeCloseTo(-3);
    }
  });

  it("turns clockwise on the screen and moves", () => {
    const { x, y } = applyTo(turnAbout({ x: 0, y: 0 }, 90), { x: 1, y: 0 });
    expect(x).toBeCloseTo(0);
    expect(y).toBeCloseTo(1);
    expect(applyTo(move(2, 3), { x: 1, y: 1 })).toEqual({ x: 3, y: 4 });
  });
});
