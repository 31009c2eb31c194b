/** The motifs of the collection as a vertical run, each with six ticks for how far it has come. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, ask, pictureUrl, type CollectionView, type Motif, type MotifVerdict } from "@/api/client";
import { useVerdicts } from "@/api/queries";
import { useAction } from "@/keys/useAction";
import { goToMotif, STAGES, usePlace } from "@/place";
import { plural } from "@/ui/format";
import { RenamePanel } from "@/ui/RenamePanel";

export function SetRail({ view }: { view?: CollectionView }) {
  const [renaming, setRenaming] = useState<Motif | null>(null);
  const rename = useRenameMotif(renaming);
  const motifId = usePlace((place) => place.motifId);
  const verdicts = useVerdicts(view?.collection.id ?? null, view?.yardstick).data;
  const chosen = view?.motifs.find((motif) => motif.id === motifId) ?? null;
  useAction("rename-motif", chosen && (() => setRenaming(chosen)));
  return (
    <nav aria-label="Motifs" className="row-span-1 min-h-0 overflow-y-auto border-r border-hair py-2.5">
      {view?.motifs.map((motif) => (
        <RailMotif
          key={motif.id}
          motif={motif}
          on={motif.id === motifId}
          onRename={() => setRenaming(motif)}
          verdict={verdicts?.find((verdict) => verdict.motif_id === motif.id)}
        />
      ))}
      {view?.motifs.length === 0 && (
        <p className="px-3.5 text-pencil">
          No motifs yet. Write subjects in Brief, or drop pictures here: each becomes one.
        </p>
      )}
      {renaming && (
        <RenamePanel
          key={renaming.id}
          title="Rename the motif"
          name={renaming.name}
          onClose={() => setRenaming(null)}
          onKeep={rename.mutateAsync}
        />
      )}
    </nav>
  );
}

function useRenameMotif(motif: Motif | null) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (name: string) =>
      ask(
        api.PATCH("/api/motifs/{motif_id}", {
          params: { path: { motif_id: motif?.id ?? 0 } },
          body: { name },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["collection"] }),
  });
}

interface RailProps {
  motif: Motif;
  on: boolean;
  verdict?: MotifVerdict;
  onRename: () => void;
}

function RailMotif({ motif, on, verdict, onRename }: RailProps) {
  const findings = verdict?.finding_count ?? undefined;
  const broken = Boolean(verdict?.problem);
  const element = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (on) element.current?.scrollIntoView({ block: "nearest" });
  }, [on]);
  const done = [
    true,
    motif.kept_count > 0,
    motif.tracing_count > 0,
    findings === 0,
    motif.ticket_count > 0,
    motif.pack_count > 0,
  ];
  const toMend = broken || (findings !== undefined && findings > 0);
  const state = broken
    ? "cannot be shown"
    : toMend && findings !== undefined
      ? plural(findings, "finding")
      : plural(done.filter(Boolean).length, "stage") + " done";
  return (
    <button
      ref={element}
      type="button"
      aria-current={on ? "true" : undefined}
      aria-label={`${motif.name}: ${state}`}
      title={`${motif.name}: ${state}. Double-click or F2 to rename it.`}
      onClick={() => goToMotif(motif.id)}
      onDoubleClick={onRename}
      className={`block w-full px-3.5 pt-1.5 pb-2 text-left ${on ? "bg-sheet shadow-[inset_3px_0_var(--color-blue-pencil)]" : "hover:bg-sheet"}`}
    >
      <Thumb motif={motif} />
      <span className="mt-0.5 flex items-center justify-between text-sm">
        <span className="truncate">{motif.name}</span>
        <span className="flex gap-[3px]" aria-hidden>
          {STAGES.map((stage, index) => {
            const red = stage === "proof" && toMend;
            const look = red
              ? "-mt-0.5 h-3 bg-red-pencil"
              : done[index]
                ? "h-[9px] bg-graphite"
                : "h-[9px] bg-hair";
            return <i key={stage} className={`w-0.5 ${look}`} />;
          })}
        </span>
      </span>
    </button>
  );
}

function Thumb({ motif }: { motif: Motif }) {
  return (
    <span className="grid h-16 w-28 place-items-center overflow-hidden">
      {motif.thumb_sha ? (
        <img src={pictureUrl(motif.thumb_sha)} alt="" className="max-h-16 max-w-28 object-contain on-paper" />
      ) : (
        <span className="size-9 rounded-full border border-dashed border-pencil" />
      )}
    </span>
  );
}
