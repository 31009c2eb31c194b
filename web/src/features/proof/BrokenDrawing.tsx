/** A drawing that cannot be read or judged, shown as what it is, with the ways back from it beside it. */
import type { KeptDrawing, Motif } from "@/api/client";
import { api, ask } from "@/api/client";
import { useDrawingChange } from "@/api/queries";
import { useAction } from "@/keys/useAction";
import { Button } from "@/ui/Button";
import { tellProblem } from "@/ui/notices";
import { Section } from "@/ui/Section";
import { StageFrame } from "@/ui/StageFrame";
import { Verdict } from "@/ui/Tape";
import { BringInDrawing } from "./BringInDrawing";

export function BrokenDrawing({ motif, kept }: { motif: Motif; kept: KeptDrawing }) {
  const path = { drawing_id: kept.id };
  const undo = useDrawingChange(() => ask(api.POST("/api/drawings/{drawing_id}/undo", { params: { path } })));
  const goBack = () => undo.mutate(undefined, { onError: tellProblem });
  useAction("undo", kept.can_undo && !undo.isPending ? goBack : null);
  return (
    <StageFrame
      side={
        <Section title="Findings">
          The drawing itself is the finding. What was there before it is kept: undo leads back.
        </Section>
      }
      tape={<Verdict tone="red">cannot be shown</Verdict>}
    >
      <div className="grid h-full place-items-center">
        <div className="max-w-[52ch]">
          <h3 className="text-lg">{motif.name} cannot be shown as it is now</h3>
          <p className="mt-2 text-red-pencil" role="alert">
            {kept.problem}
          </p>
          <p className="mt-2 text-pencil">State: {kept.note}</p>
          <div className="mt-4 flex items-center gap-4">
            {kept.can_undo && (
              <Button kind="ink" disabled={undo.isPending} onClick={goBack}>
                Undo
              </Button>
            )}
            <BringInDrawing motif={motif} />
          </div>
        </div>
      </div>
    </StageFrame>
  );
}
