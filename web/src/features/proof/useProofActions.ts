import { api, ask, type CurrentDrawing, type Finding, type How } from "@/api/client";
import { useDrawingChange } from "@/api/queries";
import { useAction } from "@/keys/useAction";
import { useSheetView } from "@/sheet/sheetView";
import { tellDone, tellProblem } from "@/ui/notices";
import { doneInWords } from "./mends";

export type ProofActions = ReturnType<typeof useProofActions>;

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
  const undo = useDrawingChange(() => ask(api.POST("/api/drawings/{drawing_id}/undo", { params: { path } })));
  const redo = useDrawingChange(() => ask(api.POST("/api/drawings/{drawing_id}/redo", { params: { path } })));
  const busy = [one, all, undo, redo].some((change) => change.isPending);
  const actions = {
    busy,
    mend: (order: MendOrder) => one.mutate(order, { onError: tellProblem }),
    mendAll: () => all.mutate(null, { onError: tellProblem }),
    mendsAll: all.isPending,
    undo: () => undo.mutate(undefined, { onError: tellProblem }),
    redo: () => redo.mutate(undefined, { onError: tellProblem }),
  };
  useAction("undo", current.can_undo && !busy ? actions.undo : null);
  useAction("redo", current.can_redo && !busy ? actions.redo : null);
  useAction("mend-all", current.drawing.proof.findings.length && !busy ? actions.mendAll : null);
  return actions;
}
