import { describe, expect, it } from "vitest";
import type { DrawingData, Finding } from "@/api/client";
import { groupFindings } from "@/sheet/DrawingTape";
import { measureOf } from "@/sheet/FindingMarks";
import { mendFor } from "./mends";

const finding = (kind: Finding["kind"], changes: Partial<Finding> = {}): Finding => ({
  kind,
  x_px: 0,
  y_px: 0,
  x_mm: 0,
  y_mm: 0,
  measured: 0.11,
  limit: 0.15,
  unit: "mm",
  shape: "s2",
  ...changes,
});
const drawing = (count: number) =>
  ({ shapes: Array.from({ length: count }, (_, k) => ({ id: `s${k + 1}` })) }) as unknown as DrawingData;

describe("mends", () => {
  it("drops specks, and whole pieces that are loose or doubled", () => {
    expect(mendFor(finding("speck"), drawing(3)).does).toBe("drop-specks");
    expect(mendFor(finding("loose_piece"), drawing(3)).does).toBe("delete-shape");
    expect(mendFor(finding("duplicate_outline"), drawing(3)).does).toBe("delete-shape");
  });

  it("never offers to delete the only shape, or one that is not known", () => {
    expect(mendFor(finding("loose_piece"), drawing(1)).does).toBe("advice");
    expect(mendFor(finding("loose_piece", { shape: "" }), drawing(3)).does).toBe("advice");
  });

  it.each(["thin_part", "small_gap", "open_path", "self_crossing"] as const)(
    "says what to do about a %s",
    (kind) => {
      const mend = mendFor(finding(kind), drawing(3));
      expect(mend.does).toBe("advice");
      expect(mend.advice).toMatch(/Ink/);
    },
  );

  it("groups findings by kind and keeps their places in the list", () => {
    const findings = [finding("speck"), finding("thin_part"), finding("speck")];
    expect(groupFindings(findings)).toEqual([
      { kind: "speck", indexes: [0, 2] },
      { kind: "thin_part", indexes: [1] },
    ]);
  });

  it("reads each measure in its own words", () => {
    expect(measureOf(finding("thin_part"))).toBe("0.11 mm");
    expect(measureOf(finding("speck", { unit: "mm²" }))).toBe("0.11 mm²");
    expect(measureOf(finding("self_crossing", { unit: "crossings", measured: 2 }))).toBe("crosses 2×");
    expect(measureOf(finding("loose_piece", { measured: 20 }))).toBe("20.0 mm away");
    expect(measureOf(finding("duplicate_outline"))).toBe("drawn twice");
  });
});
