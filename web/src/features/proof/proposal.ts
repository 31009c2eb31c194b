/** A palette that is laid on the drawing, and not taken yet. */
import type { MendPreview } from "@/api/client";

export type Proposal = { change: Record<string, string>; said: string } | null;

/** The drawing as a proposal would colour it. */
export function proposed(shapes: MendPreview["shapes"], proposal: Proposal): MendPreview["shapes"] {
  if (!proposal) return shapes;
  return shapes.map((shape) => ({ ...shape, fill: proposal.change[shape.fill] ?? shape.fill }));
}
