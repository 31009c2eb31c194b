import { describe, expect, it } from "vitest";
import type { Motif, Sketch } from "@/api/client";
import { columnsIn, sheetRows } from "./rows";

const motif = (id: number) => ({ id, name: `motif ${id}` }) as Motif;
const sketches = (count: number) => Array.from({ length: count }, (_, id) => ({ id }) as Sketch);

describe("rows of the contact sheet", () => {
  it("fill the width with cards of at least their smallest width", () => {
    expect([100, 180, 373, 374, 800].map(columnsIn)).toEqual([1, 1, 1, 2, 4]);
  });

  it("hold every sketch once, under its motif's head", () => {
    const rows = sheetRows(
      [motif(1), motif(2), motif(3)],
      new Map([
        [1, sketches(5)],
        [3, sketches(3)],
      ]),
      3,
    );
    expect(rows.map((row) => `${row.kind} ${row.motif.id}`)).toEqual([
      "head 1", "cards 1", "cards 1", "head 2", "empty 2", "head 3", "cards 3",
    ]); // prettier-ignore
    const shown = rows.flatMap((row) => (row.kind === "cards" ? row.sketches : []));
    expect(shown).toHaveLength(8);
  });

  it("stay few for thousands", () => {
    expect(sheetRows([motif(1)], new Map([[1, sketches(4000)]]), 4)).toHaveLength(1001);
  });
});
