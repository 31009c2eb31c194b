/** The sketch that is looked at: its forecast, where it came from, and on to Ink. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, ask, type CollectionView, type Forecast, type Sketch } from "@/api/client";
import { stepsOf, stepWords, useCleaning, type CleanStep } from "@/api/cleaning";
import { keys, useForecast } from "@/api/queries";
import { goToStage } from "@/place";
import { Button } from "@/ui/Button";
import { atLeast, mm } from "@/ui/format";
import { tellProblem } from "@/ui/notices";
import { Readings, type ReadingRow } from "@/ui/Readings";
import { Section } from "@/ui/Section";
import { FORECAST_TONE, verdictWords } from "./forecast";

export function ChosenSketch({
  sketch,
  view,
  onMore,
}: {
  sketch: Sketch;
  view: CollectionView;
  onMore: () => void;
}) {
  const forecast = useForecast(sketch, view.yardstick);
  const keep = useKeep(sketch);
  const found = forecast.data;
  const limit = view.yardstick.yardstick.limits.thin_mm;
  return (
    <>
      <Section title="Chosen sketch" aside={<span className="text-pencil">{sketch.kept ? "kept" : ""}</span>}>
        <Readings rows={forecastRows(sketch, found, limit)} />
        {found && <Reasons sketch={sketch} found={found} />}
        <div className="mt-3 flex gap-2">
          <Button
            kind="ink"
            onClick={() => {
              if (!sketch.kept) keep.mutate(true);
              goToStage("ink");
            }}
          >
            Take to Ink
          </Button>
          <Button onClick={() => keep.mutate(!sketch.kept)}>{sketch.kept ? "Set aside" : "Keep"}</Button>
        </div>
      </Section>
      <Section title="How it came about">
        {sketch.source === "generator" ? (
          <>
            <p>{sketch.wording}</p>
            <p className="num mt-1.5 text-pencil">
              {sketch.generator}, seed {sketch.seed}
              {sketch.parent_id !== null && `, after no. ${sketch.parent_id}`}
            </p>
            <button type="button" className="link mt-1.5" onClick={onMore}>
              draw four more after this one
            </button>
          </>
        ) : (
          <p>
            Brought in as <span className="num">{sketch.file_name}</span>
          </p>
        )}
      </Section>
    </>
  );
}

/** What decides the verdict, each with its cure one click away. */
function Reasons({ sketch, found }: { sketch: Sketch; found: Forecast }) {
  const cleaning = useCleaning(sketch);
  const steps = stepsOf(sketch);
  return (
    <>
      <ul aria-label="Reasons" className="mt-2">
        {found.reasons.map((reason) => (
          <li key={reason.kind} className="py-0.5">
            <span className="inline-block first-letter:uppercase">{reason.words}</span>
            {reason.cure && (
              <button
                type="button"
                className="link ml-1.5"
                disabled={cleaning.isPending}
                onClick={() => cleaning.mutate([...steps, reason.cure as CleanStep])}
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
            onClick={() => cleaning.mutate([])}
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

function useKeep(sketch: Sketch) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (kept: boolean) =>
      ask(
        api.PATCH("/api/sketches/{sketch_id}", {
          params: { path: { sketch_id: sketch.id } },
          body: { kept },
        }),
      ),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: keys.sketches(sketch.motif_id) });
      void client.invalidateQueries({ queryKey: ["collection"] });
    },
    onError: tellProblem,
  });
}
