/** The product's signature: the verdict on a drawing, segment by segment; a click flies to the place. */
import type { DrawingData, Finding } from "@/api/client";
import { mm } from "@/ui/format";
import { TapeKeys, TapeSegment, Verdict } from "@/ui/Tape";
import { FINDING_WORDS, measureOf } from "./FindingMarks";

interface Props {
  drawing: DrawingData;
  offSketchMm?: number | null;
  crossings?: number;
  chosen: number | null;
  onChoose: (index: number) => void;
  keysHint: string[];
}

export function DrawingTape({ drawing, offSketchMm, chosen, onChoose, keysHint }: Props) {
  const { findings, readings } = drawing.proof;
  const groups = groupFindings(findings);
  const crossings = findings.filter((finding) => finding.kind === "self_crossing").length;
  return (
    <>
      <Verdict tone={findings.length ? "red" : "leaf"}>
        {findings.length ? `${findings.length} to mend` : "cut-ready"}
      </Verdict>
      {groups.map(({ kind, indexes }) => {
        const worst = findings[indexes[0]!]!;
        return (
          <TapeSegment
            key={kind}
            red
            active={chosen !== null && indexes.includes(chosen)}
            onClick={() => {
              const at = chosen === null ? -1 : indexes.indexOf(chosen);
              onChoose(indexes[(at + 1) % indexes.length]!);
            }}
          >
            {FINDING_WORDS[kind][indexes.length === 1 ? 0 : 1]}
            <span className="num text-red-pencil">
              {indexes.length === 1
                ? measureOf(worst)
                : `${worst.unit === "mm" ? `${mm(worst.measured)} ` : ""}×${indexes.length}`}
            </span>
          </TapeSegment>
        );
      })}
      <TapeSegment>
        closed{" "}
        <span className="num">
          {readings.closed_paths}/{readings.paths}
        </span>
      </TapeSegment>
      {crossings === 0 && (
        <TapeSegment>
          crossings <span className="num">0</span>
        </TapeSegment>
      )}
      <TapeSegment>
        nodes <span className="num">{readings.nodes}</span>
      </TapeSegment>
      {offSketchMm !== undefined && offSketchMm !== null && (
        <TapeSegment>
          off the sketch <span className="num">{mm(offSketchMm)}</span>
        </TapeSegment>
      )}
      <TapeKeys>
        {keysHint.map((hint) => (
          <span key={hint}>{hint}</span>
        ))}
      </TapeKeys>
    </>
  );
}

/** Findings by kind, the worst one of each kind first. */
export function groupFindings(findings: Finding[]): { kind: Finding["kind"]; indexes: number[] }[] {
  const groups = new Map<Finding["kind"], number[]>();
  findings.forEach((finding, index) =>
    groups.set(finding.kind, [...(groups.get(finding.kind) ?? []), index]),
  );
  return [...groups].map(([kind, indexes]) => ({ kind, indexes }));
}
