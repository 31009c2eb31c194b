/** Clean-up before the trace: steps in order, each switchable, the sketch itself untouched. */
import { useEffect, useRef, useState } from "react";
import { NEW_STEPS, stepsOf, stepWords, useCleaning, type CleanStep } from "@/api/cleaning";
import type { NamedYardstick, Sketch } from "@/api/client";
import { useForecast } from "@/api/queries";
import { Button } from "@/ui/Button";
import { mm } from "@/ui/format";
import { Knob } from "@/ui/Knob";
import { Section } from "@/ui/Section";
import { Tick } from "@/ui/Tick";

interface Props {
  sketch: Sketch;
  yardstick: NamedYardstick;
  mmPerPx: number;
}

export function CleanUp({ sketch, yardstick, mmPerPx }: Props) {
  const { steps, put } = useSteps(sketch);
  const forecast = useForecast(sketch, yardstick).data;
  const suggested = (forecast?.suggested ?? []) as CleanStep[];
  const change = (index: number, step: CleanStep | null) =>
    put(steps.flatMap((each, k) => (k === index ? (step ? [step] : []) : [each])));
  const earlier = (index: number) => {
    const moved = [...steps];
    moved.splice(index - 1, 2, steps[index] as CleanStep, steps[index - 1] as CleanStep);
    put(moved);
  };
  return (
    <Section
      title="Clean-up"
      aside={
        <select
          aria-label="Add a step"
          value=""
          onChange={(event) => {
            const step = NEW_STEPS.find((each) => each.kind === event.target.value);
            if (step) put([...steps, step]);
          }}
          className="w-24 rounded border border-hair bg-sheet px-1 text-sm"
        >
          <option value="">add a step</option>
          {NEW_STEPS.map((step) => (
            <option key={step.kind} value={step.kind}>
              {stepWords(step.kind)}
            </option>
          ))}
        </select>
      }
    >
      {steps.length > 0 && (
        <ol aria-label="Clean-up steps" className="mb-1">
          {steps.map((step, index) => (
            <li key={`${step.kind}-${index}`} className="group py-0.5">
              <div className="flex items-center justify-between gap-2">
                <Tick checked={step.on} onChange={(on) => change(index, { ...step, on })}>
                  {stepWords(step.kind)}
                </Tick>
                <span className="flex gap-2 text-sm">
                  {index > 0 && (
                    <button
                      type="button"
                      className="link"
                      aria-label={`Do “${stepWords(step.kind)}” earlier`}
                      onClick={() => earlier(index)}
                    >
                      ↑
                    </button>
                  )}
                  <button
                    type="button"
                    className="link"
                    aria-label={`Leave out “${stepWords(step.kind)}”`}
                    onClick={() => change(index, null)}
                  >
                    leave out
                  </button>
                </span>
              </div>
              {step.on && (
                <StepKnobs step={step} mmPerPx={mmPerPx} onChange={(next) => change(index, next)} />
              )}
            </li>
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
    </Section>
  );
}

/** What is on the screen runs ahead of the server; another sketch or an answer brings it back. */
function useSteps(sketch: Sketch) {
  const cleaning = useCleaning(sketch);
  const kept = JSON.stringify(stepsOf(sketch));
  const [ahead, setAhead] = useState<CleanStep[] | null>(null);
  const waiting = useRef<CleanStep[] | null>(null);
  useEffect(() => setAhead(null), [sketch.id]);
  const send = (steps: CleanStep[]) =>
    cleaning.mutate(steps, {
      onSettled: () => {
        const next = waiting.current;
        waiting.current = null;
        if (next) send(next);
        else setAhead(null);
      },
    });
  const put = (steps: CleanStep[]) => {
    setAhead(steps);
    if (cleaning.isPending) waiting.current = steps;
    else send(steps);
  };
  return { steps: ahead ?? (JSON.parse(kept) as CleanStep[]), put };
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
