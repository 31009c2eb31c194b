/** Candidates on a contact sheet, each with its forecast. */
import { useQueries } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Problem, type CollectionView, type Look, type Motif, type Sketch } from "@/api/client";
import { isUnderWay, useJobs } from "@/api/events";
import { LOOKS } from "@/api/looks";
import { sketchesQuery, useSketches } from "@/api/queries";
import { useAction } from "@/keys/useAction";
import { goToSketch, goToStage, usePlace } from "@/place";
import { Button } from "@/ui/Button";
import { Section } from "@/ui/Section";
import { Segments } from "@/ui/Segments";
import { Spend } from "@/ui/Spend";
import { StageFrame } from "@/ui/StageFrame";
import { useDraw, useKeep, useReference, type DrawWish } from "./actions";
import { showCompared, toggleCompared } from "./compare";
import { ChosenSketch } from "./ChosenSketch";
import { ComparePanel } from "./ComparePanel";
import { ContactSheet } from "./ContactSheet";
import { SketchTape } from "./SketchTape";
import { PICTURE_TYPES, useBringIn } from "./useBringIn";
import { WaitingUploads } from "./WaitingUploads";

export function SketchStage({ view, motif }: { view: CollectionView; motif: Motif | null }) {
  const sketches = useSketches(motif?.id ?? null).data ?? [];
  const sketchId = usePlace((place) => place.sketchId);
  const chosen = sketches.find((each) => each.id === sketchId) ?? null;
  const all = useAllSketches(view);
  const bring = useBringIn(view, motif, true);
  const [look, setLook] = useState<Look>((view.brief?.look as Look | undefined) ?? "silhouette");
  const draw = useDraw(motif);
  const keep = useKeep();
  const reference = useReference(view);
  const toggleKept = (sketch: Sketch) => keep.mutate({ sketch, kept: !sketch.kept });
  useSketchKeys(chosen, all, {
    keep: toggleKept,
    draw: (wish) => draw.mutate(wish),
    reference: (sketch) => reference.mutate(sketch),
  });
  const waiting = (useJobs().data ?? []).filter(
    (job) => isUnderWay(job) && (job.kind === "draw" || job.kind === "import"),
  );
  const kept = sketches.filter((each) => each.kept).length;

  return (
    <StageFrame
      side={
        <>
          <Section title={sketches.length ? "Draw again" : "Draw"}>
            <Segments label="Look" value={look} segments={LOOKS} onChange={setLook} />
            <div className="mt-2.5 flex gap-2">
              <Button disabled={!motif || draw.isPending} onClick={() => draw.mutate({ look })}>
                Draw four
              </Button>
              <BringInButton onFiles={bring} />
            </div>
            <p className="mt-2 text-pencil">Or drop pictures anywhere, or paste one.</p>
          </Section>
          {motif && <WaitingUploads motif={motif} />}
          {chosen ? (
            <ChosenSketch
              sketch={chosen}
              sketches={all}
              view={view}
              onDraw={(wish) => draw.mutate(wish)}
              onKeep={toggleKept}
              onReference={(sketch) => reference.mutate(sketch)}
            />
          ) : (
            <Section title="Chosen sketch">
              <p className="text-pencil">Click a sketch to read its forecast; take the best one to Ink.</p>
            </Section>
          )}
        </>
      }
      tape={<SketchTape view={view} sketches={sketches} chosen={chosen} kept={kept} />}
    >
      <div className="relative h-full">
        <ContactSheet view={view} waiting={waiting} />
      </div>
      <ComparePanel
        sketches={all}
        onKeep={toggleKept}
        onChoose={(sketch) => {
          goToSketch(sketch.motif_id, sketch.id);
          showCompared(false);
        }}
      />
      <Spend
        question={draw.error instanceof Problem && draw.error.code === "conflict" ? draw.error.message : null}
        onNo={() => draw.reset()}
        onYes={() => draw.mutate({ ...draw.variables, confirmed: true })}
      />
    </StageFrame>
  );
}

/** The sketches of all motifs, in the order of the sheet. */
function useAllSketches(view: CollectionView): Sketch[] {
  return useQueries({
    queries: view.motifs.map((each) => sketchesQuery(each.id)),
    combine: (answers) => answers.flatMap((answer) => answer.data ?? []),
  });
}

interface KeyActions {
  keep: (sketch: Sketch) => void;
  draw: (wish: DrawWish) => void;
  reference: (sketch: Sketch) => void;
}

function useSketchKeys(chosen: Sketch | null, all: Sketch[], does: KeyActions) {
  const step = (by: number) => {
    const at = chosen ? all.findIndex((each) => each.id === chosen.id) + by : 0;
    const next = all[at];
    if (next) goToSketch(next.motif_id, next.id);
  };
  const varied = chosen?.source === "generator" && chosen.seed !== null ? chosen : null;
  useAction("sketch-next", () => step(1));
  useAction("sketch-previous", () => step(-1));
  useAction("keep", chosen && (() => does.keep(chosen)));
  useAction("compare", chosen && (() => toggleCompared(chosen.id)));
  useAction("compare-show", () => showCompared(true));
  useAction("reference", chosen && (() => does.reference(chosen)));
  useAction("near", varied && (() => does.draw({ parent: varied, reach: "near" })));
  useAction("far", varied && (() => does.draw({ parent: varied, reach: "far" })));
  useAction("to-ink", chosen && (() => goToStage("ink")));
}

function BringInButton({ onFiles }: { onFiles: (files: File[]) => void }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button onClick={() => input.current?.click()}>Bring in pictures</Button>
      <input
        ref={input}
        type="file"
        accept={PICTURE_TYPES}
        multiple
        hidden
        aria-label="Picture files"
        onChange={(event) => {
          onFiles([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
    </>
  );
}
