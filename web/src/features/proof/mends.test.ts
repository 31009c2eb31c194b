import { describe, expect, it } from "vitest";
import type { Finding } from "@/api/client";
import { groupFindings } from "@/sheet/DrawingTape";
import { measureOf } from "@/sheet/FindingMarks";
import { doneInWords, HOW_WORDS, mendsOf } from "./mends";

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
  other: "",
  sure: true,
  trail_px: [],
  mends: [],
  size_mm2: 0,
  ...changes,
});

describe("mends", () => {
  it("offers what the server says, the usual one first", () => {
    expect(mendsOf(finding("thin_part", { mends: ["thicken", "drop"] }), 3).hows).toEqual([
      "thicken",
      "drop",
    ]);
  });

  it("never offers to drop the only shape", () => {
    expect(mendsOf(finding("thin_part", { mends: ["thicken", "drop"] }), 1).hows).toEqual(["thicken"]);
    expect(mendsOf(finding("speck", { mends: ["drop"] }), 1).hows).toEqual(["drop"]);
  });

  it.each(["too_large", "lettering"] as const)("says what to do about %s", (kind) => {
    const choice = mendsOf(finding(kind), 3);
    expect(choice.hows).toEqual([]);
    expect(choice.advice).toMatch(/yardstick|real letters/);
  });

  it("has its own words for every mend", () => {
    const words = Object.values(HOW_WORDS);
    expect(new Set(words).size).toBe(words.length);
  });

  it("says where bridges stand and how large they are", () => {
    const bridges = [{ x_mm: 42.5, y_mm: 25.2, length_mm: 5, width_mm: 1.65 }];
    const line = { kind: "loose_piece", how: "bridge", count: 1, area_mm2: 8, nodes: 4, bridges } as const;
    expect(doneInWords([{ ...line, bridges: [...bridges] }])).toMatch(/; 5\.0 × 1\.[67] mm at 4[23], 25\)/);
  });

  it("says what was done in one sentence", () => {
    const line = { kind: "speck", how: "drop", count: 2, area_mm2: -0.1, nodes: -8 } as const;
    expect(doneInWords([line, { ...line, kind: "thin_part", how: "thicken", count: 1 }])).toBe(
      "Mended 2 specks (drop it), 1 thin part (thicken here).",
    );
  });

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
    expect(measureOf(finding("nodes", { unit: "nodes", measured: 240, limit: 80 }))).toBe("240, 80 would do");
    expect(measureOf(finding("colours", { unit: "colours", measured: 7, limit: 4 }))).toBe("7 of 4");
  });
});
