import { describe, expect, it } from "vitest";
import { fullMm, veilColour } from "./veil";

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
});
