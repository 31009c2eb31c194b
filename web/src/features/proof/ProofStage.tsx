/** The drawing at true size: what is wrong with it, mending it, and editing by hand. */
import { isSound, type CollectionView, type Motif } from "@/api/client";
import { useDrawing } from "@/api/queries";
import { isUnderWay, useJobs, useTracingText } from "@/api/events";
import { goToStage } from "@/place";
import { Section } from "@/ui/Section";
import { StageFrame } from "@/ui/StageFrame";
import { Verdict } from "@/ui/Tape";
import { BringInDrawing } from "./BringInDrawing";
import { BrokenDrawing } from "./BrokenDrawing";
import { ProofSheet } from "./ProofSheet";

export function ProofStage({ view, motif }: { view: CollectionView; motif: Motif | null }) {
  const query = useDrawing(motif?.id ?? null, motif?.drawing_id != null, view.yardstick);
  const tracingText = useTracingText();
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
            <p>{tracingText}</p>
          ) : (
            <p>
              {query.error?.message ?? `${motif?.name ?? "This collection"} has no drawing yet.`}{" "}
              <button type="button" className="link" onClick={() => goToStage("ink")}>
                Trace a sketch in Ink
              </button>
              {motif && (
                <>
                  , or <BringInDrawing motif={motif} />
                </>
              )}
            </p>
          )}
        </div>
      </StageFrame>
    );
  }
  if (!isSound(query.data)) return <BrokenDrawing motif={motif} kept={query.data} />;
  return <ProofSheet key={motif.id} view={view} motif={motif} current={query.data} />;
}
