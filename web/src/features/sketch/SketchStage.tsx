/** Candidates on a contact sheet, each with its forecast. */
import { useMutation } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, ask, type CollectionView, type Look, type Motif, type Sketch } from "@/api/client";
import { isUnderWay, useJobs } from "@/api/events";
import { LOOKS } from "@/api/looks";
import { useSketches } from "@/api/queries";
import { usePlace } from "@/place";
import { Button } from "@/ui/Button";
import { tellProblem } from "@/ui/notices";
import { Section } from "@/ui/Section";
import { Segments } from "@/ui/Segments";
import { StageFrame } from "@/ui/StageFrame";
import { ChosenSketch } from "./ChosenSketch";
import { ContactSheet } from "./ContactSheet";
import { SketchTape } from "./SketchTape";
import { PICTURE_TYPES, useBringIn } from "./useBringIn";

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
