/** What to draw: subjects, house style, rules, and the wording that comes of it. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, Problem, type CollectionView, type Motif } from "@/api/client";
import { briefBody } from "@/api/briefs";
import { keys, useScene } from "@/api/queries";
import { goToMotif, goToStage } from "@/place";
import { Button } from "@/ui/Button";
import { plural } from "@/ui/format";
import { tellDone, tellProblem } from "@/ui/notices";
import { Section } from "@/ui/Section";
import { Segments } from "@/ui/Segments";
import { Spend } from "@/ui/Spend";
import { StageFrame } from "@/ui/StageFrame";
import { TapeKeys, TapeSegment, Verdict } from "@/ui/Tape";
import { Tick } from "@/ui/Tick";
import { startOf, useSaveBrief, type Draft } from "./draft";
import { EarlierBriefs } from "./EarlierBriefs";
import { HouseStyle } from "./HouseStyle";
import { addSubjects, changeLine, moveLine } from "./lines";
import { StallFinder } from "./StallFinder";
import { WordingList } from "./WordingList";

const COUNTS = ["1", "2", "4", "8"].map((value) => ({ value, label: value }));

export function BriefStage({ view }: { view: CollectionView; motif: Motif | null }) {
  const scene = useScene().data;
  const collectionId = view.collection.id;
  const [draft, setDraft] = useState<Draft>(() => startOf(view));
  const [each, setEach] = useState(4);
  const [panel, setPanel] = useState<"earlier" | "stall" | null>(null);
  const save = useSaveBrief(collectionId, draft, view, setDraft);
  const generator = useGenerator();
  const wording = useQuery({
    queryKey: ["wording", collectionId, draft, view.yardstick.yardstick.width_mm],
    queryFn: () =>
      ask(
        api.POST("/api/collections/{collection_id}/wording", {
          params: { path: { collection_id: collectionId } },
          body: draft,
        }),
      ),
    placeholderData: (before) => before,
  });
  const lines = wording.data?.lines ?? [];
  const byAddress = generator?.kind === "http";
  const missing = byAddress ? [] : lines.filter((line) => !line.drawable);
  const drawn = lines.filter((line) => line.on && (byAddress || line.drawable));
  const put = (change: Partial<Draft>) => setDraft({ ...draft, ...change });
  const run = useRun(collectionId, each, save);
  const pictures = drawn.length * each;
  const by = byAddress ? generator.name : "the stand-in studio";

  return (
    <StageFrame
      side={
        <>
          <HouseStyle view={view} draft={draft} onChange={put} />
          <Section title="This run">
            <div className="mb-1.5 grid grid-cols-[1fr_140px] items-center">
              <span>Sketches of each</span>
              <Segments
                label="Sketches of each"
                value={String(each)}
                segments={COUNTS}
                onChange={(count) => setEach(Number(count))}
              />
            </div>
            <p className="mb-2.5">
              {plural(drawn.length, "subject")} × {each} = {plural(pictures, "sketch", "sketches")} by {by}.
            </p>
            <Button kind="ink" disabled={pictures === 0 || run.isPending} onClick={() => run.mutate(false)}>
              Draw the sketches
            </Button>
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
      <div className="grid h-full grid-cols-[210px_minmax(0,1fr)] gap-5 px-5 pt-4">
        <SubjectsSheet
          value={draft.subjects}
          onChange={(subjects) => put({ subjects })}
          onLeave={save.now}
          onStall={() => setPanel("stall")}
        />
        <WordingList
          lines={lines}
          repeated={wording.data?.repeated ?? []}
          onOpen={(subject) => {
            const motif = view.motifs.find((each) => each.name.toLowerCase() === subject.toLowerCase());
            if (!motif) return;
            goToMotif(motif.id);
            goToStage("sketch");
          }}
          onChange={(subject, change) => put({ subjects: changeLine(draft.subjects, subject, change) })}
          onMove={(subject, by) => put({ subjects: moveLine(draft.subjects, subject, by) })}
          onEdit={(subject, text) => put({ edits: { ...draft.edits, [subject.toLowerCase()]: text } })}
          onEarlier={() => setPanel("earlier")}
        />
      </div>
      <EarlierBriefs
        collectionId={collectionId}
        open={panel === "earlier"}
        onClose={() => setPanel(null)}
        onTake={(brief) => {
          setDraft(briefBody(brief));
          setPanel(null);
          tellDone("The earlier brief is open. Change what you like, then draw.");
        }}
      />
      <StallFinder
        open={panel === "stall"}
        onClose={() => setPanel(null)}
        onTake={(subjects) => {
          put({ subjects: addSubjects(draft.subjects, subjects) });
          setPanel(null);
        }}
      />
      <Spend
        question={run.error instanceof Problem && run.error.code === "conflict" ? run.error.message : null}
        onNo={() => run.reset()}
        onYes={() => run.mutate(true)}
      />
    </StageFrame>
  );
}

function SubjectsSheet({
  value,
  onChange,
  onLeave,
  onStall,
}: {
  value: string;
  onChange: (text: string) => void;
  onLeave: () => void;
  onStall: () => void;
}) {
  return (
    <div className="flex min-h-0 flex-col pb-4">
      <div className="flex items-baseline justify-between">
        <label htmlFor="subjects" className="font-head text-xl font-semibold">
          Subjects
        </label>
        <button type="button" className="link" onClick={onStall}>
          what sells
        </button>
      </div>
      <p className="mb-2 text-pencil">One a line. Each becomes a motif.</p>
      <textarea
        id="subjects"
        value={value}
        spellCheck={false}
        wrap="off"
        onChange={(event) => onChange(event.target.value)}
        onBlur={onLeave}
        placeholder={"Snail | facing left\nWatering can\nBean pod"}
        className="grow resize-none border border-hair bg-sheet bg-[linear-gradient(transparent_27px,var(--color-blue-line)_27px)] bg-[length:100%_28px] bg-local px-3 text-[15px] leading-[28px] hover:border-graphite"
      />
    </div>
  );
}

function useGenerator() {
  return useQuery({
    queryKey: keys.generator,
    queryFn: () => ask(api.GET("/api/workshop/generator")),
  }).data;
}

/** Draw the brief as it is kept; a generator that spends something asks first. */
function useRun(collectionId: number, count: number, save: { settle: () => Promise<CollectionView | null> }) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (confirmed: boolean) => {
      await save.settle();
      return ask(
        api.POST("/api/collections/{collection_id}/run", {
          params: { path: { collection_id: collectionId } },
          body: { count, confirmed },
        }),
      );
    },
    onSuccess: (jobs) => {
      tellDone(`Drawing ${plural(jobs.length, "subject")}. They appear one by one.`);
      void client.invalidateQueries({ queryKey: keys.generator });
      const first = Number(jobs[0]?.params.motif_id ?? 0);
      if (first) goToMotif(first);
      goToStage("sketch");
    },
    onError: (error) => {
      if (!(error instanceof Problem && error.code === "conflict")) tellProblem(error);
    },
  });
}
