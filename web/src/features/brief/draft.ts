/** The brief being written: how it starts, how it is kept, how it becomes pictures. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api, ask, type BriefBody, type CollectionView } from "@/api/client";
import { ALL_RULES, briefBody, USUAL_STYLE } from "@/api/briefs";
import { keys } from "@/api/queries";
import { tellProblem } from "@/ui/notices";

export type Draft = BriefBody;

const SAVE_AFTER_MS = 600;
const TYPING_AFTER_MS = 2500;
export function startOf(view: CollectionView): Draft {
  if (view.brief) return briefBody(view.brief);
  return {
    subjects: view.motifs.map((motif) => motif.name).join("\n"),
    look: "silhouette",
    rules: ALL_RULES,
    style: USUAL_STYLE,
    edits: {},
    reference_id: null,
  };
}

/** Keep the brief a moment after the last change, or at once when asked. */
export function useSaveBrief(
  collectionId: number,
  draft: Draft,
  view: CollectionView,
  take: (kept: Draft) => void,
) {
  const client = useQueryClient();
  const saved = useRef(view.brief ? JSON.stringify(startOf(view)) : "");
  const mutation = useMutation({
    mutationFn: (body: Draft) =>
      ask(
        api.PUT("/api/collections/{collection_id}/brief", {
          params: { path: { collection_id: collectionId } },
          body,
        }),
      ),
    onSuccess: (next, body) => {
      saved.current = JSON.stringify(body);
      client.setQueryData(keys.collection(collectionId), next);
    },
    onError: tellProblem,
  });
  const { mutateAsync } = mutation;
  const text = JSON.stringify(draft);
  const dirty = text !== saved.current && draft.subjects.trim() !== "";
  const now = () => (dirty ? mutateAsync(draft) : Promise.resolve(null));
  const kept = view.brief ? JSON.stringify(startOf(view)) : "";
  useEffect(() => {
    // The kept brief changed elsewhere, when a motif was renamed: what has not been edited here follows.
    if (dirty || mutation.isPending || kept === saved.current || !kept) return;
    saved.current = kept;
    take(JSON.parse(kept) as Draft);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [kept]);
  useEffect(() => {
    if (!dirty) return;
    // Half-typed subjects must not become motifs, so only style and rules are kept while typing goes on.
    const typing = document.activeElement?.id === "subjects";
    const timer = setTimeout(
      () => void mutateAsync(draft).catch(() => undefined),
      typing ? TYPING_AFTER_MS : SAVE_AFTER_MS,
    );
    return () => clearTimeout(timer);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [text, dirty, mutateAsync]);
  return {
    now: () => void now().catch(() => undefined),
    settle: now,
    state: saveState(draft, mutation.isPending, dirty),
  };
}

function saveState(draft: Draft, saving: boolean, dirty: boolean): string {
  if (!draft.subjects.trim()) return "nothing written yet";
  if (saving) return "keeping …";
  return dirty ? "not kept yet" : "brief kept";
}
