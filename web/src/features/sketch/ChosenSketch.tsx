/** The sketch that is looked at: its forecast, where it came from, and on to Ink. */
import type { CollectionView, Forecast, Sketch } from "@/api/client";
import { stepsOf, stepWords, useCleaning, type CleanStep } from "@/api/cleaning";
import { useForecast } from "@/api/queries";
import { goToStage } from "@/place";
import { Button } from "@/ui/Button";
import { atLeast, mm } from "@/ui/format";
import { Readings, type ReadingRow } from "@/ui/Readings";
import { Section } from "@/ui/Section";
import type { DrawWish } from "./actions";
import { showCompared, toggleCompared, useCompare } from "./compare";
import { FORECAST_TONE, verdictWords } from "./forecast";
import { Origin } from "./Origin";

interface Props {
  sketch: Sketch;
  sketches: Sketch[];
  view: CollectionView;
  onDraw: (wish: DrawWish) => void;
  onKeep: (sketch: Sketch) => void;
  onReference: (sketch: Sketch) => void;
}

export function ChosenSketch({ sketch, sketches, view, onDraw, onKeep, onReference }: Props) {
  const forecast = useForecast(sketch, view.yardstick);
  const compared = useCompare((state) => state.ids);
  const found = forecast.data;
  const limit = view.yardstick.yardstick.limits.thin_mm;
  return (
    <>
      <Section title="Chosen sketch" aside={<span className="text-pencil">{sketch.kept ? "kept" : ""}</span>}>
        <Readings rows={forecastRows(sketch, found, limit)} />
        {found && (
          <p className="mt-1.5 text-pencil">
            Trace it by {found.method}: {found.why}.
          </p>
        )}
        {found && <Reasons sketch={sketch} found={found} />}
        <div className="mt-3 flex gap-2">
          <Button
            kind="ink"
            onClick={() => {
              if (!sketch.kept) onKeep(sketch);
              goToStage("ink");
            }}
          >
            Take to Ink
          </Button>
          <Button title="Keep it, or set it aside (K)" onClick={() => onKeep(sketch)}>
            {sketch.kept ? "Set aside" : "Keep"}
          </Button>
        </div>
        <div className="mt-2 flex flex-wrap gap-x-4 gap-y-1">
          <button
            type="button"
            className="link"
            title="Put it up for comparing (C), show them (X)"
            onClick={() => toggleCompared(sketch.id)}
          >
            {compared.includes(sketch.id) ? "take from comparison" : "put up for comparing"}
          </button>
          {compared.length > 1 && (
            <button type="button" className="link" onClick={() => showCompared(true)}>
              compare {compared.length}
            </button>
          )}
          {view.brief?.reference_id === sketch.id ? (
            <span className="text-pencil">the set's reference</span>
          ) : (
            <button
              type="button"
              className="link"
              title="The set follows its hand (R)"
              onClick={() => onReference(sketch)}
            >
              use as reference
            </button>
          )}
        </div>
      </Section>
      <Section title="Draw after it">
        <div className="flex gap-2">
          {sketch.seed !== null && sketch.source === "generator" && (
            <>
              <Button
                title="Small steps from it (N)"
                onClick={() => onDraw({ parent: sketch, reach: "near" })}
              >
                Near
              </Button>
              <Button
                title="Large steps from it (G)"
                onClick={() => onDraw({ parent: sketch, reach: "far" })}
              >
                Far
              </Button>
            </>
          )}
          <Button
            title="New ones in its line weight, corners, detail and colours"
            onClick={() => onDraw({ reference: sketch })}
          >
            In its style
          </Button>
        </div>
      </Section>
      <Origin sketch={sketch} sketches={sketches} />
    </>
  );
}

/** What decides the verdict, each with its cure one click away. */
function Reasons({ sketch, found }: { sketch: Sketch; found: Forecast }) {
  const cleaning = useCleaning();
  const steps = stepsOf(sketch);
  return (
    <>
      <ul aria-label="Reasons" className="mt-2">
        {found.reasons.map((reason) => (
          <li key={reason.kind} className={reason.note ? "py-0.5 text-pencil" : "py-0.5"}>
            <span className="inline-block first-letter:uppercase">{reason.words}</span>
            {reason.cure && (
              <button
                type="button"
                className="link ml-1.5"
                disabled={cleaning.isPending}
                onClick={() =>
                  cleaning.mutate({ id: sketch.id, steps: [...steps, reason.cure as CleanStep] })
                }
              >
                {stepWords((reason.cure as CleanStep).kind).toLowerCase()}
              </button>
            )}
          </li>
        ))}
      </ul>
      {steps.length > 0 && (
        <p className="mt-1.5 text-pencil">
          Cleaned up:{" "}
          {steps
            .filter((step) => step.on)
            .map((step) => stepWords(step.kind).toLowerCase())
            .join(", ") || "nothing"}
          .{" "}
          <button
            type="button"
            className="link"
            disabled={cleaning.isPending}
            onClick={() => cleaning.mutate({ id: sketch.id, steps: [] })}
          >
            as it came
          </button>
        </p>
      )}
    </>
  );
}

function forecastRows(sketch: Sketch, found: Forecast | undefined, limit: number): ReadingRow[] {
  const seen = found?.readings;
  const thinnest = seen?.thinnest_mm ?? null;
  return [
    {
      label: "Forecast",
      value: found ? verdictWords(found.verdict) : "reading …",
      state: found && FORECAST_TONE[found.verdict],
    },
    {
      label: "Thinnest part",
      value: thinnest === null ? "–" : mm(thinnest),
      limit: atLeast(limit),
      state: thinnest === null ? undefined : thinnest < limit ? "fail" : "pass",
    },
    { label: "Separate parts", value: seen ? String(seen.pieces) : "–" },
    {
      label: "Specks",
      value: seen ? String(seen.specks) : "–",
      state: seen?.specks ? "warn" : undefined,
    },
    { label: "Colours", value: seen ? String(seen.colours) : "–" },
    { label: "Picture", value: `${sketch.width_px} × ${sketch.height_px} px` },
  ];
}
