/** Pictures by button, drop and paste: for the chosen motif, or each for one of its own. */
import { useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect, useState, type DragEvent } from "react";
import { api, ask, type CollectionView, type Motif } from "@/api/client";
import { goToMotif, goToStage } from "@/place";
import { tellProblem } from "@/ui/notices";
import { letWait, needsQuestion, sendAll } from "./bringing";

export const PICTURE_TYPES = "image/png,image/jpeg,image/webp,image/bmp,image/tiff,image/gif";

const KEPT_TRIES = 100;
const KEPT_EACH_MS = 50;

export function useBringIn(view: CollectionView | undefined, motif: Motif | null, isOnSketch: boolean) {
  const oneEach = useOneEach(view);
  return (files: File[]) => {
    if (!view || files.length === 0) return;
    if (needsQuestion(files.length, motif, isOnSketch)) letWait(files);
    else if (motif) void sendAll(files.map((file) => ({ motifId: motif.id, file })));
    else void oneEach(files);
  };
}

/** Sends each file to the motif of its name; motifs that are missing are added. */
export function useOneEach(view: CollectionView | undefined) {
  const client = useQueryClient();
  return async (files: File[]) => {
    if (!view) return;
    try {
      // A brief that is just being kept would take out motifs that nothing was made of yet.
      goToStage("sketch");
      await allKept(client);
      const found = await fileMotifs(view.collection.id, files, { create: true });
      await client.invalidateQueries({ queryKey: ["collection"] });
      const first = found[0]?.motif_id;
      if (first != null) goToMotif(first);
      await sendAll(
        found.flatMap(({ motif_id }, index) => {
          const file = files[index];
          return motif_id === null || !file ? [] : [{ motifId: motif_id, file }];
        }),
      );
    } catch (error) {
      tellProblem(error);
    }
  };
}

/** Wait for what is on its way to be kept, but not for ever. */
async function allKept(client: QueryClient): Promise<void> {
  for (let tries = 0; tries < KEPT_TRIES && client.isMutating() > 0; tries += 1)
    await new Promise((done) => setTimeout(done, KEPT_EACH_MS));
}

/** The motif of each file's name, in their order. */
export function fileMotifs(collectionId: number, files: File[], { create }: { create: boolean }) {
  return ask(
    api.POST("/api/collections/{collection_id}/file-motifs", {
      params: { path: { collection_id: collectionId } },
      body: { file_names: files.map((file) => file.name), create },
    }),
  );
}

/** Files that are let go of over the app, or pasted into it. */
export function useDrops(bring: (files: File[]) => void) {
  const [over, setOver] = useState(false);
  useEffect(() => {
    const paste = (event: ClipboardEvent) => {
      const files = [...(event.clipboardData?.files ?? [])];
      if (!files.length) return;
      event.preventDefault();
      bring(files);
    };
    window.addEventListener("paste", paste);
    return () => window.removeEventListener("paste", paste);
  });
  const holdsFiles = (event: DragEvent) => event.dataTransfer.types.includes("Files");
  return {
    over,
    zone: {
      onDragOver: (event: DragEvent) => {
        if (!holdsFiles(event)) return;
        event.preventDefault();
        setOver(true);
      },
      onDragLeave: (event: DragEvent) => {
        if (!event.currentTarget.contains(event.relatedTarget as Node | null)) setOver(false);
      },
      onDrop: (event: DragEvent) => {
        if (!holdsFiles(event)) return;
        event.preventDefault();
        setOver(false);
        bring([...event.dataTransfer.files]);
      },
    },
  };
}
