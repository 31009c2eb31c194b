import { describe, expect, it } from "vitest";
import type { ShapeData } from "@/api/client";
import { meeting } from "./paint";

const shape = (id: string, fill: string, more: Partial<ShapeData> = {}) =>
  ({ id, fill, hidden: false, stroke_width_px: null, ...more }) as ShapeData;

describe("areas that meet", () => {
  it("are those of drawings in several colours", () => {
    const two = [shape("a", "#111111"), shape("b", "#222222")];
    expect(meeting(two)).toEqual(two);
    expect(meeting([shape("a", "#111111"), shape("b", "#111111")])).toEqual([]);
  });

  it("are neither lines nor hidden", () => {
    const line = shape("l", "#333333", { stroke_width_px: 2 });
    const gone = shape("g", "#444444", { hidden: true });
    const two = [shape("a", "#111111"), line, gone, shape("b", "#222222")];
    expect(meeting(two).map((each) => each.id)).toEqual(["a", "b"]);
  });
});
