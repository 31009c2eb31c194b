/** Clean-up before the trace: steps in order, each switchable, the sketch itself untouched. */
import { NEW_STEPS, stepWords, type CleanStep } from "@/api/cleaning";
import type { NamedYardstick, Sketch } from "@/api/client";
import { useForecast } from "@/api/queries";
import { Picker } from "@/ui/Picker";
import { Button } from "@/ui/Button";
import { mm } from "@/ui/format";
import { Knob } from "@/ui/Knob";
import { Section } from "@/ui/Section";
import { Tick } from "@/ui/Tick";
import { Chains } from "./Chains";
import { isBrush, stepRows, TOOLS, type StepRow } from "./strokes";
import type { HandTools } from "./useHandTools";

interface Props {
  collectionId: number;
  sketch: Sketch;
  yardstick: NamedYardstick;
  mmPerPx: number;
  cleaning: { steps: CleanStep[]; put: (steps: CleanStep[]) => void };
  hand: HandTools;
}

export function CleanUp({ collectionId, sketch, yardstick, mmPerPx, cleaning, hand }: Props) {
  const { steps, put } = cleaning;
  const forecast = useForecast(sketch, yardstick).data;
  const suggested = (forecast?.suggested ?? []) as CleanStep[];
  const replace = (row: StepRow, by: CleanStep[]) =>
    put([...steps.slice(0, row.from), ...by, ...steps.slice(row.from + row.count)]);
  const rows = stepRows(steps);
  const earlier = (index: number) => {
    const [row, before] = [rows[index], rows[index - 1]];
    if (!row || !before) return;
    const own = steps.slice(row.from, row.from + row.count);
    put([
      ...steps.slice(0, before.from),
      ...own,
      ...steps.slice(before.from, row.from),
      ...steps.slice(row.from + row.count),
    ]);
  };
  return (
    <Section
      title="Clean-up"
      aside={
        <Picker
          label="Add a step"
          value=""
          placeholder="add a step"
          options={NEW_STEPS.map((step) => ({ value: step.kind, label: stepWords(step.kind) }))}
          onChange={(kind) => {
            const step = NEW_STEPS.find((each) => each.kind === kind);
            if (step) put([...steps, step]);
          }}
          bare
          className="text-blue-pencil"
        />
      }
    >
      {rows.length > 0 && (
        <ol aria-label="Clean-up steps" className="mb-1">
          {rows.map((row, index) => (
            <StepItem
              key={`${row.step.kind}-${row.from}`}
              row={row}
              steps={steps.slice(row.from, row.from + row.count)}
              mmPerPx={mmPerPx}
              onChange={(by) => replace(row, by)}
              onEarlier={index > 0 ? () => earlier(index) : null}
            />
          ))}
        </ol>
      )}
      {suggested.length > 0 ? (
        <>
          <p className="mb-1.5">Would help: {suggested.map((s) => lower(stepWords(s.kind))).join(", ")}.</p>
          <Button onClick={() => put([...steps, ...suggested])}>Do what helps</Button>
        </>
      ) : (
        steps.length === 0 && (
          <p className="text-pencil">{forecast ? "Nothing needs cleaning up." : "Reading the sketch …"}</p>
        )
      )}
      <HandToolRow hand={hand} />
      <Chains collectionId={collectionId} steps={steps} onTake={put} />
    </Section>
  );
}

function HandToolRow({ hand }: { hand: HandTools }) {
  return (
    <div className="mt-2">
      <div role="group" aria-label="By hand" className="flex flex-wrap gap-x-3.5">
        {TOOLS.map(({ tool, label, hint }) => (
          <button
            key={tool}
            type="button"
            title={hint}
            aria-pressed={hand.tool === tool}
            className={hand.tool === tool ? "border-b-2 border-blue-pencil font-semibold" : "link"}
            onClick={() => hand.setTool(hand.tool === tool ? null : tool)}
          >
            {label}
          </button>
        ))}
      </div>
      {hand.tool && (
        <>
          {isBrush(hand.tool) && (
            <Knob
              label="Brush"
              reading={mm(hand.brushMm)}
              value={Math.log10(hand.brushMm)}
              min={-1}
              max={1.5}
              step={0.02}
              onChange={(value) => hand.setBrushMm(Number((10 ** value).toFixed(2)))}
            />
          )}
          <p className="text-sm text-pencil">Drag on the sheet. The picture as it came is kept.</p>
        </>
      )}
    </div>
  );
}

