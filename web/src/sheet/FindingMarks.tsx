/** Findings on the sheet: ringed in red pencil, the chosen one with its measure. */
import type { Finding } from "@/api/client";
import { mm } from "@/ui/format";
import { findingOnBlank, type Placing } from "./placing";
import { useSheetView } from "./sheetView";
import { apply, type View } from "./view";

export const FINDING_WORDS: Record<Finding["kind"], [one: string, many: string]> = {
  open_path: ["open path", "open paths"],
  self_crossing: ["crossing", "crossings"],
  duplicate_outline: ["double outline", "double outlines"],
  ground: ["ground left in", "grounds left in"],
  signature: ["signature", "signatures"],
  hidden_shape: ["hidden shape", "hidden shapes"],
  overlap: ["overlap", "overlaps"],
  border_gap: ["gap at a border", "gaps at borders"],
  speck: ["speck", "specks"],
  pin_hole: ["pin hole", "pin holes"],
  colours: ["too many colours", "too many colours"],
  nodes: ["too many nodes", "too many nodes"],
  tight_corner: ["tight corner", "tight corners"],
  fine_tip: ["fine tip", "fine tips"],
  thin_part: ["thin part", "thin parts"],
  small_gap: ["narrow gap", "narrow gaps"],
  loose_piece: ["loose piece", "loose pieces"],
  lettering: ["likely letters", "likely letters"],
  too_large: ["larger than the blank", "larger than the blank"],
  off_sheet: ["off the sheet", "off the sheet"],
  unmeasured: ["too much to measure", "too much to measure"],
};

export function measureOf(finding: Finding): string {
  if (finding.kind === "unmeasured") {
    return finding.unit === "crossings"
      ? `over ${finding.limit} crossings`
      : `${finding.measured} ${finding.unit}, up to ${finding.limit} are measured`;
  }
  if (finding.unit === "crossings") return `crosses ${finding.measured}×`;
  if (finding.kind === "loose_piece") return `${mm(finding.measured)} away`;
  if (finding.kind === "duplicate_outline") return "drawn twice";
  if (finding.kind === "ground") return "behind everything";
  if (finding.kind === "nodes") return `${finding.measured}, ${finding.limit} would do`;
  if (finding.kind === "colours") return `${finding.measured} of ${finding.limit}`;
  if (finding.kind === "tight_corner") return `sharp, tool ${mm(finding.limit)}`;
  return mm(finding.measured, finding.unit);
}

/** Kinds whose measure is as large as their place; of others it is a distance or a count. */
const WIDTHS: ReadonlySet<Finding["kind"]> = new Set(["thin_part", "small_gap", "border_gap", "fine_tip"]);
const USUAL_MM = 0.4;
/** More rings than this tell nothing, and take long to paint. */
const MOST_RINGS = 300;

/** The radius of a finding's ring, screen px. */
export function ringRadius(finding: Finding, scale: number, isChosen: boolean): number {
  const size = WIDTHS.has(finding.kind) ? finding.measured : USUAL_MM;
  return Math.max(isChosen ? 15 : 9, size * scale * 1.6);
}

interface Props {
  findings: Finding[];
  placing: Placing;
  view: View;
  chosen: number | null;
}

/** A ring as a hand would draw it: not quite closed, not quite round. Radius 1 around (0, 0). */
const RING =
  "M.25-.98C.9-.86 1.12-.2.94.4.74 1.02-.2 1.16-.74.72-1.16.36-1.1-.42-.6-.78-.24-1.04.3-1.06.62-.82";

export function FindingMarks({ findings, placing, view, chosen }: Props) {
  const viewport = useSheetView((state) => state.viewport);
  const seen = findings
    .map((finding, index) => ({
      finding,
      index,
      isChosen: index === chosen,
      at: apply(view, findingOnBlank(placing, finding)),
      radius: ringRadius(finding, view.scale, index === chosen),
    }))
    .filter(
      ({ at, radius, isChosen }) =>
        isChosen || Math.max(-at.x, at.x - viewport.width, -at.y, at.y - viewport.height) < 1.2 * radius,
    );
  return (
    <g fill="none" stroke="#c23b2a">
      {seen
        .filter(({ isChosen }, order) => isChosen || order < MOST_RINGS)
        .map(({ finding, index, isChosen, at, radius }) => {
          return (
            <g
              key={`${finding.kind}-${finding.x_px}-${finding.y_px}-${index}`}
              transform={`translate(${at.x} ${at.y})`}
            >
              {isChosen && <Trail finding={finding} placing={placing} view={view} />}
              <path
                d={RING}
                transform={`scale(${radius})`}
                strokeWidth={isChosen ? 2.2 : 1.3}
                vectorEffect="non-scaling-stroke"
                opacity={isChosen ? 1 : 0.75}
              />
              {isChosen && (
                <Label
                  radius={radius}
                  text={`${measureOf(finding)} ${FINDING_WORDS[finding.kind][0]}`}
                  atLeft={at.x < 160}
                />
              )}
            </g>
          );
        })}
    </g>
  );
}

/** Where a narrow place runs: a dot at each of its measured middles, relative to the finding. */
function Trail({ finding, placing, view }: { finding: Finding; placing: Placing; view: View }) {
  // Two corners of a box, no trail.
  if (finding.kind === "signature" || finding.kind === "lettering") return null;
  const scale = placing.mmPerPx * view.scale;
  return (
    <g fill="#c23b2a" stroke="none" opacity={0.45}>
      {finding.trail_px?.map(({ x, y, width }, index) => (
        <circle
          key={index}
          cx={(x - finding.x_px) * scale}
          cy={(y - finding.y_px) * scale}
          r={Math.max(2, (width / 2) * scale)}
        />
      ))}
    </g>
  );
}

function Label({ radius, text, atLeft }: { radius: number; text: string; atLeft: boolean }) {
  const side = atLeft ? 1 : -1;
  const [x, y] = [radius * 0.7 * side, -radius * 0.75];
  const [tx, ty] = [x + 16 * side, y - 22];
  const width = text.length * 7.25 + 10;
  const left = atLeft ? tx : tx - width;
  return (
    <>
      <path d={`M${x} ${y}L${tx} ${ty}`} strokeWidth="1.5" />
      <rect x={left} y={ty - 10} width={width} height="20" fill="#fffdf8" stroke="#c23b2a" strokeWidth="1" />
      <text x={left + 5} y={ty + 4} fill="#c23b2a" stroke="none" fontFamily="IBM Plex Mono" fontSize="12">
        {text}
      </text>
    </>
  );
}
