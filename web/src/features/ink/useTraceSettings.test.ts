import { describe, expect, it } from "vitest";
import { settled, START } from "./useTraceSettings";

const flats = { method: "flats" as const, why: "five flat colours" };

describe("which method is used", () => {
  it("is the picture's own until one is picked", () => {
    expect(settled(null, null, true, flats)).toEqual({ used: { ...START, method: "flats" }, isAuto: true });
    const knob = { ...START, tolerance_px: 1 };
    expect(settled(knob, null, true, flats).used).toEqual({ ...knob, method: "flats" });
    expect(settled(knob, null, false, flats).used).toEqual(knob);
  });

  it("is the drawing's own at the first look", () => {
    const kept = { ...START, method: "centreline" as const };
    expect(settled(null, kept, true, flats)).toEqual({ used: kept, isAuto: false });
    expect(settled({ ...kept }, kept, true, flats)).toEqual({
      used: { ...kept, method: "flats" },
      isAuto: true,
    });
  });

  it("starts with solid while nothing is known of the picture", () => {
    expect(settled(null, null, true, null)).toEqual({ used: START, isAuto: true });
  });
});
