import { api, ask, type CurrentDrawing } from "@/api/client";
import { useDrawingChange } from "@/api/queries";
import { useAction } from "@/keys/useAction";
import { plural } from "@/ui/format";
import { tellDone, tellProblem } from "@/ui/notices";

export type ProofActions = ReturnType<typeof useProofActions>;

/** What can be done to the drawing here: each is one step that undo takes back. */
export function useProofActions(current: CurrentDrawing, selected: ReadonlySet<string>, clear: () => void) {
  const path = { drawing_id: current.id };
  const remove = useDrawingChange((shape_ids: string[]) =>
    ask(
      api.POST("/api/drawings/{drawing_id}/delete-shapes", {
        params: { path },
        body: { revision_id: current.revision_id, shape_ids },
      }),
    ),
  );
  const drop = useDrawingChange(() =>
    ask(
      api.POST("/api/drawings/{drawing_id}/drop-specks", {
        params: { path },
        body: { revision_id: current.revision_id },
      }),
    ),
  );
  const undo = useDrawingChange(() => ask(api.POST("/api/drawings/{drawing_id}/undo", { params: { path } })));
  const redo = useDrawingChange(() => ask(api.POST("/api/drawings/{drawing_id}/redo", { params: { path } })));
  const busy = remove.isPending || drop.isPending || undo.isPending || redo.isPending;
  const actions = {
    busy,
    deleteShapes: (ids: string[]) =>
      remove.mutate(ids, {
        onError: tellProblem,
        onSuccess: () => (
          clear(),
          tellDone(`Deleted ${plural(ids.length, "shape")}. Ctrl+Z brings it back.`)
        ),
      }),
    dropSpecks: () =>
      drop.mutate(undefined, {
        onError: tellProblem,
        onSuccess: () => tellDone("Dropped all specks. Ctrl+Z brings them back."),
      }),
    undo: () => undo.mutate(undefined, { onError: tellProblem }),
    redo: () => redo.mutate(undefined, { onError: tellProblem }),
  };
  useAction("undo", current.can_undo && !busy ? actions.undo : null);
  useAction("redo", current.can_redo && !busy ? actions.redo : null);
  useAction("delete", selected.size && !busy ? () => actions.deleteShapes([...selected]) : null);
  return actions;
}
