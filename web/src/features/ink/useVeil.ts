/** The veil over a sketch: how far a trace with these settings departs from it. */
import { useQuery } from "@tanstack/react-query";
import { api, ask, type NamedYardstick, type TraceSettings } from "@/api/client";
import type { SeenSketch } from "@/api/queries";

export function useVeil(
  sketch: SeenSketch | null,
  settings: TraceSettings,
  yardstick: NamedYardstick,
  on: boolean,
) {
  return useQuery({
    queryKey: ["veil", sketch?.id, sketch?.picture_sha, settings, yardstick.yardstick],
    queryFn: () =>
      ask(
        api.POST("/api/sketches/{sketch_id}/veil", {
          params: { path: { sketch_id: sketch?.id ?? 0 } },
          body: settings,
        }),
      ),
    enabled: on && sketch !== null,
    staleTime: Infinity,
    placeholderData: (before) => before,
  }).data;
}
