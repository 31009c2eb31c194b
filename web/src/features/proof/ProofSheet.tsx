import { useEffect, useMemo, useState } from "react";
import {
  pictureUrl,
  type CollectionView,
  type CurrentDrawing,
  type Finding,
  type How,
  type KeptDrawing,
  type Motif,
} from "@/api/client";
import { useSketches } from "@/api/queries";
import { useAction } from "@/keys/useAction";
import { useHeld } from "@/keys/useHeld";
import { comparing, PLAIN, type Compare } from "@/sheet/compare";
import { DrawingTape } from "@/sheet/DrawingTape";
import { drawingReadings } from "@/sheet/drawingReadings";
import { FindingMarks } from "@/sheet/FindingMarks";
import {
  paintDrawing,
  paintMiddle,
  paintPage,
  paintPicture,
  paintShapes,
  shapeAt,
  type Painter,
} from "@/sheet/paint";
import { placeOnBlank, toDrawing } from "@/sheet/placing";
import { isHeavy } from "@/sheet/paint";
import { Sheet } from "@/sheet/Sheet";
import { useSheetView } from "@/sheet/sheetView";
import { useFindings } from "@/sheet/useFindings";
import { useImage } from "@/sheet/useImage";
import { fullMm, histogram, paintVeil } from "@/sheet/veil";
import { VeilCard } from "@/sheet/VeilCard";
import { mm, plural } from "@/ui/format";
import { tellProblem } from "@/ui/notices";
import { Readings } from "@/ui/Readings";
import { Section } from "@/ui/Section";
import { StageFrame } from "@/ui/StageFrame";
import { BringInDrawing } from "./BringInDrawing";
import { ColoursPanel, GROUNDS } from "./ColoursPanel";
import { proposed, type Proposal } from "./proposal";
import { FindingList } from "./FindingList";
import { HistoryPanel, useRevision } from "./HistoryPanel";
import { LettersPanel } from "./LettersPanel";
import { LookBar } from "./LookBar";
import { MendBar } from "./MendBar";
import { mendsOf } from "./mends";
import { dataOf } from "./nodes";
import { NotTaken } from "./NotTaken";
import { PointsPanel } from "./PointsPanel";
import { sampleAt } from "./sample";
import { withGroups } from "./selecting";
import { ShapesPanel, type ShapeTool } from "./ShapesPanel";
import { TabList, type Tab } from "./TabList";
import { useDrawingVeil } from "./useDrawingVeil";
import { useEdit } from "./useEdit";
import { useFitWidth } from "./useFitWidth";
import { useMendPreview } from "./useMendPreview";
import { usePoints } from "./usePoints";
import { useProofActions } from "./useProofActions";
import { useShapeTools } from "./useShapeTools";

interface Props {
  view: CollectionView;
  motif: Motif;
  current: CurrentDrawing;
}

