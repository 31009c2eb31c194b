/** What is sold or handed over: drawings in every open format, listing text, declaration. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type CollectionView, type Motif } from "@/api/client";
import { isUnderWay, useJobs } from "@/api/events";
import { keys, useScene, useVerdicts } from "@/api/queries";
import { Button } from "@/ui/Button";
import { NumberField, TextArea, TextField } from "@/ui/Field";
import { plural } from "@/ui/format";
import { tellProblem } from "@/ui/notices";
import { Readings } from "@/ui/Readings";
import { Section } from "@/ui/Section";
import { StageFrame } from "@/ui/StageFrame";
import { TapeSegment, Verdict } from "@/ui/Tape";
import { Segments } from "@/ui/Segments";
import { listingChecks } from "./checks";
import { PackList } from "./PackList";
import { PackMotifs } from "./PackMotifs";

interface Draft {
  title: string;
  description: string;
  keywords: string;
  licence: string;
  widthMm: number;
  /** Whether a generator made the pictures that do not say so themselves; null while nobody told. */
  machineMade: boolean | null;
}

export function PackStage({ view, motif }: { view: CollectionView; motif: Motif | null }) {
  const scene = useScene().data;
  const drawn = view.motifs.filter((each) => each.drawing_id !== null);
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  const chosen = drawn.filter((each) => !left.has(each.id));
  const [draft, setDraft] = useState<Draft>({
    title: `${view.collection.name} clipart`,
    description: "",
    keywords: "",
    licence: "",
    widthMm: 200,
    machineMade: null,
  });
  const licence = draft.licence || (scene?.licence ?? "");
  const put = (change: Partial<Draft>) => setDraft({ ...draft, ...change });
  const verdicts = useVerdicts(view.collection.id, view.yardstick).data ?? [];
  const toMend = chosen.filter((each) => {
    const verdict = verdicts.find((v) => v.motif_id === each.id);
    return Boolean(verdict?.problem) || (verdict?.finding_count ?? 0) > 0;
  }).length;
  const packs = useQuery({
    queryKey: keys.packs(view.collection.id),
    queryFn: () =>
      ask(
        api.GET("/api/collections/{collection_id}/packs", {
          params: { path: { collection_id: view.collection.id } },
        }),
      ),
  }).data;
  const keywords = draft.keywords
    .split(",")
    .map((word) => word.trim())
    .filter(Boolean);
  const make = useMakePack(view, chosen, { ...draft, licence }, keywords);
  const checks = listingChecks({
    title: draft.title,
    description: draft.description,
    keywords,
    licence,
    motifCount: chosen.length,
  });
  const open = checks.filter((check) => check.state !== "pass").length;

  return (
    <StageFrame
      side={
        <>
          <Section title="Pack">
            <p className="mb-2.5">
              {plural(chosen.length, "motif")} × SVG, EPS, PDF, DXF, PNG and JPEG, with a listing that says
              how it was made.
            </p>
            <Button kind="ink" disabled={!chosen.length || make.isPending} onClick={make.mutate}>
              {make.isPending ? "Packing …" : "Write the pack"}
            </Button>
          </Section>
          <Section title="Listing check">
            <Readings rows={checks} />
          </Section>
          <PackList packs={packs ?? []} />
        </>
      }
      tape={
        <>
          <Verdict tone={make.isPending ? "plain" : open ? "ochre" : "leaf"}>
            {make.isPending ? "packing …" : open ? `${open} to look at` : "ready to pack"}
          </Verdict>
          <TapeSegment>
            in the pack{" "}
            <span className="num">
              {chosen.length} of {view.motifs.length}
            </span>
          </TapeSegment>
          {toMend > 0 && (
            <TapeSegment red>
              with findings <span className="num text-red-pencil">{toMend}</span>
            </TapeSegment>
          )}
          <TapeSegment>
            files <span className="num">{chosen.length ? chosen.length * 6 + 1 : 0}</span>
          </TapeSegment>
          <TapeSegment>
            packs written <span className="num">{packs?.length ?? 0}</span>
          </TapeSegment>
        </>
      }
    >
      <div className="grid h-full grid-cols-[minmax(0,1fr)_340px] gap-6 px-5 pt-4">
        <PackMotifs
          motifs={view.motifs}
          currentId={motif?.id ?? null}
          verdicts={verdicts}
          left={left}
          onChange={setLeft}
        />
        <section aria-label="Listing" className="min-h-0 overflow-y-auto pb-4">
          <h2 className="text-xl">Listing</h2>
          <p className="mb-2 text-pencil">What a buyer reads.</p>
          <div className="flex flex-col gap-2">
            <TextField
              label="Title"
              value={draft.title}
              maxLength={200}
              onChange={(event) => put({ title: event.target.value })}
            />
            <TextArea
              label="Description"
              rows={4}
              value={draft.description}
              maxLength={5000}
              onChange={(event) => put({ description: event.target.value })}
            />
            <TextArea
              label="Keywords, separated by commas"
              rows={2}
              value={draft.keywords}
              onChange={(event) => put({ keywords: event.target.value })}
            />
            <TextArea
              label="Licence"
              rows={3}
              value={licence}
              maxLength={1000}
              onChange={(event) => put({ licence: event.target.value })}
            />
            <NumberField
              label="Width of each figure"
              unit="mm"
              value={draft.widthMm}
              onDone={(widthMm) => put({ widthMm })}
            />
            <p className="text-pencil">
              How a sketch came about travels in its file: those from the studio declare themselves. Of
              pictures whose file says nothing:
            </p>
            <Segments
              label="How pictures came about that do not say so"
              value={draft.machineMade === null ? "" : draft.machineMade ? "machine" : "hand"}
              segments={[
                { value: "hand", label: "drawn by hand" },
                { value: "machine", label: "by a generator" },
              ]}
              onChange={(value) => put({ machineMade: value === "machine" })}
            />
          </div>
        </section>
      </div>
    </StageFrame>
  );
}

function useMakePack(view: CollectionView, chosen: Motif[], draft: Draft, keywords: string[]) {
  const jobs = useJobs().data ?? [];
  const busy = jobs.some(
    (job) => isUnderWay(job) && job.kind === "pack" && job.params.collection_id === view.collection.id,
  );
  const make = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/collections/{collection_id}/packs", {
          params: { path: { collection_id: view.collection.id } },
          body: {
            motif_ids: chosen.map((each) => each.id),
            title: draft.title,
            description: draft.description,
            keywords,
            licence: draft.licence,
            width_mm: draft.widthMm,
            machine_made: draft.machineMade,
          },
        }),
      ),
    onError: tellProblem,
  });
  return { mutate: () => make.mutate(), isPending: make.isPending || busy };
}
