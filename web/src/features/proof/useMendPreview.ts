/** What a mend would change, asked for when a finding is chosen and kept for as long as the revision is. */
import { useQuery } from "@tanstack/react-query";
import { api, ask, type CurrentDrawing, type MendPreview } from "@/api/client";
import type { MendOrder } from "./useProofActions";

export function useMendPreview(current: CurrentDrawing, order: MendOrder | null): MendPreview | null {
  const query = useQuery({
    queryKey: ["mend-preview", current.id, current.revision_id, current.drawing.mm_per_px, order],
    queryFn: ({ signal }) =>
      ask(
        api.POST("/api/drawings/{drawing_id}/mend/preview", {
          params: { path: { drawing_id: current.id } },
          body: { revision_id: current.revision_id, ...order! },
          signal,
        }),
      ),
    enabled: order !== null,
    staleTime: Infinity,
    retry: false,
  });
  return order === null ? null : (query.data ?? null);
}
