/** Clean-up steps of a sketch: as the server keeps them, and how they are called. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { tellProblem } from "@/ui/notices";
import { api, ask, Problem, type Sketch } from "./client";
import { keys } from "./queries";

/** A step's kind, whether it is on, and the kind's own settings. */
export type CleanStep = { kind: string; on: boolean } & Record<string, unknown>;

export const STEP_WORDS: Record<string, string> = {
  crop: "Crop",
  "crop-to-subject": "Crop to the figure",
  turn: "Turn",
  "page-flat": "Lay the page flat",
  flip: "Mirror",
  enlarge: "Enlarge",
  "even-light": "Even out the light",
  levels: "Stretch the tones",
  "black-and-white": "Black and white",
  invert: "Swap light and dark",
  "smooth-noise": "Smooth the noise",
  "remove-ground": "Make the ground white",
  despeckle: "Take specks away",
  "wipe-box": "Wipe out the mark",
  brush: "Rub out by hand",
};

export const stepWords = (kind: string) => STEP_WORDS[kind] ?? kind;

/** What a new step begins with, in the order in which steps are offered. */
export const NEW_STEPS: CleanStep[] = [
  { kind: "crop-to-subject", on: true, margin: 0.08 },
  { kind: "turn", on: true, angle_deg: 90 },
  { kind: "page-flat", on: true },
  { kind: "flip", on: true },
  { kind: "even-light", on: true },
  { kind: "levels", on: true, black: 30, white: 225 },
  { kind: "black-and-white", on: true, level: null },
  { kind: "invert", on: true },
  { kind: "smooth-noise", on: true, strength: 12 },
  { kind: "remove-ground", on: true, tolerance: 24 },
  { kind: "despeckle", on: true, area_px2: 40 },
  { kind: "enlarge", on: true, factor: 2 },
];

export const stepsOf = (sketch: Sketch): CleanStep[] => (sketch.clean_steps ?? []) as CleanStep[];

/** Set a sketch's steps. While a knob is dragged only the newest answer counts. */
export function useCleaning() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ id, steps }: { id: number; steps: CleanStep[] }) =>
      ask(
        api.PUT("/api/sketches/{sketch_id}/cleaning", {
          params: { path: { sketch_id: id } },
          body: { steps },
        }),
      ),
    onSuccess: (changed) => {
      client.setQueryData<Sketch[]>(keys.sketches(changed.motif_id), (before) =>
        before?.map((each) => (each.id === changed.id ? changed : each)),
      );
      void client.invalidateQueries({ queryKey: ["collection"] });
    },
    onError: (error) => {
      if (!(error instanceof Problem && error.code === "superseded")) tellProblem(error);
    },
  });
}

/** Return a picture of what steps would make of a sketch, at the size of a screen; null if a newer one was asked for. */
export async function previewCleaning(id: number, steps: CleanStep[]): Promise<Blob | null> {
  try {
    return await ask(
      api.POST("/api/sketches/{sketch_id}/cleaning/preview", {
        params: { path: { sketch_id: id } },
        body: { steps },
        parseAs: "blob",
      }),
    );
  } catch (error) {
    if (error instanceof Problem && error.code === "superseded") return null;
    throw error;
  }
}
