/** Re-tracing: while a knob is dragged only the newest settings are worth an answer. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import {
  Problem,
  type NamedYardstick,
  type PreviewPart,
  type TracePreview,
  type TraceSettings,
} from "@/api/client";
import { askLines } from "@/api/lines";
import type { SeenSketch } from "@/api/queries";

const CLIENT = crypto.randomUUID();

/**
 * One request at a time: what was asked first is shown when it comes, then the newest settings are
 * asked for; those in between never leave the screen. The server drops older ones as well. A trace
 * that takes its time is shown roughly first.
 */
export function useRetrace(sketch: SeenSketch | null, settings: TraceSettings, yardstick: NamedYardstick) {
  const [asked, setAsked] = useState(settings);
  const client = useQueryClient();
  const queryKey = ["preview", sketch?.id, asked, sketch?.picture_sha, yardstick.yardstick];
  const query = useQuery({
    queryKey,
    queryFn: async ({ signal }) => {
      let full: TracePreview | null = null;
      await askLines<PreviewPart>(
        `/api/sketches/${sketch?.id}/preview-parts`,
        { settings: asked, client: CLIENT },
        (part) => {
          if (part.message) throw new Problem(part.code ?? "http", part.message);
          if (part.rough) client.setQueryData(queryKey, part.trace);
          else full = part.trace ?? null;
        },
        signal,
      );
      if (!full) throw new Problem("http", "The trace did not come. Try again.");
      return full as TracePreview;
    },
    enabled: sketch !== null,
    placeholderData: (before, earlier) => (earlier?.queryKey[1] === sketch?.id ? before : undefined),
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
