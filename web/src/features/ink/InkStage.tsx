/** Tracing, live: what the knobs say is what is on the sheet. */
import { useMutation } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import {
  api,
  ask,
  pictureUrl,
  type CollectionView,
  type Doubt,
  type Motif,
  type Sketch,
  type TraceSettings,
} from "@/api/client";
import { isUnderWay, useJobs, useTracingText } from "@/api/events";
import { useDrawing, useSketches } from "@/api/queries";
import { useAction } from "@/keys/useAction";
import { useHeld } from "@/keys/useHeld";
import { goToSketch, goToStage, usePlace } from "@/place";
import { comparing, PLAIN, type Compare } from "@/sheet/compare";
import { CompareSliders } from "@/sheet/CompareSliders";
import { DrawingTape } from "@/sheet/DrawingTape";
import { drawingReadings } from "@/sheet/drawingReadings";
import { FindingMarks } from "@/sheet/FindingMarks";
import { paintDrawing, paintMiddle, paintPage, paintPicture, type Painter } from "@/sheet/paint";
import { placeOnBlank, placePicture } from "@/sheet/placing";
import { isHeavy } from "@/sheet/paint";
import { Sheet } from "@/sheet/Sheet";
import { useFindings } from "@/sheet/useFindings";
import { useImage } from "@/sheet/useImage";
import { fullMm, histogram, paintVeil } from "@/sheet/veil";
import { VeilCard } from "@/sheet/VeilCard";
import { useSheetView } from "@/sheet/sheetView";
import { Button } from "@/ui/Button";
import { mm } from "@/ui/format";
import { tellProblem } from "@/ui/notices";
import { Readings } from "@/ui/Readings";
import { Section } from "@/ui/Section";
import { StageFrame } from "@/ui/StageFrame";
import { TapeSegment, Verdict } from "@/ui/Tape";
import { CleanUp } from "./CleanUp";
import { DoubtMarks, DOUBT_WORDS, useDoubts } from "./DoubtMarks";
import { InsideMarks } from "./InsideMarks";
import { LadderStrip } from "./LadderStrip";
import { Recipes } from "./Recipes";
import { SketchStrip } from "./SketchStrip";
import { TraceKnobs } from "./TraceKnobs";
import { useLadder } from "./useLadder";
import { useHandTools } from "./useHandTools";
import { useRetrace } from "./useRetrace";
import { useSteps } from "./useSteps";
import { useTraceSettings } from "./useTraceSettings";
import { useVeil } from "./useVeil";

/** Two rungs are first seen side by side. */
const HALF: Compare = { ...PLAIN, divider: 0.5 };

