/** What is done to sketches: draw, keep, make the reference, note where they came from. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, ask, Problem, type CollectionView, type Look, type Motif, type Sketch } from "@/api/client";
import { briefBody } from "@/api/briefs";
import { keys } from "@/api/queries";
import { tellDone, tellProblem } from "@/ui/notices";

export interface DrawWish {
  look?: Look;
  parent?: Sketch;
  reach?: "near" | "far";
  reference?: Sketch;
  confirmed?: boolean;
}

/** Draw four. A generator that spends something asks first: its question is the error's message. */
export function useDraw(motif: Motif | null) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (wish: DrawWish) =>
      ask(
        api.POST("/api/motifs/{motif_id}/draw", {
          params: { path: { motif_id: motif?.id ?? 0 } },
          body: {
            look: wish.look ?? null,
            count: 4,
            parent_id: wish.parent?.id ?? null,
            reach: wish.reach ?? null,
            reference_id: wish.reference?.id ?? null,
            confirmed: wish.confirmed ?? false,
          },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.generator }),
    onError: (error) => {
      if (!(error instanceof Problem && error.code === "conflict")) tellProblem(error);
    },
  });
}

export function useKeep() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ sketch, kept }: { sketch: Sketch; kept: boolean }) =>
      ask(
        api.PATCH("/api/sketches/{sketch_id}", {
          params: { path: { sketch_id: sketch.id } },
          body: { kept },
        }),
      ),
    onSuccess: (sketch) => {
      void client.invalidateQueries({ queryKey: keys.sketches(sketch.motif_id) });
      void client.invalidateQueries({ queryKey: ["collection"] });
    },
    onError: tellProblem,
  });
}

/** The whole set follows this sketch's hand from now on. */
export function useReference(view: CollectionView) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (sketch: Sketch) => {
      const brief = view.brief;
      if (!brief) throw new Error("Write a brief first: the reference belongs to it.");
      return ask(
        api.PUT("/api/collections/{collection_id}/brief", {
          params: { path: { collection_id: view.collection.id } },
          body: { ...briefBody(brief), reference_id: sketch.id },
        }),
      );
    },
    onSuccess: (next) => {
      client.setQueryData(keys.collection(view.collection.id), next);
      tellDone("The set follows this sketch's hand: line weight, corners, detail and colours.");
    },
    onError: tellProblem,
  });
}

export function useOrigin() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ sketch, ...body }: { sketch: Sketch; machine_made: boolean; licence: string }) =>
      ask(api.PUT("/api/sketches/{sketch_id}/origin", { params: { path: { sketch_id: sketch.id } }, body })),
    onSuccess: (sketch) => client.invalidateQueries({ queryKey: keys.sketches(sketch.motif_id) }),
    onError: tellProblem,
  });
}