function StepItem({
  row,
  steps,
  mmPerPx,
  onChange,
  onEarlier,
}: {
  row: StepRow;
  steps: CleanStep[];
  mmPerPx: number;
  onChange: (steps: CleanStep[]) => void;
  onEarlier: (() => void) | null;
}) {
  const { step, count } = row;
  const words = step.kind === "brush" && step.restore ? "Bring back by hand" : stepWords(step.kind);
  return (
    <li className="group py-0.5">
      <div className="flex items-center justify-between gap-2">
        <Tick checked={step.on} onChange={(on) => onChange(steps.map((each) => ({ ...each, on })))}>
          {words}
          {count > 1 && ` × ${count}`}
        </Tick>
        <span className="flex gap-2 text-sm">
          {onEarlier && (
            <button type="button" className="link" aria-label={`Do “${words}” earlier`} onClick={onEarlier}>
              ↑
            </button>
          )}
          {count > 1 && (
            <button
              type="button"
              className="link"
              aria-label="Leave the last stroke out"
              onClick={() => onChange(steps.slice(0, -1))}
            >
              last
            </button>
          )}
          <button
            type="button"
            className="link"
            aria-label={`Leave out “${words}”`}
            onClick={() => onChange([])}
          >
            leave out
          </button>
        </span>
      </div>
      {step.on && count === 1 && (
        <StepKnobs step={step} mmPerPx={mmPerPx} onChange={(next) => onChange([next])} />
      )}
    </li>
  );
}

function StepKnobs({
  step,
  mmPerPx,
  onChange,
}: {
  step: CleanStep;
  mmPerPx: number;
  onChange: (step: CleanStep) => void;
}) {
  const value = (name: string, usual = 0) => (typeof step[name] === "number" ? step[name] : usual);
  const knob = (label: string, name: string, low: number, high: number, pace: number, unit = "") => (
    <Knob
      key={name}
      label={label}
      reading={`${Number(value(name).toFixed(2))}${unit}`}
      value={value(name)}
      min={low}
      max={high}
      step={pace}
      onChange={(next) => onChange({ ...step, [name]: next })}
    />
  );
  switch (step.kind) {
    case "turn":
      return <Indented>{knob("Clockwise by", "angle_deg", -180, 180, 0.5, "°")}</Indented>;
    case "crop-to-subject":
      return <Indented>{knob("Margin, share of the figure", "margin", 0, 0.5, 0.01)}</Indented>;
    case "levels":
      return (
        <Indented>
          {knob("Black from", "black", 0, Math.max(1, value("white", 225) - 2), 1)}
          {knob("White from", "white", Math.min(254, value("black", 30) + 2), 255, 1)}
        </Indented>
      );
    case "smooth-noise":
      return <Indented>{knob("Noise up to, grey values", "strength", 1, 60, 1)}</Indented>;
    case "remove-ground":
      return <Indented>{knob("Ground differs by up to", "tolerance", 2, 120, 1)}</Indented>;
    case "enlarge":
      return <Indented>{knob("Times as large", "factor", 2, 4, 1)}</Indented>;
    case "despeckle":
      return (
        <Indented>
          <Knob
            label="Specks under"
            reading={mm(value("area_px2", 40) * mmPerPx ** 2, "mm²")}
            value={Math.log10(value("area_px2", 40))}
            min={0.3}
            max={4}
            step={0.02}
            onChange={(next) => onChange({ ...step, area_px2: Number((10 ** next).toFixed(1)) })}
          />
        </Indented>
      );
    default:
      return null;
  }
}

const Indented = ({ children }: { children: React.ReactNode }) => (
  <div className="pb-1 pl-[22px]">{children}</div>
);
const lower = (words: string) => words.charAt(0).toLowerCase() + words.slice(1);
