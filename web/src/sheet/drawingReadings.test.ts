import { describe, expect, it } from "vitest";
import type { DrawingData, NamedYardstick } from "@/api/client";
import { drawingReadings } from "./drawingReadings";

const yardstick = {
  yardstick: { limits: { thin_mm: 0.15, gap_mm: 0.2, speck_mm2: 0.3, one_piece: false } },
} as unknown as NamedYardstick;

function drawing(readings: object, kinds: string[] = []): DrawingData {
  return {
    proof: {
      findings: kinds.map((kind) => ({ kind })),
      readings: {
        width_mm: 80,
        height_mm: 41.26,
        paths: 7,
        closed_paths: 7,
        nodes: 44,
        pieces: 3,
        thinnest_mm: 0.4,
        smallest_gap_mm: null,
        ...readings,
      },
    },
  } as unknown as DrawingData;
}

const row = (label: string, data: DrawingData) =>
  drawingReadings(data, yardstick).find((reading) => reading.label === label);

describe("readings of a drawing", () => {
  it("says how many outlines are closed", () => {
    expect(row("Closed paths", drawing({}))).toMatchObject({ value: "7 of 7", state: "pass" });
  });

  it("takes open lines for lines as long as nothing is found wrong with them", () => {
    expect(row("Closed paths", drawing({ closed_paths: 2 }))).toMatchObject({
      value: "2, 5 lines",
      state: "pass",
    });
    expect(row("Closed paths", drawing({ closed_paths: 6 }))?.value).toBe("6, 1 line");
  });

  it("fails where an outline is open", () => {
    expect(row("Closed paths", drawing({ closed_paths: 6 }, ["open_path"]))).toMatchObject({
      value: "6 of 7",
      state: "fail",
    });
  });

  it("judges widths by the yardstick, and says more than three limits where none was found nearer", () => {
    expect(row("Thinnest part", drawing({ thinnest_mm: 0.1 }))?.state).toBe("fail");
    expect(row("Smallest gap", drawing({}))).toMatchObject({ value: "> 0.60 mm", state: "pass" });
  });

  it("counts loose pieces only where the yardstick wants one piece", () => {
    expect(row("Loose pieces", drawing({}))).toBeUndefined();
    expect(row("Pieces", drawing({}))?.value).toBe("3");
  });
});
