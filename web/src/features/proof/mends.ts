/** Which mend a finding has today, and what to do by hand where there is none yet. */
import type { DrawingData, Finding } from "@/api/client";

export interface Mend {
  does: "drop-specks" | "delete-shape" | "advice";
  label: string;
  advice: string;
}

const ADVICE: Partial<Record<Finding["kind"], string>> = {
  thin_part:
    "Too thin here: make the figure larger with the yardstick, or trace darker in Ink (raise “Dark up to”).",
  small_gap:
    "Too narrow here: make the figure larger with the yardstick, or trace lighter in Ink (lower “Dark up to”).",
  open_path: "This path is open: trace it again in Ink, or delete the shape.",
  self_crossing:
    "This path crosses itself: trace it again in Ink with a smaller “Stay within”, or delete the shape.",
};

export function mendFor(finding: Finding, drawing: DrawingData): Mend {
  if (finding.kind === "speck") return { does: "drop-specks", label: "Drop all specks", advice: "" };
  const isWholeShape = finding.kind === "duplicate_outline" || finding.kind === "loose_piece";
  if (isWholeShape && drawing.shapes.length > 1 && finding.shape) {
    return {
      does: "delete-shape",
      label: finding.kind === "loose_piece" ? "Drop this piece" : "Keep only one",
      advice: "",
    };
  }
  return { does: "advice", label: "Mend", advice: ADVICE[finding.kind] ?? "There is no mend for this yet." };
}
