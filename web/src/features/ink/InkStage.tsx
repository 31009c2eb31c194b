/** Tracing, live: what the knobs say is what is on the sheet. */
import { useMutation } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import {
  api,
  ask,
  pictureUrl,
  type CollectionView,
  type Motif,
  type Sketch,
  type TraceSettings,
} from "@/api/client";
import { isUnderWay, useJobs } from "@/api/events";
import { useDrawing, useSketches } from "@/api/queries";
import { useHeld } from "@/keys/useHeld";
import { goToSketch, goToStage, usePlace } from "@/place";
import { DrawingTape } from "@/sheet/DrawingTape";
import { drawingReadings } from "@/sheet/drawingReadings";
import { FindingMarks } from "@/sheet/FindingMarks";
import { paintDrawing, paintMiddle, paintPage, paintPicture, type Painter } from "@/sheet/paint";
import { placeOnBlank, placePicture } from "@/sheet/placing";
import { Sheet } from "@/sheet/Sheet";
import { useFindings } from "@/sheet/useFindings";
import { useImage } from "@/sheet/useImage";
import { Button } from "@/ui/Button";
import { mm } from "@/ui/format";
import { tellProblem } from "@/ui/notices";
import { Readings } from "@/ui/Readings";
import { Section } from "@/ui/Section";
import { StageFrame } from "@/ui/StageFrame";
import { TapeSegment, Verdict } from "@/ui/Tape";
import { SketchStrip } from "./SketchStrip";
import { TraceKnobs } from "./TraceKnobs";
import { useRetrace } from "./useRetrace";

const START: TraceSettings = {
  method: "solid",
  level: null,
  min_spot_px2: 16,
  tolerance_px: 0.5,
  corner_deg: 32,
  invert: false,
};

