/** The veil in Proof: how far the drawing as it is now departs from its sketch, or from the revision looked at. */
import { useQuery } from "@tanstack/react-query";
import { api, ask, type CurrentDrawing } from "@/api/client";

export function useDrawingVeil(current: CurrentDrawing, revision: number | null, on: boolean) {
  return useQuery({
    queryKey: ["drawing-veil", current.id, current.revision_id, revision, current.drawing.mm_per_px],
    queryFn: () =>
      ask(
        api.GET("/api/drawings/{drawing_id}/veil", {
          params: { path: { drawing_id: current.id }, query: { revision } },
        }),
      ),
    enabled: on && (revision !== null || current.picture_sha !== null),
    staleTime: Infinity,
    placeholderData: (before) => before,
  }).data;
}
