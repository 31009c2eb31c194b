import { capOf, joinOf, ruleOf } from "@/sheet/paint";
import type { DrawingData, RungPart, TraceSettings } from "@/api/client";
import { mm } from "@/ui/format";
import { TextButton } from "@/ui/TextButton";
import type { Ladder } from "./useLadder";

/** Rungs below the sheet, plain first: each with its picture, nodes, deviation and findings. */
export function LadderStrip({
  ladder,
  current,
  onChoose,
  against,
  onAgainst,
  onClose,
}: {
  ladder: Ladder;
  current: TraceSettings;
  onChoose: (settings: TraceSettings) => void;
  /** The rung that is put beside the trace, by its number. */
  against: number | null;
  onAgainst: (rung: number | null) => void;
  onClose: () => void;
}) {
  const here = JSON.stringify(current);
  return (
    <div
      role="group"
      aria-label="Ladder"
      className="flex items-stretch gap-2 overflow-x-auto border-t border-hair px-3.5 py-2"
    >
      {ladder.rungs.map((rung, index) => (
        <Rung
          key={rung.rung}
          rung={rung}
          isSuggested={index === ladder.suggested}
          isCurrent={JSON.stringify(rung.settings) === here}
          onChoose={() => onChoose(rung.settings as TraceSettings)}
          isBeside={rung.rung === against}
          onBeside={() => onAgainst(rung.rung === against ? null : rung.rung)}
        />
      ))}
      <div className="flex min-w-[92px] flex-col justify-between text-sm text-pencil">
        <span>{ladder.climbing ? "climbing …" : ladder.message || "plain to detailed"}</span>
        <button type="button" className="link self-start" onClick={onClose}>
          close the ladder
        </button>
      </div>
    </div>
  );
}

function Rung({
  rung,
  isSuggested,
  isCurrent,
  onChoose,
  isBeside,
  onBeside,
}: {
  rung: RungPart;
  isSuggested: boolean;
  isCurrent: boolean;
  onChoose: () => void;
  isBeside: boolean;
  onBeside: () => void;
}) {
  return (
    <div
      className={`w-[106px] shrink-0 border-b-[3px] pb-0.5 ${isCurrent ? "border-blue-pencil" : "border-transparent"}`}
    >
      <button type="button" aria-pressed={isCurrent} onClick={onChoose} className="w-full text-left">
        <span
          className={`grid h-[62px] place-items-center border bg-sheet ${isSuggested ? "border-leaf" : "border-hair hover:border-graphite"}`}
        >
          <Thumb drawing={rung.trace.drawing} />
        </span>
        <span className="num flex justify-between text-[10px] leading-[15px]">
          <span>{rung.nodes} nodes</span>
          <span className="text-pencil">{mm(rung.off_mm)}</span>
        </span>
        <span className="flex justify-between text-[11px] leading-[15px]">
          <span className={rung.findings ? "text-red-pencil" : "text-leaf"}>
            {rung.findings ? `${rung.findings} to mend` : "cut-ready"}
          </span>
          {isSuggested && <span className="text-leaf">start here</span>}
        </span>
      </button>
      <TextButton aria-pressed={isBeside} disabled={isCurrent} onClick={onBeside}>
        {isBeside ? "take away" : "put beside"}
      </TextButton>
    </div>
  );
}

function Thumb({ drawing }: { drawing: DrawingData }) {
  const { x_min: x, y_min: y, x_max, y_max } = drawing.figure_px;
  return (
    <svg
      viewBox={`${x} ${y} ${x_max - x} ${y_max - y}`}
      width="92"
      height="58"
      preserveAspectRatio="xMidYMid meet"
      aria-hidden
    >
      {drawing.shapes.map((shape) =>
        shape.stroke_width_px === null ? (
          <path key={shape.id} d={shape.d} fill={shape.fill} fillRule={ruleOf(shape)} />
        ) : (
          <path
            key={shape.id}
            d={shape.d}
            fill="none"
            stroke={shape.fill}
            strokeWidth={shape.stroke_width_px}
            strokeLinecap={capOf(shape)}
            strokeLinejoin={joinOf(shape)}
            strokeMiterlimit={shape.mitre_limit}
          />
        ),
      )}
    </svg>
  );
}