export function InkStage({ view, motif }: { view: CollectionView; motif: Motif | null }) {
  const sketches = useSketches(motif?.id ?? null).data ?? [];
  const drawing = useDrawing(motif?.id ?? null, motif?.drawing_id != null, view.yardstick).data;
  const chosenId = usePlace((place) => place.sketchId);
  const sketch = chooseSketch(sketches, chosenId, drawing?.sketch_id ?? null);
  const kept = drawing?.sketch_id === sketch?.id && drawing ? (drawing.settings as TraceSettings) : START;
  // Knobs stay as they are while the maker moves between motifs; the first look at a traced one takes its own.
  const [settings, setSettings] = useState<TraceSettings | null>(null);
  const used = settings ?? kept;
  const { preview, error, isTracing } = useRetrace(sketch?.id ?? null, used, view.yardstick);
  const image = useImage(sketch ? pictureUrl(sketch.picture_sha) : null);
  const showSketch = useHeld("show-sketch");
  const blank = useMemo(
    () => ({
      width: view.yardstick.yardstick.blank_width_mm,
      height: view.yardstick.yardstick.blank_height_mm,
    }),
    [view.yardstick],
  );
  const placing = useMemo(() => (preview ? placeOnBlank(preview.drawing, blank) : null), [preview, blank]);
  const findings = useFindings(preview?.drawing, placing);
  const keep = useKeepTrace(sketch, used);

  const painters = useMemo<Painter[]>(() => {
    const list = [paintPage(blank, "#fffdf8"), paintMiddle(blank)];
    const size = sketch && { width: sketch.width_px, height: sketch.height_px };
    if (image && size && (showSketch || !preview || !placing)) {
      list.push(
        paintPicture(image, size, placing ?? placePicture(size, blank, view.yardstick.yardstick.width_mm)),
      );
    } else if (preview && placing)
      list.push(paintDrawing(preview.drawing, placing, { alpha: error ? 0.25 : 1 }));
    return list;
  }, [blank, sketch, image, showSketch, preview, placing, error, view.yardstick]);

  if (!motif || !sketch) return <NothingYet view={view} motif={motif} />;
  const scale = preview?.drawing.mm_per_px ?? view.yardstick.yardstick.width_mm / sketch.width_px;

  return (
    <StageFrame
      side={
        <>
          <TraceKnobs
            settings={used}
            autoLevel={preview?.level ?? 128}
            mmPerPx={scale}
            onChange={setSettings}
          />
          <div className="border-b border-hair px-4 py-2.5">
            <Button
              kind="ink"
              disabled={!preview || error !== null || keep.isPending}
              onClick={() => keep.mutate()}
            >
              Keep this trace
            </Button>
            {isTracing && <span className="ml-3 text-pencil">tracing …</span>}
            {drawing && (
              <p className="mt-1 text-sm text-pencil">Undo in Proof brings the last drawing back.</p>
            )}
          </div>
          <Section title="Readings">
            {error ? (
              <p role="alert" className="text-red-pencil">
                {error.message}
              </p>
            ) : preview ? (
              <Readings
                rows={[
                  ...drawingReadings(preview.drawing, view.yardstick),
                  { label: "Off the sketch", value: mm(preview.p95_px * scale) },
                  { label: "Spots dropped", value: String(preview.dropped_spots) },
                ]}
              />
            ) : (
              <p className="text-pencil">Tracing …</p>
            )}
          </Section>
        </>
      }
      tape={
        error ? (
          <>
            <Verdict tone="red">no trace</Verdict>
            <TapeSegment red>{error.message}</TapeSegment>
          </>
        ) : preview ? (
          <DrawingTape
            drawing={preview.drawing}
            offSketchMm={preview.p95_px * scale}
            chosen={findings.chosen}
            onChoose={findings.choose}
            keysHint={["F next", "hold S sketch"]}
          />
        ) : (
          <Verdict tone="plain">tracing …</Verdict>
        )
      }
    >
      <div className="grid h-full grid-rows-[minmax(0,1fr)_auto]">
        <Sheet
          page={blank}
          label={`Trace of ${motif.name} on a ${blank.width} by ${blank.height} mm blank`}
          painters={painters}
          marks={(v) =>
            preview && placing && !showSketch && !error ? (
              <FindingMarks
                findings={preview.drawing.proof.findings}
                placing={placing}
                view={v}
                chosen={findings.chosen}
              />
            ) : null
          }
        />
        <SketchStrip sketches={sketches} chosenId={sketch.id} onChoose={(id) => goToSketch(motif.id, id)} />
      </div>
    </StageFrame>
  );
}

/** The one that is looked at, else the one the drawing came from, else the first kept one, else the first. */
function chooseSketch(sketches: Sketch[], chosenId: number | null, drawnId: number | null): Sketch | null {
  return (
    sketches.find((each) => each.id === chosenId) ??
    sketches.find((each) => each.id === drawnId) ??
    sketches.find((each) => each.kept) ??
    sketches[0] ??
    null
  );
}

function useKeepTrace(sketch: Sketch | null, settings: TraceSettings) {
  const jobs = useJobs().data ?? [];
  const busy = jobs.some(
    (job) => isUnderWay(job) && job.kind === "trace" && job.params.sketch_id === sketch?.id,
  );
  const keep = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/sketches/{sketch_id}/trace", {
          params: { path: { sketch_id: sketch?.id ?? 0 } },
          body: settings,
        }),
      ),
    onSuccess: () => goToStage("proof"),
    onError: tellProblem,
  });
  return { mutate: () => keep.mutate(), isPending: keep.isPending || busy };
}

function NothingYet({ view, motif }: { view: CollectionView; motif: Motif | null }) {
  return (
    <StageFrame
      side={<Section title="Trace">Choose a sketch first.</Section>}
      tape={<Verdict tone="plain">nothing to trace</Verdict>}
    >
      <div className="grid h-full place-items-center text-pencil">
        <p>
          {motif ? `${motif.name} has no sketch yet.` : `${view.collection.name} has no motif yet.`}{" "}
          <button type="button" className="link" onClick={() => goToStage(motif ? "sketch" : "brief")}>
            {motif ? "Draw one or bring one in" : "Write subjects"}
          </button>
        </p>
      </div>
    </StageFrame>
  );
}