export function ProofSheet({ view, motif, current }: Props) {
  const { drawing } = current;
  const { blank_width_mm: width, blank_height_mm: height } = view.yardstick.yardstick;
  const blank = useMemo(() => ({ width, height }), [width, height]);
  const placing = useMemo(() => placeOnBlank(drawing, blank), [drawing, blank]);
  const [tab, setTab] = useState<Tab>("mend");
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const selected = useMemo(
    () => new Set(drawing.shapes.map((shape) => shape.id).filter((id) => picked.has(id))),
    [drawing, picked],
  );
  /** Letters that were just set are chosen under Letters. */
  const takeLetters = (made: KeptDrawing) => {
    const set = made.drawing?.shapes.filter((shape) => shape.letters).at(-1);
    if (set) setPicked(new Set([set.id]));
    setTab("letters");
  };
  const choose = (ids: Iterable<string>) => setPicked(withGroups(drawing.shapes, ids));
  const findings = useFindings(drawing, placing);
  const actions = useProofActions(current);
  const editor = useEdit(current);
  const [tool, setTool] = useState<ShapeTool>("choose");
  const [fill, setFill] = useState("#24272b");
  const [ground, setGround] = useState(GROUNDS[0]![0]);
  const [proposal, setProposal] = useState<Proposal>(null);
  useEffect(() => setProposal(null), [current.revision_id]);
  const [compare, setCompare] = useState<Compare>(PLAIN);
  const [lookedAt, setLookedAt] = useState<number | null>(null);
  const revision = useRevision(current, lookedAt);
  const [veilOn, setVeilOn] = useState(false);
  const [bin, setBin] = useState<number | null>(null);
  const veil = useDrawingVeil(current, lookedAt, veilOn);
  const full = veil ? fullMm(veil, view.yardstick.yardstick.limits.thin_mm) : 1;
  useAction("veil", () => {
    if (current.picture_sha || lookedAt !== null) setVeilOn(!veilOn);
    else
      tellProblem(
        new Error("This drawing came without a sketch: choose an earlier revision in History first."),
      );
  });
  const viewport = useSheetView((state) => state.viewport);
  const perScreenPx = () => 1 / useSheetView.getState().view.scale;

  const finding = findings.chosen === null ? undefined : drawing.proof.findings[findings.chosen];
  const choices = finding ? mendsOf(finding, drawing.shapes.length) : null;
  const [lookedAtHow, lookAtHow] = useState<How | null>(null);
  const how = choices ? (choices.hows.find((each) => each === lookedAtHow) ?? choices.hows[0] ?? null) : null;
  /** Likely letters that real ones are set for. */
  const [instead, setInstead] = useState<Finding | null>(null);
  useEffect(() => setInstead(null), [current.revision_id]);
  const order = finding && how ? { finding: findings.chosen!, how, alike: false } : null;
  const preview = useMendPreview(current, order);
  const fit = useFitWidth(view);
  const toLetters = () => (setInstead(finding ?? null), setTab("letters"));
  useAction("mend", () => {
    if (order && !actions.busy) actions.mend(order);
    else if (finding?.kind === "too_large") fit.apply();
    else if (finding?.kind === "lettering") toLetters();
    else if (!finding) tellProblem(new Error("Choose a finding first: F goes to the next one."));
    else if (choices?.advice) tellProblem(new Error(choices.advice));
  });
  const shapeId = [...selected][0] ?? null;
  const points = usePoints(current, shapeId, placing, editor, tab === "nodes");
  // Among nodes, Delete takes nodes out.
  const deletes = tab === "nodes" ? null : selected;
  useAction(
    "delete",
    deletes?.size && !editor.busy
      ? () => editor.edit({ kind: "delete", ids: [...deletes] }, () => setPicked(new Set()))
      : null,
  );
  useAction("next-shape", () => choose(stepped(drawing.shapes, selected, 1)));
  useAction("previous-shape", () => choose(stepped(drawing.shapes, selected, -1)));

  const tools = useShapeTools({ current, placing, chosen: selected, onChoose: choose, editor, tool, fill });

  const [sampling, setSampling] = useState(false);
  const held = useHeld("show-sketch");
  const showOther = held || (sampling && tab === "colours");
  const image = useImage(current.picture_sha ? pictureUrl(current.picture_sha) : null);
  const sketch = useSketches(motif.id).data?.find((each) => each.id === current.sketch_id);
  const other = useMemo<Painter | null>(() => {
    // Places of one drawing mean the same in all its states.
    if (revision) return paintDrawing(revision, placing);
    if (!image || !sketch) return null;
    return paintPicture(image, { width: sketch.width_px, height: sketch.height_px }, placing);
  }, [revision, image, sketch, placing]);

  const painters = useMemo<Painter[]>(() => {
    const list = [paintPage(blank, ground), paintMiddle(blank)];
    if (showOther && other) return [...list, other];
    if (veilOn && veil) {
      const chosen = bin === null ? null : histogram(veil, full)[bin]!;
      return [...list, ...(other ? [other] : []), paintVeil(veil, placing, full, chosen)];
    }
    // Where colours or states are looked at, nothing is painted over.
    const marked = tab === "colours" || tab === "history" ? undefined : selected;
    const shown = { ...drawing, shapes: proposed(drawing.shapes, proposal) as typeof drawing.shapes };
    const mine = paintDrawing(shown, placing, { selected: marked, hairline: compare.outlines });
    list.push(...comparing(mine, other, compare, viewport));
    if (revision && compare.fade === 0 && compare.divider === null)
      list.push(paintDrawing(revision, placing, { colour: "#2f6db5", hairline: true }));
    if (tab === "mend" && preview) list.push(paintShapes(preview.shapes, placing, "#3e7b4f"));
    if (tools.by) {
      const dragged = drawing.shapes.filter((shape) => selected.has(shape.id));
      list.push(paintShapes(dragged, placing, "#2f6db5", tools.by));
    }
    if (tab === "nodes" && points.moving) {
      const moved = drawing.shapes.find((shape) => shape.id === shapeId);
      if (moved) list.push(paintShapes([{ ...moved, d: dataOf(points.paths) }], placing, "#2f6db5"));
    }
    return list;
  }, [
    blank,
    ground,
    showOther,
    other,
    veilOn,
    veil,
    bin,
    full,
    drawing,
    proposal,
    placing,
    selected,
    compare,
    viewport,
    revision,
    tab,
    preview,
    tools.by,
    points.moving,
    points.paths,
    shapeId,
  ]);

  const onStroke =
    tab === "nodes" && shapeId
      ? (stroke: Parameters<typeof points.onStroke>[0], done: boolean) =>
          points.onStroke(stroke, done, perScreenPx())
      : tab === "shapes"
        ? tools.onStroke
        : undefined;

  return (
    <StageFrame
      side={
        <>
          <NotTaken current={current} editor={editor} fill={fill} onSet={takeLetters} />
          <TabList tab={tab} onTab={setTab} />
          <div role="tabpanel" aria-label={tab}>
            {tab === "mend" && (
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
                  chosen={findings.chosen}
                  how={how}
                  onLookAt={lookAtHow}
                  preview={preview}
                  actions={actions}
                  onLetters={toLetters}
                  fit={fit}
                />
                <Section title="Readings">
                  <Readings rows={drawingReadings(drawing, view.yardstick)} />
                </Section>
              </>
            )}
            {tab === "shapes" && (
              <ShapesPanel
                current={current}
                chosen={selected}
                onChoose={choose}
                editor={editor}
                tool={tool}
                onTool={setTool}
                fill={fill}
                bringIn={<BringInDrawing motif={motif} />}
              />
            )}
            {tab === "nodes" && <PointsPanel shapeId={shapeId} points={points} editor={editor} />}
            {tab === "colours" && (
              <ColoursPanel
                current={current}
                editor={editor}
                ground={ground}
                chosen={fill}
                onChoose={setFill}
                proposal={proposal}
                onPropose={setProposal}
                sampling={image && sketch ? sampling : null}
                onSampling={setSampling}
                selected={selected}
              />
            )}
            {tab === "letters" && (
              <LettersPanel
                current={current}
                chosen={selected}
                fill={fill}
                editor={editor}
                instead={instead}
              />
            )}
            {tab === "history" && (
              <HistoryPanel current={current} lookedAt={lookedAt} onLookAt={setLookedAt} />
            )}
          </div>
        </>
      }
      tape={
        <DrawingTape
          drawing={drawing}
          offSketchMm={current.off_sketch_px === null ? null : current.off_sketch_px * drawing.mm_per_px}
          chosen={findings.chosen}
          onChoose={(index) => (setTab("mend"), findings.choose(index))}
          keysHint={["F next", "M mend", "⇧M mend all", "hold S sketch", "V veil"]}
        />
      }
    >
      <Sheet
        page={blank}
        label={`Drawing of ${motif.name}, ${mm(drawing.proof.readings.width_mm)} wide, ${plural(drawing.proof.findings.length, "finding")}`}
        painters={painters}
        heavy={isHeavy(drawing)}
        onPick={(at, context, more) => {
          if (tab === "nodes" && points.onPick(at, more, perScreenPx())) return;
          const place = toDrawing(placing, at);
          if (sampling && tab === "colours" && image) {
            const colour = sampleAt(image, place.x, place.y);
            if (colour) setFill(colour);
            setSampling(false);
            return;
          }
          const shape = shapeAt(context, drawing, place.x, place.y);
          findings.clear();
          setPicked((before) => withGroups(drawing.shapes, pick(before, shape?.id ?? null, more)));
        }}
        onStroke={onStroke}
        marks={(v, size) =>
          showOther || veilOn ? null : (
            <>
              {tab === "mend" && (
                <FindingMarks
                  findings={drawing.proof.findings}
                  placing={placing}
                  view={v}
                  chosen={findings.chosen}
                />
              )}
              {tab === "shapes" && tools.marks(v)}
              {points.marks(v, size)}
            </>
          )
        }
      />
      {veilOn && veil && (
        <div className="absolute bottom-12 left-[34px] w-[300px]">
          <VeilCard
            veil={veil}
            full={full}
            other={revision ? `revision ${lookedAt}` : "the sketch"}
            chosen={bin}
            onChoose={setBin}
            placing={placing}
          />
        </div>
      )}
      <LookBar
        veil={image || revision ? veilOn : null}
        onVeil={setVeilOn}
        ground={ground}
        onGround={setGround}
        compare={compare}
        onCompare={setCompare}
        other={revision ? `revision ${lookedAt}` : other ? "the sketch" : null}
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

/** The shape after (or before) the chosen one in painting order, passing over locked and hidden ones. */
function stepped(
  shapes: CurrentDrawing["drawing"]["shapes"],
  selected: ReadonlySet<string>,
  step: 1 | -1,
): string[] {
  const free = shapes.filter((shape) => !shape.locked && !shape.hidden);
  if (!free.length) return [];
  const at = free.findIndex((shape) => selected.has(shape.id));
  const next = at < 0 ? (step > 0 ? 0 : free.length - 1) : (at + step + free.length) % free.length;
  return [free[next]!.id];
}
