/** Every state the drawing was in: looked at in place, named, brought back. Nothing is ever lost. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type CurrentDrawing } from "@/api/client";
import { useDrawingChange } from "@/api/queries";
import { NameForm } from "@/ui/NameForm";
import { tellProblem } from "@/ui/notices";
import { Section } from "@/ui/Section";

interface Props {
  current: CurrentDrawing;
  lookedAt: number | null;
  onLookAt: (revision: number | null) => void;
}

export function useRevision(current: CurrentDrawing, revision: number | null) {
  return useQuery({
    queryKey: ["revision", current.id, revision, current.drawing.mm_per_px],
    queryFn: () =>
      ask(
        api.GET("/api/drawings/{drawing_id}/revisions/{revision_id}", {
          params: { path: { drawing_id: current.id, revision_id: revision! } },
        }),
      ),
    enabled: revision !== null,
    staleTime: Infinity,
  }).data;
}

export function HistoryPanel({ current, lookedAt, onLookAt }: Props) {
  const client = useQueryClient();
  const path = { drawing_id: current.id };
  const [naming, setNaming] = useState<number | null>(null);
  const list = useQuery({
    queryKey: ["revisions", current.id, current.revision_id],
    queryFn: () => ask(api.GET("/api/drawings/{drawing_id}/revisions", { params: { path } })),
    placeholderData: (before) => before,
  }).data;
  const name = useMutation({
    mutationFn: ({ id, text }: { id: number; text: string }) =>
      ask(
        api.PUT("/api/drawings/{drawing_id}/revisions/{revision_id}/name", {
          params: { path: { ...path, revision_id: id } },
          body: { name: text },
        }),
      ),
    onSuccess: () => (setNaming(null), client.invalidateQueries({ queryKey: ["revisions"] })),
    onError: tellProblem,
  });
  const back = useDrawingChange((revision_id: number) =>
    ask(api.POST("/api/drawings/{drawing_id}/bring-back", { params: { path }, body: { revision_id } })),
  );
  return (
    <Section title="Revisions" aside={<span className="num text-pencil">{list?.length ?? ""}</span>}>
      <p className="mb-1.5 text-sm text-pencil">
        Look at one and it lies over the drawing in blue; the divider and fade compare them too.
      </p>
      <ol className="max-h-[360px] overflow-y-auto border-t border-hair">
        {list?.map((revision) => (
          <li key={revision.id} className="border-b border-hair py-1">
            <div className="flex items-baseline gap-2">
              <span className="num text-pencil">{revision.id}</span>
              <span className={`grow ${revision.head ? "font-semibold" : ""}`}>
                {revision.name || revision.note}
              </span>
              {revision.head && <span className="text-sm text-leaf">now</span>}
            </div>
            <div className="flex gap-3 text-sm">
              {!revision.head && (
                <>
                  <button
                    type="button"
                    className="link"
                    aria-pressed={lookedAt === revision.id}
                    onClick={() => onLookAt(lookedAt === revision.id ? null : revision.id)}
                  >
                    {lookedAt === revision.id ? "stop looking" : "look at it"}
                  </button>
                  <button
                    type="button"
                    className="link"
                    disabled={back.isPending}
                    onClick={() =>
                      back.mutate(revision.id, { onError: tellProblem, onSuccess: () => onLookAt(null) })
                    }
                  >
                    bring it back
                  </button>
                </>
              )}
              <button
                type="button"
                className="link"
                onClick={() => setNaming(naming === revision.id ? null : revision.id)}
              >
                name it
              </button>
            </div>
            {naming === revision.id && (
              <NameForm
                autoFocus
                label="Name of the revision"
                placeholder={revision.name || "what it is"}
                busy={name.isPending}
                onKeep={(text) => name.mutateAsync({ id: revision.id, text })}
              />
            )}
          </li>
        ))}
      </ol>
    </Section>
  );
}
