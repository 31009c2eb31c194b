import { describe, expect, it } from "vitest";
import type { Sketch } from "@/api/client";
import { familyOf, stepWords } from "./family";

const sketch = (id: number, parent_id: number | null, variations: [string, number][] = []) =>
  ({ id, parent_id, order: { variations } }) as unknown as Sketch;
const ALL = [
  sketch(1, null),
  sketch(2, 1, [["near", 5]]),
  sketch(3, 2, [
    ["near", 5],
    ["far", 6],
  ]),
  sketch(4, 2),
  sketch(5, null),
];

describe("a sketch's family", () => {
  it("is its ancestors, itself and its children, a step further in each time", () => {
    const found = familyOf(ALL[1] as Sketch, ALL);
    expect(found.map((kin) => [kin.sketch.id, kin.depth])).toEqual([
      [1, 0],
      [2, 1],
      [3, 2],
      [4, 2],
    ]);
  });

  it("ends where a parent is not of this motif, and does not go round in circles", () => {
    expect(familyOf(sketch(9, 77), ALL)).toHaveLength(1);
    const loop = [sketch(1, 2), sketch(2, 1)];
    expect(familyOf(loop[0] as Sketch, loop).length).toBeLessThan(4);
  });

  it("says how each came from its parent", () => {
    expect(ALL.map(stepWords)).toEqual(["", "near", "far", "in its style", ""]);
  });
});
