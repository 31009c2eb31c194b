/** What to draw: subjects, house style, rules, and the wording that comes of it. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, ask, type CollectionView, type Look, type Motif } from "@/api/client";
import { LOOKS } from "@/api/looks";
import { keys, useScene } from "@/api/queries";
import { goToMotif, goToStage } from "@/place";
import { Button } from "@/ui/Button";
import { plural } from "@/ui/format";
import { tellDone, tellProblem } from "@/ui/notices";
import { Section } from "@/ui/Section";
import { Segments } from "@/ui/Segments";
import { StageFrame } from "@/ui/StageFrame";
import { TapeKeys, TapeSegment, Verdict } from "@/ui/Tape";
import { Tick } from "@/ui/Tick";
import { WordingList } from "./WordingList";

const PICTURES_EACH = 4;
const SAVE_AFTER_MS = 600;
interface Draft {
  subjects: string;
  look: Look;
  rules: string[];
}

export function BriefStage({ view }: { view: CollectionView; motif: Motif | null }) {
  const scene = useScene().data;
  const collectionId = view.collection.id;
  const [draft, setDraft] = useState<Draft>(() => startOf(view));
  const save = useSaveBrief(collectionId, draft, view);
  const wording = useQuery({
    queryKey: ["wording", draft],
    queryFn: () => ask(api.POST("/api/wording", { body: draft })),
    placeholderData: (before) => before,
  });
  const lines = wording.data ?? [];
  const missing = lines.filter((line) => !line.drawable);
  const put = (change: Partial<Draft>) => setDraft({ ...draft, ...change });
  const draw = useDrawAll(collectionId, draft, save);
  const pictures = (lines.length - missing.length) * PICTURES_EACH;

  return (
    <StageFrame
      side={
        <>
          <Section title="House style">
            <Segments label="Look" value={draft.look} segments={LOOKS} onChange={(look) => put({ look })} />
          </Section>
          <Section title="Rules">
            {scene?.rules.map((rule) => (
              <Tick
                key={rule.key}
                checked={draft.rules.includes(rule.key)}
                onChange={(on) =>
                  put({
                    rules: on ? [...draft.rules, rule.key] : draft.rules.filter((key) => key !== rule.key),
                  })
                }
              >
                {rule.sentence}
              </Tick>
            ))}
          </Section>
          <Section title="This run">
            <p className="mb-2.5">
              {plural(lines.length - missing.length, "subject")} × {PICTURES_EACH} ={" "}
              {plural(pictures, "sketch", "sketches")} by the stand-in studio.
            </p>
            <Button kind="ink" disabled={pictures === 0 || draw.isPending} onClick={() => draw.mutate()}>
              Draw the sketches
            </Button>
          </Section>
        </>
      }
      tape={
        <>
          <Verdict tone={lines.length ? "graphite" : "plain"}>{plural(lines.length, "subject")}</Verdict>
          <TapeSegment>
            sketches in this run <span className="num">{pictures}</span>
          </TapeSegment>
          {missing.length > 0 && (
            <TapeSegment red>
              not for the stand-in <span className="num text-red-pencil">{missing.length}</span>
            </TapeSegment>
          )}
          <TapeSegment>{save.state}</TapeSegment>
          <TapeKeys>
            <span>2 Sketch</span>
            <span>? keys</span>
          </TapeKeys>
        </>
      }
    >
      <div className="grid h-full grid-cols-[260px_minmax(0,1fr)] gap-6 px-5 pt-4">
        <SubjectsSheet value={draft.subjects} onChange={(subjects) => put({ subjects })} onLeave={save.now} />
        <WordingList
          lines={lines}
          onOpen={(subject) => {
            const motif = view.motifs.find((each) => each.name.toLowerCase() === subject.toLowerCase());
            if (!motif) return;
            goToMotif(motif.id);
            goToStage("sketch");
          }}
        />
      </div>
    </StageFrame>
  );
}

function SubjectsSheet({
  value,
  onChange,
  onLeave,
}: {
  value: string;
  onChange: (text: string) => void;
  onLeave: () => void;
}) {
  return (
    <div className="flex min-h-0 flex-col pb-4">
      <label htmlFor="subjects" className="font-head text-xl font-semibold">
        Subjects
      </label>
      <p className="mb-2 text-pencil">One a line. Each becomes a motif.</p>
      <textarea
        id="subjects"
        value={value}
        spellCheck={false}
        onChange={(event) => onChange(event.target.value)}
        onBlur={onLeave}
        placeholder={"Snail\nWatering can\nBean pod"}
        className="grow resize-none border border-hair bg-sheet bg-[linear-gradient(transparent_27px,var(--color-blue-line)_27px)] bg-[length:100%_28px] bg-local px-3 text-[15px] leading-[28px] hover:border-graphite"
      />
    </div>
  );
}

function startOf(view: CollectionView): Draft {
  if (view.brief)
    return { subjects: view.brief.subjects, look: view.brief.look as Look, rules: [...view.brief.rules] };
  return {
    subjects: view.motifs.map((motif) => motif.name).join("\n"),
    look: "silhouette",
    rules: ["white-ground", "dark-figure", "margin", "even-lines", "flat-tone", "one-figure", "one-piece"],
  };
}

/** Keep the brief a moment after the last change, or at once when asked. */
function useSaveBrief(collectionId: number, draft: Draft, view: CollectionView) {
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
  useEffect(() => {
    if (!dirty) return;
    // Half-typed subjects must not become motifs, so only style and rules are kept while typing goes on.
    const typing = document.activeElement?.id === "subjects";
    const timer = setTimeout(
      () => void mutateAsync(draft).catch(() => undefined),
      typing ? 2500 : SAVE_AFTER_MS,
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

function useDrawAll(
  collectionId: number,
  draft: Draft,
  save: { settle: () => Promise<CollectionView | null> },
) {
  const client = useQueryClient();
  const scene = useScene().data;
  return useMutation({
    mutationFn: async () => {
      const view =
        (await save.settle()) ?? client.getQueryData<CollectionView>(keys.collection(collectionId));
      const wanted = new Set(draft.subjects.split("\n").map((line) => line.trim().toLowerCase()));
      const known = new Set(scene?.subjects ?? []);
      const motifs = (view?.motifs ?? []).filter((motif) => {
        const name = motif.name.toLowerCase();
        return wanted.has(name) && known.has(name);
      });
      for (const motif of motifs) {
        await ask(
          api.POST("/api/motifs/{motif_id}/draw", {
            params: { path: { motif_id: motif.id } },
            body: { look: draft.look, count: PICTURES_EACH },
          }),
        );
      }
      return motifs;
    },
    onSuccess: (motifs) => {
      tellDone(`Drawing ${plural(motifs.length, "subject")}. They appear one by one.`);
      if (motifs[0]) goToMotif(motifs[0].id);
      goToStage("sketch");
    },
    onError: tellProblem,
  });
}
