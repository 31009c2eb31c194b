import { useMutation } from "@tanstack/react-query";
import { api, ask, type CurrentDrawing, type Finding, type How } from "@/api/client";
import { isUnderWay, useJobs } from "@/api/events";
import { useDrawingChange } from "@/api/queries";
import { useAction } from "@/keys/useAction";
import { useSheetView } from "@/sheet/sheetView";
import { tellDone, tellProblem } from "@/ui/notices";
import { doneInWords } from "./mends";

export type ProofActions = ReturnType<typeof useProofActions>;

/** A drawing of more nodes may take longer to mend than anyone waits without a word. */
const AT_ONCE_NODES = 1_500;

export interface MendOrder {
  finding: number;
  how: How;
  alike: boolean;
}

/** What can be done to the drawing here: each is one step that undo takes back. */
export function useProofActions(current: CurrentDrawing) {
  const path = { drawing_id: current.id };
  const { revision_id } = current;
  const one = useDrawingChange((order: MendOrder) =>
    ask(api.POST("/api/drawings/{drawing_id}/mend", { params: { path }, body: { revision_id, ...order } })),
  );
  const all = useDrawingChange((only: Finding["kind"][] | null) =>
    ask(
      api.POST("/api/drawings/{drawing_id}/mend-all", { params: { path }, body: { revision_id, only } }),
    ).then(({ current: mended, done }) => {
      tellDone(`${doneInWords(done)} Ctrl+Z brings it back.`);
      // What was looked at is mended: the whole figure is what to look at now.
      if (done.length) useSheetView.getState().fitPage();
      return mended;
    }),
  );
  // What takes long is done behind the scenes: Activity shows how far it is, and stops it.
  const large = current.drawing.proof.readings.nodes > AT_ONCE_NODES;
  const later = useMutation({
    mutationFn: () =>
      ask(api.POST("/api/drawings/{drawing_id}/mend-all/job", { params: { path }, body: { revision_id } })),
    onError: tellProblem,
  });
  const job = (useJobs().data ?? []).find(
    (each) => each.kind === "mend" && each.params.drawing_id === current.id,
  );
  const underWay = later.isPending || (job !== undefined && isUnderWay(job));
  const undo = useDrawingChange(() => ask(api.POST("/api/drawings/{drawing_id}/undo", { params: { path } })));
  const redo = useDrawingChange(() => ask(api.POST("/api/drawings/{drawing_id}/redo", { params: { path } })));
  const busy = underWay || [one, all, undo, redo].some((change) => change.isPending);
  const actions = {
    busy,
    mend: (order: MendOrder) => one.mutate(order, { onError: tellProblem }),
    mendAll: () => (large ? later.mutate() : all.mutate(null, { onError: tellProblem })),
    mendsAll: all.isPending || underWay,
    undo: () => undo.mutate(undefined, { onError: tellProblem }),
    redo: () => redo.mutate(undefined, { onError: tellProblem }),
  };
  useAction("undo", current.can_undo && !busy ? actions.undo : null);
  useAction("redo", current.can_redo && !busy ? actions.redo : null);
  useAction("mend-all", current.drawing.proof.findings.length && !busy ? actions.mendAll : null);
  return actions;
}
