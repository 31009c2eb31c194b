/** Demand figures in order, and as a small line. */
import type { DemandRow } from "@/api/client";

export type SortKey = "views_day" | "favourites" | "price" | "rivals" | "gap";

/** Return rows sorted, the largest first; fewest rivals first, because rivals are no merit. */
export function sortRows(rows: DemandRow[], by: SortKey): DemandRow[] {
  const sign = by === "rivals" ? 1 : -1;
  return [...rows].sort((a, b) => sign * (a[by] - b[by]) || a.subject.localeCompare(b.subject));
}

/** Return the points of a line through values, from 0 at the bottom to the largest at the top. */
export function sparkline(values: number[], width: number, height: number): string {
  const most = Math.max(...values, 1);
  const step = width / Math.max(1, values.length - 1);
  return values
    .map((value, k) => `${(1 + k * step).toFixed(1)},${(1 + height * (1 - value / most)).toFixed(1)}`)
    .join(" ");
}
