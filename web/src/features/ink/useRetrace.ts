/** Re-tracing: while a knob is dragged only the newest settings are worth an answer. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, ask, Problem, type NamedYardstick, type TraceSettings } from "@/api/client";

const CLIENT = crypto.randomUUID();

/**
 * One request at a time: what was asked first is shown when it comes, then the newest settings are
 * asked for; those in between never leave the screen. The server drops older ones as well.
 */
export function useRetrace(sketchId: number | null, settings: TraceSettings, yardstick: NamedYardstick) {
  const [asked, setAsked] = useState(settings);
  const query = useQuery({
    queryKey: ["preview", sketchId, asked, yardstick.yardstick],
    queryFn: () =>
      ask(
        api.POST("/api/sketches/{sketch_id}/preview", {
          params: { path: { sketch_id: sketchId ?? 0 } },
          body: { settings: asked, client: CLIENT },
        }),
      ),
    enabled: sketchId !== null,
    placeholderData: (before, earlier) => (earlier?.queryKey[1] === sketchId ? before : undefined),
    staleTime: Infinity,
    gcTime: 60_000,
    retry: (count, error) => error instanceof Problem && error.code === "superseded" && count < 3,
    retryDelay: 50,
  });
  const newer = JSON.stringify(settings) !== JSON.stringify(asked);
  useEffect(() => {
    if (newer && !query.isFetching) setAsked(settings);
  }, [newer, query.isFetching, settings]);
  return { preview: query.data, error: query.error, isTracing: query.isFetching || newer };
}
