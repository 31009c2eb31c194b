import { describe, expect, it } from "vitest";
import {
  dataOf,
  handlesOf,
  keyOf,
  moveHandle,
  moveNodes,
  nearestOf,
  nodesOf,
  refOf,
  type PathPoints,
} from "./nodes";

const line = (a: number[], b: number[]) => [
  a,
  a.map((v, k) => v + (b[k]! - v) / 3),
  b.map((v, k) => v + (a[k]! - v) / 3),
  b,
];
const square: PathPoints = {
  closed: true,
  segments: [line([0, 0], [30, 0]), line([30, 0], [30, 30]), line([30, 30], [0, 30]), line([0, 30], [0, 0])],
};
const open: PathPoints = { closed: false, segments: [line([0, 0], [30, 0]), line([30, 0], [60, 0])] };

describe("nodes", () => {
  it("an open path has one more than it has segments", () => {
    expect(nodesOf([square, open])).toHaveLength(7);
    expect(refOf(keyOf({ path: 1, node: 2 }))).toEqual({ path: 1, node: 2 });
  });

  it("moving a node of a closed path takes both its segments along", () => {
    const [moved] = moveNodes([square], new Set(["0:0"]), { x: 5, y: 7 });
    expect(moved!.segments[0]![0]).toEqual([5, 7]);
    expect(moved!.segments[3]![3]).toEqual([5, 7]);
    expect(moved!.segments[3]![2]).toEqual([5, 17]);
    expect(moved!.segments[1]).toEqual(square.segments[1]);
  });

  it("a chosen node shows the handles on both sides, an end of an open path one", () => {
    expect(handlesOf([square], new Set(["0:0"]))).toHaveLength(2);
    expect(handlesOf([open], new Set(["0:0"]))).toHaveLength(1);
    expect(handlesOf([open], new Set(["0:2"]))).toHaveLength(1);
  });

  it("at a smooth node the other handle turns along, at a corner it stays", () => {
    const [smooth] = moveHandle([open], { path: 0, segment: 1, which: 1 }, { x: 0, y: 10 });
    expect(smooth!.segments[1]![1]).toEqual([40, 10]);
    expect(smooth!.segments[0]![2]![1]).toBeLessThan(-1);
    const [corner] = moveHandle([square], { path: 0, segment: 1, which: 1 }, { x: 4, y: 0 });
    expect(corner!.segments[0]).toEqual(square.segments[0]);
  });

  it("finds what is near, and nothing that is far", () => {
    expect(nearestOf(nodesOf([square]), { x: 29, y: 1 }, 3)?.ref).toEqual({ path: 0, node: 1 });
    expect(nearestOf(nodesOf([square]), { x: 15, y: 15 }, 3)).toBeNull();
  });

  it("writes path data", () => {
    expect(
      dataOf([
        {
          closed: true,
          segments: [
            [
              [0, 0],
              [1, 0],
              [2, 0],
              [3, 0],
            ],
          ],
        },
      ]),
    ).toBe("M0 0C1 0 2 0 3 0Z");
  });
});
