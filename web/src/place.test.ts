import { beforeAll, describe, expect, it, vi } from "vitest";

// The module listens to the address when it is loaded.
beforeAll(() => {
  vi.stubGlobal("window", {
    location: { hash: "" },
    history: { replaceState: () => undefined },
    addEventListener: () => undefined,
  });
});
const load = () => import("./place");

describe("place", () => {
  it("writes and reads every stage", async () => {
    const { formatPlace, parsePlace, STAGES } = await load();
    for (const stage of STAGES) {
      const place = { collectionId: 3, motifId: 14, sketchId: 159, stage };
      expect(parsePlace(formatPlace(place))).toEqual(place);
      const bare = { collectionId: null, motifId: null, sketchId: null, stage };
      expect(parsePlace(formatPlace(bare))).toEqual(bare);
    }
  });

  it.each(["", "#", "#/nowhere", "#/collection/x/motif/-1/ink/what", "#/collection//brief"])(
    "takes %j for the start",
    async (hash) => {
      const { parsePlace } = await load();
      expect(parsePlace(hash)).toMatchObject({ collectionId: null, motifId: null, stage: "brief" });
    },
  );

  it("forgets the sketch when another motif is chosen, but not when the same one is", async () => {
    const { goToMotif, goToSketch, usePlace } = await load();
    goToSketch(5, 50);
    goToMotif(5);
    expect(usePlace.getState().sketchId).toBe(50);
    goToMotif(6);
    expect(usePlace.getState()).toMatchObject({ motifId: 6, sketchId: null });
  });

  it("keeps the stage when another collection is chosen", async () => {
    const { goToCollection, goToStage, usePlace, stageTitle } = await load();
    goToStage("proof");
    goToCollection(9);
    expect(usePlace.getState()).toEqual({ collectionId: 9, motifId: null, sketchId: null, stage: "proof" });
    expect(stageTitle("proof")).toBe("Proof");
  });
});
