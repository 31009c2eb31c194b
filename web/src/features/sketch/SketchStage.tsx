/** Candidates on a contact sheet, each with its forecast. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import {
  api,
  ask,
  type CollectionView,
  type Forecast,
  type Look,
  type Motif,
  type Sketch,
} from "@/api/client";
import { isUnderWay, useJobs } from "@/api/events";
import { keys, useForecast, useSketches } from "@/api/queries";
import { goToStage, usePlace } from "@/place";
import { Button } from "@/ui/Button";
import { atLeast, mm, plural } from "@/ui/format";
import { tellProblem } from "@/ui/notices";
import { Readings, type ReadingRow } from "@/ui/Readings";
import { Section } from "@/ui/Section";
import { Segments } from "@/ui/Segments";
import { StageFrame } from "@/ui/StageFrame";
import { TapeKeys, TapeSegment, Verdict } from "@/ui/Tape";
import { ContactSheet } from "./ContactSheet";
import { FORECAST_TONE } from "./forecast";
import { PICTURE_TYPES, useBringIn } from "./useBringIn";

const LOOKS: { value: Look; label: string }[] = [
  { value: "silhouette", label: "Silhouette" },
  { value: "line", label: "Bold line" },
  { value: "flat", label: "Flat colour" },
];

export function SketchStage({ view, motif }: { view: CollectionView; motif: Motif | null }) {
  const sketches = useSketches(motif?.id ?? null).data;
  const sketchId = usePlace((place) => place.sketchId);
  const chosen = sketches?.find((each) => each.id === sketchId) ?? null;
  const { bring, over, zone } = useBringIn(motif?.id ?? null);
  const [look, setLook] = useState<Look>((view.brief?.look as Look | undefined) ?? "silhouette");
  const draw = useDraw(motif, look);
  const waiting = (useJobs().data ?? []).filter(
    (job) =>
      isUnderWay(job) && (job.kind === "draw" || job.kind === "import") && job.params.motif_id === motif?.id,
  );
  const kept = sketches?.filter((each) => each.kept).length ?? 0;

  return (
    <StageFrame
      side={
        <>
          <Section title="Draw again">
            <Segments label="Look" value={look} segments={LOOKS} onChange={setLook} />
            <div className="mt-2.5 flex gap-2">
              <Button disabled={!motif || draw.isPending} onClick={() => draw.mutate(undefined)}>
                Draw four
              </Button>
              <BringInButton onFiles={bring} disabled={!motif} />
            </div>
            <p className="mt-2 text-pencil">Or drop pictures anywhere on the sheet, or paste one.</p>
          </Section>
          {chosen ? (
            <ChosenSketch sketch={chosen} view={view} onMore={() => draw.mutate(chosen)} />
          ) : (
            <Section title="Chosen sketch">
              <p className="text-pencil">Click a sketch to read its forecast; take the best one to Ink.</p>
            </Section>
          )}
        </>
      }
      tape={<SketchTape view={view} sketches={sketches ?? []} chosen={chosen} kept={kept} />}
    >
      <div className="relative h-full" {...zone}>
        <ContactSheet view={view} waiting={waiting} />
        {over && (
          <div className="pointer-events-none absolute inset-3 grid place-items-center border-2 border-dashed border-blue-pencil bg-[#fffdf8cc] text-xl">
            Let go to bring it in as a sketch of {motif?.name ?? "…"}
          </div>
        )}
      </div>
    </StageFrame>
  );
}

function BringInButton({
  onFiles,
  disabled,
}: {
  onFiles: (files: File[]) => Promise<void>;
  disabled: boolean;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button disabled={disabled} onClick={() => input.current?.click()}>
        Bring in a picture
      </Button>
      <input
        ref={input}
        type="file"
        accept={PICTURE_TYPES}
        multiple
        hidden
        aria-label="Picture files"
        onChange={(event) => {
          void onFiles([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
    </>
  );
}

function ChosenSketch({
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

function useDraw(motif: Motif | null, look: Look) {
  return useMutation({
    mutationFn: (after?: Sketch) =>
      ask(
        api.POST("/api/motifs/{motif_id}/draw", {
          params: { path: { motif_id: motif?.id ?? 0 } },
          body: { look: after ? (after.look as Look) : look, count: 4, parent_id: after?.id ?? null },
        }),
      ),
    onError: tellProblem,
  });
}

function SketchTape({
  view,
  sketches,
  chosen,
  kept,
}: {
  view: CollectionView;
  sketches: Sketch[];
  chosen: Sketch | null;
  kept: number;
}) {
  const forecast = useForecast(chosen?.id ?? null, view.yardstick).data;
  const tone = forecast
    ? ({ pass: "leaf", warn: "ochre", fail: "red" } as const)[FORECAST_TONE[forecast.verdict] ?? "warn"]
    : "plain";
  return (
    <>
      <Verdict tone={tone}>{forecast?.verdict ?? "no sketch chosen"}</Verdict>
      {forecast && forecast.thin_count > 0 && (
        <TapeSegment red>
          thin parts <span className="num text-red-pencil">{forecast.thin_count}</span>
        </TapeSegment>
      )}
      {forecast && forecast.speck_count > 0 && (
        <TapeSegment red>
          specks <span className="num text-red-pencil">{forecast.speck_count}</span>
        </TapeSegment>
      )}
      <TapeSegment>
        sketches <span className="num">{sketches.length}</span>
      </TapeSegment>
      <TapeSegment>
        kept <span className="num">{kept}</span>
      </TapeSegment>
      {forecast && (
        <TapeSegment>
          about <span className="num">{plural(forecast.nodes, "node")}</span>
        </TapeSegment>
      )}
      <TapeKeys>
        <span>[ ] motif</span>
        <span>3 Ink</span>
      </TapeKeys>
    </>
  );
}
