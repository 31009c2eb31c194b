/** The sketch that is looked at: its forecast, where it came from, and on to Ink. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, ask, type CollectionView, type Forecast, type Sketch } from "@/api/client";
import { keys, useForecast } from "@/api/queries";
import { goToStage } from "@/place";
import { Button } from "@/ui/Button";
import { atLeast, mm } from "@/ui/format";
import { tellProblem } from "@/ui/notices";
import { Readings, type ReadingRow } from "@/ui/Readings";
import { Section } from "@/ui/Section";
import { FORECAST_TONE } from "./forecast";

export function ChosenSketch({
  sketch,
  view,
  onMore,
}: {
  sketch: Sketch;
  view: CollectionView;
  onMore: () => void;
}) {
  const forecast = useForecast(sketch.id, view.yardstick);
  const keep = useKeep(sketch);
  const found = forecast.data;
  const limit = view.yardstick.yardstick.limits.thin_mm;
  return (
    <>
      <Section title="Chosen sketch" aside={<span className="text-pencil">{sketch.kept ? "kept" : ""}</span>}>
        <Readings rows={forecastRows(sketch, found, limit)} />
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

function forecastRows(sketch: Sketch, found: Forecast | undefined, limit: number): ReadingRow[] {
  const thinnest = found?.thinnest_mm ?? null;
  return [
    { label: "Forecast", value: found?.verdict ?? "reading …", state: found && FORECAST_TONE[found.verdict] },
    {
      label: "Thinnest part",
      value: thinnest === null ? "–" : mm(thinnest),
      limit: atLeast(limit),
      state: thinnest === null ? undefined : thinnest < limit ? "fail" : "pass",
    },
    { label: "Shapes", value: found ? String(found.shapes) : "–" },
    {
      label: "Specks",
      value: found ? String(found.speck_count) : "–",
      state: found?.speck_count ? "warn" : undefined,
    },
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
