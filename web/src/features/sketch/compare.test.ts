import { describe, expect, it } from "vitest";
import { movedBy, toggled, WHOLE, zoomedAt } from "./compare";

describe("comparing", () => {
  it("holds up to three, the oldest goes", () => {
    expect([1, 2, 3, 4].reduce(toggled, [] as number[])).toEqual([2, 3, 4]);
    expect(toggled([2, 3], 2)).toEqual([3]);
  });

  it("enlarges about the pointer: what is under it stays", () => {
    const at = { x: 0.25, y: 0.75 };
    const under = (view: typeof WHOLE) => view.x + (at.x - 0.5) / view.zoom;
    const closer = zoomedAt(WHOLE, at, 4);
    expect(closer.zoom).toBe(4);
    expect(under(closer)).toBeCloseTo(under(WHOLE));
    expect(zoomedAt(closer, at, 1 / 4)).toEqual(WHOLE);
  });

  it("never shows what lies outside the pictures", () => {
    expect(movedBy(WHOLE, 3, -3)).toEqual(WHOLE);
    const moved = movedBy(zoomedAt(WHOLE, { x: 0.5, y: 0.5 }, 2), -9, 9);
    expect([moved.x, moved.y]).toEqual([0.75, 0.25]);
    expect(zoomedAt(WHOLE, { x: 0, y: 0 }, 1000).zoom).toBe(16);
  });
});
