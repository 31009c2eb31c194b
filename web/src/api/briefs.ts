/** A stored brief as it is sent again, what it does not say filled in. */
import type { BriefBody, KeptBrief, Look } from "./client";

export const ALL_RULES = [
  "white-ground",
  "dark-figure",
  "margin",
  "even-lines",
  "flat-tone",
  "one-figure",
  "one-piece",
];
export const USUAL_STYLE: BriefBody["style"] = {
  line_mm: null,
  detail: "some",
  colours: null,
  palette: [],
  format: "square",
};

export function briefBody(brief: KeptBrief["brief"]): BriefBody {
  return {
    subjects: brief.subjects,
    look: brief.look as Look,
    rules: [...brief.rules],
    style: { ...USUAL_STYLE, ...(brief.style as Partial<BriefBody["style"]>) },
    edits: { ...brief.edits },
    reference_id: brief.reference_id ?? null,
  };
}
