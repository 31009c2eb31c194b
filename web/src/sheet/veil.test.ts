import { describe, expect, it } from "vitest";
import { fullMm, histogram, isIn, veilColour } from "./veil";

const point = { x_px: 0, y_px: 0, off_mm: 0 };

describe("veil", () => {
  it("is blue where the drawing is fuller and red where it is leaner", () => {
    expect(veilColour(0.1, 0.1)).toBe("rgba(47,109,181,1.00)");
    expect(veilColour(-0.1, 0.1)).toBe("rgba(194,59,42,1.00)");
  });
  it("is fainter the smaller the deviation, and never darker than full", () => {
    expect(veilColour(0.05, 0.1)).toBe("rgba(47,109,181,0.56)");
    expect(veilColour(5, 0.1)).toBe(veilColour(0.1, 0.1));
  });
  it("does not magnify next to nothing", () => {
    expect(fullMm({ points: [], mean_mm: 0, p95_mm: 0.0001, largest: point }, 0.4)).toBe(0.1);
    expect(fullMm({ points: [], mean_mm: 0, p95_mm: 0.2, largest: point }, 0.4)).toBe(0.2);
  });
  it("counts every place once, those far off at either end, and knows the furthest of each bar", () => {
    const points = [-9, -0.09, 0, 0.01, 0.09, 7, 8].map((off_mm, x_px) => ({ x_px, y_px: 0, off_mm }));
    const bins = histogram({ points, mean_mm: 0, p95_mm: 0, largest: points[0]! }, 0.1);
    expect(bins.reduce((sum, bin) => sum + bin.count, 0)).toBe(points.length);
    expect(bins[0]!.furthest?.off_mm).toBe(-9);
    expect(bins.at(-1)!.furthest?.off_mm).toBe(8);
    for (const { off_mm } of points) expect(bins.filter((bin) => isIn(bin, off_mm))).toHaveLength(1);
  });
});
