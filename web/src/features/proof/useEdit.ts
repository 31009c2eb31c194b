/** Operations by hand: sent one after the other, kept as revisions, shown. */
import { useQueryClient } from "@tanstack/react-query";
import { api, ask, type CurrentDrawing, type KeptDrawing, type Operation } from "@/api/client";
import { useDrawingChange } from "@/api/queries";
import { tellProblem } from "@/ui/notices";

export interface Editor {
  busy: boolean;
  edit: (operation: Operation, then?: (made: KeptDrawing) => void, failed?: () => void) => void;
}

export function useEdit(current: CurrentDrawing): Editor {
  const client = useQueryClient();
  const change = useDrawingChange(
    async ({ operation, failed }: { operation: Operation; failed?: () => void }) => {
      // An operation that had to wait is done on what the one before it made.
      const known = client.getQueriesData<CurrentDrawing>({ queryKey: ["drawing", current.motif_id] });
      const latest = known.map(([, drawing]) => drawing).find((drawing) => drawing?.id === current.id);
      try {
        return await ask(
          api.POST("/api/drawings/{drawing_id}/edit", {
            params: { path: { drawing_id: current.id } },
            body: { revision_id: latest?.revision_id ?? current.revision_id, operation },
          }),
        );
      } catch (problem) {
        tellProblem(problem);
        failed?.();
        throw problem;
      }
    },
    `edit-${current.id}`,
  );
  return {
    busy: change.isPending,
    edit: (operation, then, failed) => change.mutate({ operation, failed }, { onSuccess: then }),
  };
}
