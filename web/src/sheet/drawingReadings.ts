/** The rows of numbers that stand beside a drawing, judged by the yardstick's limits. */
import type { DrawingData, NamedYardstick } from "@/api/client";
import { atLeast, mm } from "@/ui/format";
import type { ReadingRow } from "@/ui/Readings";

export function drawingReadings(drawing: DrawingData, yardstick: NamedYardstick): ReadingRow[] {
  const { readings, findings } = drawing.proof;
  const { limits } = yardstick.yardstick;
  const judged = (value: number | null, limit: number) =>
    value !== null && value < limit ? ("fail" as const) : ("pass" as const);
  const open = readings.paths - readings.closed_paths;
  // A drawn line may be open; what should be an outline and is not has a finding.
  const faulty = findings.some((finding) => finding.kind === "open_path");
  const loose = findings.filter((finding) => finding.kind === "loose_piece").length;
  const over = (value: number | null, limit: number) => (value === null ? `> ${mm(3 * limit)}` : mm(value));
  return [
    { label: "Size, mm", value: `${readings.width_mm.toFixed(1)} × ${readings.height_mm.toFixed(1)}` },
    {
      label: "Closed paths",
      value:
        open && !faulty
          ? `${readings.closed_paths}, ${open} ${open === 1 ? "line" : "lines"}`
          : `${readings.closed_paths} of ${readings.paths}`,
      state: faulty ? "fail" : "pass",
    },
    {
      label: "Thinnest part",
      value: over(readings.thinnest_mm, limits.thin_mm),
      limit: atLeast(limits.thin_mm),
      state: judged(readings.thinnest_mm, limits.thin_mm),
    },
    {
      label: "Smallest gap",
      value: over(readings.smallest_gap_mm, limits.gap_mm),
      limit: atLeast(limits.gap_mm),
      state: judged(readings.smallest_gap_mm, limits.gap_mm),
    },
    limits.one_piece
      ? { label: "Loose pieces", value: String(loose), limit: "0", state: loose ? "fail" : "pass" }
      : { label: "Pieces", value: String(readings.pieces) },
    { label: "Nodes", value: String(readings.nodes) },
  ];
}
