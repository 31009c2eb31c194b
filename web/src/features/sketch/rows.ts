/** A contact sheet as rows of equal width, so that only those in sight need to be on the page. */
import type { Motif, Sketch } from "@/api/client";

export const CARD_MIN_PX = 180;
export const GAP_PX = 14;
export const HEAD_PX = 58;
export const EMPTY_PX = 34;
export const CARDS_PX = 196;

export type SheetRow =
  | { kind: "head"; motif: Motif; height: number }
  | { kind: "empty"; motif: Motif; height: number }
  | { kind: "cards"; motif: Motif; sketches: Sketch[]; height: number };

/** Return how many cards fit side by side. */
export const columnsIn = (width: number) =>
  Math.max(1, Math.floor((width + GAP_PX) / (CARD_MIN_PX + GAP_PX)));

/** Return heads and rows of cards of all motifs under each other. */
export function sheetRows(motifs: Motif[], sketches: Map<number, Sketch[]>, columns: number): SheetRow[] {
  const rows: SheetRow[] = [];
  for (const motif of motifs) {
    rows.push({ kind: "head", motif, height: HEAD_PX });
    const drawn = sketches.get(motif.id) ?? [];
    if (!drawn.length) rows.push({ kind: "empty", motif, height: EMPTY_PX });
    for (let at = 0; at < drawn.length; at += columns)
      rows.push({ kind: "cards", motif, sketches: drawn.slice(at, at + columns), height: CARDS_PX });
  }
  return rows;
}
