/** The drawing at true size: what is wrong with it, and mending it. */
import { useMemo, useState } from "react";
import { pictureUrl, type CollectionView, type CurrentDrawing, type Motif } from "@/api/client";
import { useDrawing, useSketches } from "@/api/queries";
import { isUnderWay, useJobs } from "@/api/events";
import { useAction } from "@/keys/useAction";
import { useHeld } from "@/keys/useHeld";
import { goToStage } from "@/place";
import { DrawingTape } from "@/sheet/DrawingTape";
import { drawingReadings } from "@/sheet/drawingReadings";
import { FindingMarks } from "@/sheet/FindingMarks";
import { paintDrawing, paintMiddle, paintPage, paintPicture, shapeAt, type Painter } from "@/sheet/paint";
import { placeOnBlank, toDrawing } from "@/sheet/placing";
import { Sheet } from "@/sheet/Sheet";
import { useFindings } from "@/sheet/useFindings";
import { useImage } from "@/sheet/useImage";
import { mm, plural } from "@/ui/format";
import { tellProblem } from "@/ui/notices";
import { Readings } from "@/ui/Readings";
import { Section } from "@/ui/Section";
import { StageFrame } from "@/ui/StageFrame";
import { Verdict } from "@/ui/Tape";
import { FindingList } from "./FindingList";
import { MendBar } from "./MendBar";
import { mendFor } from "./mends";
import { useProofActions } from "./useProofActions";

export function ProofStage({ view, motif }: { view: CollectionView; motif: Motif | null }) {
  const query = useDrawing(motif?.id ?? null, motif?.drawing_id != null, view.yardstick);
  const tracing = (useJobs().data ?? []).some(
    (job) => isUnderWay(job) && job.kind === "trace" && job.params.motif_id === motif?.id,
  );
  if (!query.data || query.data.motif_id !== motif?.id) {
    const busy = tracing || query.isLoading;
    return (
      <StageFrame
        side={<Section title="Findings">{busy ? "Reading the drawing …" : "No drawing yet."}</Section>}
        tape={<Verdict tone="plain">{busy ? "tracing …" : "no drawing yet"}</Verdict>}
      >
        <div className="grid h-full place-items-center text-pencil">
          {busy ? (
            <p>Tracing …</p>
          ) : (
            <p>
              {query.error?.message ?? `${motif?.name ?? "This collection"} has no drawing yet.`}{" "}
              <button type="button" className="link" onClick={() => goToStage("ink")}>
                Trace a sketch in Ink
              </button>
            </p>
          )}
        </div>
      </StageFrame>
    );
  }
  return <ProofSheet key={motif.id} view={view} motif={motif} current={query.data} />;
}

function ProofSheet({
  view,
  motif,
  current,
}: {
  view: CollectionView;
  motif: Motif;
  current: CurrentDrawing;
}) {
  const { drawing } = current;
  const { blank_width_mm: width, blank_height_mm: height } = view.yardstick.yardstick;
  const blank = useMemo(() => ({ width, height }), [width, height]);
  const placing = useMemo(() => placeOnBlank(drawing, blank), [drawing, blank]);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const selected = useMemo(
    () => new Set(drawing.shapes.map((shape) => shape.id).filter((id) => picked.has(id))),
    [drawing, picked],
  );
  const findings = useFindings(drawing, placing);
  const showSketch = useHeld("show-sketch");
  const image = useImage(current.picture_sha ? pictureUrl(current.picture_sha) : null);
  const sketches = useSketches(motif.id).data;
  const actions = useProofActions(current, selected, () => setPicked(new Set()));
  const finding = findings.chosen === null ? undefined : drawing.proof.findings[findings.chosen];
  const mend = finding ? mendFor(finding, drawing) : null;
  const runMend = () => {
    if (!finding || !mend) {
      tellProblem(new Error("Choose a finding first: F goes to the next one."));
    } else if (mend.does === "drop-specks") actions.dropSpecks();
    else if (mend.does === "delete-shape") actions.deleteShapes([finding.shape]);
    else tellProblem(new Error(mend.advice));
  };
  useAction("mend", runMend);

  const painters = useMemo<Painter[]>(() => {
    const list = [paintPage(blank, "#fffdf8"), paintMiddle(blank)];
    const sketch = sketches?.find((each) => each.id === current.sketch_id);
    if (showSketch && image && sketch)
      list.push(paintPicture(image, { width: sketch.width_px, height: sketch.height_px }, placing));
    else list.push(paintDrawing(drawing, placing, { selected }));
    return list;
  }, [blank, drawing, placing, selected, showSketch, image, sketches, current.sketch_id]);

  return (
    <StageFrame
      side={
        <>
          <Section
            title="Findings"
            aside={
              <span className="num text-pencil" title="The drawing's current revision">
                rev. {current.revision_id}
              </span>
            }
          >
            <FindingList
              findings={drawing.proof.findings}
              chosen={findings.chosen}
              onChoose={findings.choose}
            />
          </Section>
          <MendBar
            current={current}
            mend={mend}
            onMend={runMend}
            selectedCount={selected.size}
            actions={actions}
            onDelete={() => actions.deleteShapes([...selected])}
            onSelectAll={() => setPicked(new Set(drawing.shapes.map((shape) => shape.id)))}
          />
          <Section title="Readings">
            <Readings rows={drawingReadings(drawing, view.yardstick)} />
          </Section>
        </>
      }
      tape={
        <DrawingTape
          drawing={drawing}
          offSketchMm={current.off_sketch_px === null ? null : current.off_sketch_px * drawing.mm_per_px}
          chosen={findings.chosen}
          onChoose={findings.choose}
          keysHint={["F next", "M mend", "hold S sketch"]}
        />
      }
    >
      <Sheet
        page={blank}
        label={`Drawing of ${motif.name}, ${mm(drawing.proof.readings.width_mm)} wide, ${plural(drawing.proof.findings.length, "finding")}`}
        painters={painters}
        onPick={(at, context, more) => {
          const place = toDrawing(placing, at);
          const shape = shapeAt(context, drawing, place.x, place.y);
          findings.clear();
          setPicked((before) => pick(before, shape?.id ?? null, more));
        }}
        marks={(v) =>
          showSketch ? null : (
            <FindingMarks
              findings={drawing.proof.findings}
              placing={placing}
              view={v}
              chosen={findings.chosen}
            />
          )
        }
      />
    </StageFrame>
  );
}

/** A click selects one shape or none; with Shift it adds or takes away. */
function pick(before: ReadonlySet<string>, id: string | null, more: boolean): ReadonlySet<string> {
  if (id === null) return more ? before : new Set();
  if (!more) return new Set([id]);
  const next = new Set(before);
  if (!next.delete(id)) next.add(id);
  return next;
}