export function InkStage({ view, motif }: { view: CollectionView; motif: Motif | null }) {
  const sketches = useSketches(motif?.id ?? null).data ?? [];
  const traced = useDrawing(motif?.id ?? null, motif?.drawing_id != null, view.yardstick);
  const drawing = traced.data;
  const chosenId = usePlace((place) => place.sketchId);
  const sketch = chooseSketch(sketches, chosenId, drawing?.sketch_id ?? null);
  const knobs = useTraceSettings(sketch, drawing, view.yardstick);
  const used = knobs.used;
  const tracingText = useTracingText();
  const { preview, error, isTracing } = useRetrace(
    knobs.isReady && !traced.isLoading ? sketch : null,
    used,
    view.yardstick,
  );
  const cleaning = useSteps(sketch);
  const image = useImage(cleaning.look ?? (sketch ? pictureUrl(sketch.picture_sha) : null));
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
  const [veilOn, setVeilOn] = useState(false);
  const veil = useVeil(sketch, used, view.yardstick, veilOn && !isTracing);
  const thinMm = view.yardstick.yardstick.limits.thin_mm;
  const [bin, setBin] = useState<number | null>(null);
  const doubts = useDoubts(sketch) ?? [];
  const [ladderBase, setLadderBase] = useState<TraceSettings | null>(null);
  const ladder = useLadder(sketch, ladderBase);
  const [against, setAgainst] = useState<number | null>(null);
  const [compare, setCompare] = useState<Compare>(HALF);
  const rung = ladder.rungs.find((each) => each.rung === against) ?? null;
  const viewport = useSheetView((state) => state.viewport);
  const size = useMemo(() => sketch && { width: sketch.width_px, height: sketch.height_px }, [sketch]);
  const pictureAt = useMemo(
    () => placing ?? (size && placePicture(size, blank, view.yardstick.yardstick.width_mm)),
    [placing, size, blank, view.yardstick],
  );
  const hand = useHandTools({
    sketchId: sketch?.id ?? null,
    placing: pictureAt,
    picture: size,
    widthMm: view.yardstick.yardstick.width_mm,
    onStep: (step) => cleaning.put([...cleaning.steps, step]),
  });
  const onPicture = showSketch || veilOn || hand.tool !== null || cleaning.look !== null;
  useAction("veil", () => setVeilOn((on) => !on));
  useAction("ladder", () => (setLadderBase((base) => (base ? null : used)), setAgainst(null)));

  const full = veil ? fullMm(veil, thinMm) : null;
  const painters = useMemo<Painter[]>(() => {
    const list = [paintPage(blank, "#fffdf8"), paintMiddle(blank)];
    if (image && size && pictureAt && (onPicture || !preview || !placing)) {
      // A look at steps that are not done yet may have another shape than the sketch, and has fewer pixels.
      const across = cleaning.look
        ? { width: size.width, height: (size.width * image.height) / image.width }
        : size;
      list.push(paintPicture(image, across, pictureAt));
      if (veilOn && veil && placing && !showSketch)
        list.push(paintVeil(veil, placing, full!, bin === null ? null : histogram(veil, full!)[bin]!));
    } else if (preview && placing) {
      const mine = paintDrawing(preview.drawing, placing, {
        alpha: error ? 0.25 : 1,
        hairline: rung !== null && compare.outlines,
      });
      const other = rung ? paintDrawing(rung.trace.drawing, placing, { hairline: compare.outlines }) : null;
      list.push(...comparing(mine, other, compare, viewport));
    }
    return list;
  }, [
    blank,
    size,
    image,
    cleaning.look,
    pictureAt,
    onPicture,
    showSketch,
    veilOn,
    veil,
    preview,
    placing,
    error,
    full,
    bin,
    rung,
    compare,
    viewport,
  ]);

  if (!motif || !sketch) return <NothingYet view={view} motif={motif} />;
  const scale = preview?.drawing.mm_per_px ?? view.yardstick.yardstick.width_mm / sketch.width_px;

  return (
    <StageFrame
      side={
        <>
          <CleanUp
            collectionId={view.collection.id}
            sketch={sketch}
            yardstick={view.yardstick}
            mmPerPx={scale}
            cleaning={cleaning}
            hand={hand}
          />
          <TraceKnobs
            collectionId={view.collection.id}
            settings={used}
            wanted={knobs.isAuto ? knobs.wanted : null}
            isAuto={knobs.isAuto}
            onMethod={knobs.pick}
            made={preview}
            mmPerPx={scale}
            onChange={knobs.change}
          />
          <div className="border-b border-hair px-4 py-2.5">
            <div className="mb-2 flex gap-2">
              <Button
                aria-pressed={ladderBase !== null}
                title="T"
                onClick={() => (setLadderBase((base) => (base ? null : used)), setAgainst(null))}
              >
                {ladderBase ? "Close ladder" : "Ladder"}
              </Button>
              <Button aria-pressed={veilOn} title="V" onClick={() => setVeilOn((on) => !on)}>
                {veilOn ? "Lift veil" : "Veil"}
              </Button>
            </div>
            <Button
              kind="ink"
              disabled={!preview || error !== null || keep.isPending}
              onClick={() => keep.mutate()}
            >
              Keep this trace
            </Button>
            {isTracing && <span className="ml-3 text-pencil">{tracingText}</span>}
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
                  ...(used.method === "flats" && preview.gradient_share > 0.02
                    ? [
                        {
                          label: "Gradients, in steps",
                          value: `${Math.round(100 * preview.gradient_share)} %`,
                        },
                      ]
                    : []),
                ]}
              />
            ) : (
              <p className="text-pencil">{tracingText}</p>
            )}
          </Section>
          {doubts.length > 0 && (
            <Section title="Will not trace well">
              <p>{doubtSentence(doubts)} Dashed on the sheet.</p>
            </Section>
          )}
          <Recipes collectionId={view.collection.id} settings={used} onTake={knobs.take} />
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
            keysHint={["F next", "hold S sketch", "T ladder", "V veil"]}
          />
        ) : (
          <Verdict tone="plain">tracing …</Verdict>
        )
      }
    >
      <div className="grid h-full grid-rows-[minmax(0,1fr)_auto]">
        <div className="relative min-h-0">
          <Sheet
            page={blank}
            label={`Trace of ${motif.name} on a ${blank.width} by ${blank.height} mm blank`}
            painters={painters}
            heavy={preview ? isHeavy(preview.drawing) : false}
            onStroke={hand.onStroke}
            marks={(v) =>
              hand.tool ? (
                hand.marks(v)
              ) : preview && placing && !error ? (
                <>
                  <DoubtMarks doubts={doubts} placing={placing} view={v} />
                  {!showSketch && !veilOn && (
                    <InsideMarks
                      places={preview.inside}
                      placing={placing}
                      view={v}
                      turnedPlaces={used.turned_inside}
                      onTurn={(turned_inside) => knobs.turn(turned_inside)}
                    />
                  )}
                  {!showSketch && !veilOn && (
                    <FindingMarks
                      findings={preview.drawing.proof.findings}
                      placing={placing}
                      view={v}
                      chosen={findings.chosen}
                    />
                  )}
                </>
              ) : null
            }
          />
          {veilOn && veil && placing && !showSketch && (
            <div className="absolute bottom-3 left-[34px] w-[300px]">
              <VeilCard
                veil={veil}
                full={full!}
                other="the sketch"
                chosen={bin}
                onChoose={setBin}
                placing={placing}
              />
            </div>
          )}
          {rung && !onPicture && (
            <div className="absolute bottom-3 left-[34px] flex items-center gap-3 rounded border border-hair bg-sheet px-2 py-0.5">
              <span className="text-pencil">rung {rung.rung + 1}, left, with this trace:</span>
              <CompareSliders compare={compare} onCompare={setCompare} />
              <label className="flex items-center gap-1.5">
                <input
                  type="checkbox"
                  className="accent-blue-pencil"
                  checked={compare.outlines}
                  onChange={(event) => setCompare({ ...compare, outlines: event.target.checked })}
                />
                outlines
              </label>
            </div>
          )}
        </div>
        {ladderBase ? (
          <LadderStrip
            ladder={ladder}
            current={used}
            onChoose={knobs.take}
            against={against}
            onAgainst={setAgainst}
            onClose={() => (setLadderBase(null), setAgainst(null))}
          />
        ) : (
          <SketchStrip sketches={sketches} chosenId={sketch.id} onChoose={(id) => goToSketch(motif.id, id)} />
        )}
      </div>
    </StageFrame>
  );
}

function doubtSentence(doubts: Doubt[]): string {
  const counts = new Map<string, number>();
  for (const doubt of doubts)
    counts.set(DOUBT_WORDS[doubt.kind], (counts.get(DOUBT_WORDS[doubt.kind]) ?? 0) + 1);
  return [...counts].map(([words, count]) => (count > 1 ? `${words} ×${count}` : words)).join(", ") + ".";
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
