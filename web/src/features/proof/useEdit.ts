/** One operation by hand: sent, kept as a revision, shown. */
import { api, ask, type CurrentDrawing, type Operation } from "@/api/client";
import { useDrawingChange } from "@/api/queries";
import { tellProblem } from "@/ui/notices";

export interface Editor {
  busy: boolean;
  edit: (operation: Operation, then?: () => void) => void;
}

export function useEdit(current: CurrentDrawing): Editor {
  const change = useDrawingChange((operation: Operation) =>
    ask(
      api.POST("/api/drawings/{drawing_id}/edit", {
        params: { path: { drawing_id: current.id } },
        body: { revision_id: current.revision_id, operation },
      }),
    ),
  );
  return {
    busy: change.isPending,
    edit: (operation, then) => change.mutate(operation, { onError: tellProblem, onSuccess: then }),
  };
}
