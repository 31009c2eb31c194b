/** What the mends of findings are called, and what to do where the maker has to decide. */
import type { DoneLine, Finding, How } from "@/api/client";
import { FINDING_WORDS } from "@/sheet/FindingMarks";

export const HOW_WORDS: Record<How, string> = {
  close: "Close the path",
  untangle: "Untangle",
  keep_one: "Keep only one",
  drop: "Drop it",
  subtract: "Cut the lower one back",
  join: "Join both",
  share_border: "Let them share a border",
  absorb: "Merge into its neighbour",
  fill: "Fill it",
  merge_colours: "Merge the nearest colours",
  simplify: "Thin out the nodes",
  relieve: "Round for the tool",
  blunt: "Blunt the tip",
  thicken: "Thicken here",
  open: "Open it here",
  bridge: "Hold it with a bridge",
  move_in: "Move onto the sheet",
};

const ADVICE: Partial<Record<Finding["kind"], string>> = {
  too_large: "Wider than the blank: make the whole set smaller, or choose another blank with the yardstick.",
  unmeasured:
    "Widths, gaps and overlaps were not looked at: there is too much of it. Join shapes of one colour, leave out the finest, or trace with larger smallest spots.",
  lettering: "These look like small letters, which never trace well: set real letters in their place.",
};

export interface MendChoice {
  hows: How[];
  advice: string;
}

/** The mends of a finding, the usual one first; the last shape of a drawing is never offered to be dropped. */
export function mendsOf(finding: Finding, shapeCount: number): MendChoice {
  const whole: Finding["kind"][] = ["ground", "hidden_shape", "thin_part", "open_path", "self_crossing"];
  const hows = (finding.mends ?? []).filter(
    (how) => !(how === "drop" && shapeCount < 2 && whole.includes(finding.kind)),
  );
  return { hows, advice: hows.length ? "" : (ADVICE[finding.kind] ?? "This one is for you to decide.") };
}

// More bridges than this are told by their number alone; the report has them all.
const MOST_BARS = 3;

const barInWords = (bar: { x_mm: number; y_mm: number; length_mm: number; width_mm: number }) =>
  `${bar.length_mm.toFixed(1)} × ${bar.width_mm.toFixed(1)} mm at ${bar.x_mm.toFixed(0)}, ${bar.y_mm.toFixed(0)}`;

/** What Mend all did, as one sentence. */
export function doneInWords(done: DoneLine[]): string {
  const parts = done.map(({ kind, how, count, bridges = [] }) => {
    const [one, many] = FINDING_WORDS[kind];
    const bars = bridges.length > MOST_BARS ? [] : bridges.map(barInWords);
    const by = [HOW_WORDS[how].toLowerCase(), ...bars].join("; ");
    return `${count} ${count === 1 ? one : many} (${by})`;
  });
  return parts.length ? `Mended ${parts.join(", ")}.` : "There was nothing to mend.";
}
