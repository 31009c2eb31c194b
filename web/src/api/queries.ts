/** What the server knows that more than one stage needs: keys in one place, hooks that read and change it. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, type KeptDrawing, type NamedYardstick, type Sketch } from "./client";

/** A sketch as it looks now: clean-up changes the picture, not the sketch. */
export type SeenSketch = Pick<Sketch, "id" | "picture_sha">;

export const keys = {
  scene: ["scene"] as const,
  yardsticks: ["yardsticks"] as const,
  collections: ["collections"] as const,
  collection: (id: number) => ["collection", id] as const,
  verdicts: (id: number, yardstick?: NamedYardstick) => ["verdicts", id, yardstick?.yardstick] as const,
  sketches: (motifId: number) => ["sketches", motifId] as const,
  forecast: (sketch: SeenSketch | null, yardstick?: NamedYardstick) =>
    ["forecast", sketch?.id ?? 0, sketch?.picture_sha, yardstick?.yardstick] as const,
  drawing: (motifId: number, yardstick?: NamedYardstick) =>
    ["drawing", motifId, yardstick?.yardstick] as const,
  tickets: (motifId: number) => ["tickets", motifId] as const,
  packs: (collectionId: number) => ["packs", collectionId] as const,
  jobs: ["jobs"] as const,
  undone: ["jobs", "undone"] as const,
  uploads: (motifId: number) => ["uploads", motifId] as const,
  hand: (sketchId: number) => ["hand", sketchId] as const,
  briefs: (collectionId: number) => ["briefs", collectionId] as const,
  generator: ["generator"] as const,
  chains: ["chains"] as const,
};

export function useScene() {
  return useQuery({ queryKey: keys.scene, queryFn: () => ask(api.GET("/api/scene")), staleTime: Infinity });
}

export function useCollections() {
  return useQuery({ queryKey: keys.collections, queryFn: () => ask(api.GET("/api/collections")) });
}

export function useCollection(id: number | null) {
  return useQuery({
    queryKey: keys.collection(id ?? 0),
    queryFn: () =>
      ask(api.GET("/api/collections/{collection_id}", { params: { path: { collection_id: id ?? 0 } } })),
    enabled: id !== null,
  });
}

export function useVerdicts(id: number | null, yardstick?: NamedYardstick) {
  return useQuery({
    queryKey: keys.verdicts(id ?? 0, yardstick),
    queryFn: () =>
      ask(
        api.GET("/api/collections/{collection_id}/verdicts", {
          params: { path: { collection_id: id ?? 0 } },
        }),
      ),
    enabled: id !== null && yardstick !== undefined,
    placeholderData: (before) => before,
  });
}

/** The sketches of a motif, for a hook of one or of several. */
export const sketchesQuery = (motifId: number) => ({
  queryKey: keys.sketches(motifId),
  queryFn: () => ask(api.GET("/api/motifs/{motif_id}/sketches", { params: { path: { motif_id: motifId } } })),
});

export function useSketches(motifId: number | null) {
  return useQuery({ ...sketchesQuery(motifId ?? 0), enabled: motifId !== null });
}

let turn: Promise<unknown> = Promise.resolve();

/** One forecast at a time: a browser has few connections to a server, and pictures need them too. */
function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const mine = turn.then(work, work);
  turn = mine.catch(() => undefined);
  return mine;
}

export function useForecast(sketch: SeenSketch | null, yardstick?: NamedYardstick) {
  return useQuery({
    queryKey: keys.forecast(sketch, yardstick),
    queryFn: ({ signal }) =>
      inTurn(() =>
        ask(
          api.GET("/api/sketches/{sketch_id}/forecast", {
            params: { path: { sketch_id: sketch?.id ?? 0 } },
            signal,
          }),
        ),
      ),
    enabled: sketch !== null && yardstick !== undefined,
    staleTime: Infinity,
  });
}

/** The motif's drawing judged by the yardstick, or null when it has none yet. */
export function useDrawing(motifId: number | null, hasDrawing: boolean, yardstick?: NamedYardstick) {
  return useQuery({
    queryKey: keys.drawing(motifId ?? 0, yardstick),
    queryFn: () =>
      ask(api.GET("/api/motifs/{motif_id}/drawing", { params: { path: { motif_id: motifId ?? 0 } } })),
    enabled: motifId !== null && hasDrawing && yardstick !== undefined,
    placeholderData: (before) => (before?.motif_id === motifId ? before : undefined),
  });
}

/** Change a drawing on the server and show the new revision at once; those of one queue go one after the other. */
export function useDrawingChange<Args>(change: (args: Args) => Promise<KeptDrawing>, queue?: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    ...(queue && { scope: { id: queue } }),
    onSuccess: (drawing) => {
      client.setQueriesData<KeptDrawing>({ queryKey: ["drawing", drawing.motif_id] }, drawing);
      void client.invalidateQueries({ queryKey: ["verdicts"] });
      void client.invalidateQueries({ queryKey: ["collection"] });
    },
  });
}
