import { describe, expect, it } from "vitest";
import type { Process, Ticket } from "@/api/client";
import { materialOf } from "./materials";
import { previewShaOf, rehearsalOf } from "./rehearsal";
import { CHOICES, isIdle, MAKINGS, makingFor, NUMBERS, startValues } from "./settings";

const processes: Process[] = ["laser-engrave", "laser-cut", "carve", "relief", "apparel", "stencil"];

describe("settings", () => {
  it("has a start value for everything the form asks", () => {
    for (const { value: making } of MAKINGS) {
      for (const process of processes) {
        const values = startValues(making, process);
        for (const setting of NUMBERS[making]) expect(values[setting.key]).toBeTypeOf("number");
        for (const choice of CHOICES[making])
          expect(choice.choices.map((each) => each.value)).toContain(values[choice.key]);
      }
    }
  });

  it("cuts a tag where the yardstick cuts, and nothing where it engraves", () => {
    expect(startValues("laser", "laser-cut").cut).toBe("around");
    expect(startValues("laser", "laser-engrave").cut).toBe("none");
  });

  it("leaves out what says nothing", () => {
    expect(isIdle("laser", "kerf_mm", { cut: "none" })).toBe(true);
    expect(isIdle("laser", "kerf_mm", { cut: "shapes" })).toBe(false);
    expect(isIdle("laser", "hole_mm", { cut: "shapes" })).toBe(true);
    expect(isIdle("laser", "hole_mm", { cut: "around" })).toBe(false);
    expect(isIdle("laser", "spacing_mm", { cut: "none" })).toBe(false);
    expect(isIdle("carve", "tolerance_mm", { entity: "spline" })).toBe(true);
    expect(isIdle("relief", "base_mm", {})).toBe(false);
  });

  it("starts with what the yardstick is for", () => {
    expect(processes.map(makingFor)).toEqual(["laser", "laser", "carve", "relief", "apparel", "laser"]);
  });
});

describe("materials", () => {
  it("knows blanks by the words on them and takes paper for the rest", () => {
    expect(materialOf("slate marker").ground).toBe("#3c4248");
    expect(materialOf("Oak board").ground).toBe(materialOf("oak").ground);
    expect(materialOf("3 mm plywood").mark).not.toBe(materialOf("slate").mark);
    expect(materialOf("something else")).toEqual(materialOf(""));
  });
});

describe("rehearsal", () => {
  const ticket = (rehearsal: Record<string, unknown>) => ({ rehearsal }) as unknown as Ticket;

  it("reads what the laser said", () => {
    const read = rehearsalOf(
      ticket({
        seconds: 9,
        operations: [{ name: "cut", seconds: 9 }],
        page_mm: [100, 60],
        picture_bounds_mm: [0, 0, 1, 1],
        burned_mm: 40,
        travel_mm: 3,
        engraves_first: true,
        inner_first: false,
        warnings: ["w"],
      }),
    );
    expect(read).toMatchObject({
      seconds: 9,
      pageMm: [100, 60],
      engravesFirst: true,
      innerFirst: false,
      warnings: ["w"],
    });
  });

  it("is nothing for tickets that were not rehearsed", () => {
    expect(rehearsalOf(ticket({ preview_sha: "abc" }))).toBeNull();
    expect(previewShaOf(ticket({ preview_sha: "abc" }))).toBe("abc");
    expect(previewShaOf(ticket({}))).toBe("");
  });
});
