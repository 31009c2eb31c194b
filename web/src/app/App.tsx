/** The shell: top bar, set rail, the stage that is on, notices. */
import { useCallback, useEffect } from "react";
import { isUnderWay, useJobEvents } from "@/api/events";
import { useCollection, useCollections } from "@/api/queries";
import type { DoneLine, Job } from "@/api/client";
import { BriefStage } from "@/features/brief/BriefStage";
import { InkStage } from "@/features/ink/InkStage";
import { MakeStage } from "@/features/make/MakeStage";
import { PackStage } from "@/features/pack/PackStage";
import { doneInWords } from "@/features/proof/mends";
import { ProofStage } from "@/features/proof/ProofStage";
import { BroughtIn } from "@/features/sketch/BroughtIn";
import { SketchStage } from "@/features/sketch/SketchStage";
import { useBringIn, useDrops } from "@/features/sketch/useBringIn";
import { WhoseSketches } from "@/features/sketch/WhoseSketches";
import { YardstickCard } from "@/features/yardstick/YardstickCard";
import { useAction, useKeyboard } from "@/keys/useAction";
import { goToCollection, goToMotif, goToStage, STAGES, usePlace, type Stage } from "@/place";
import { useSheetView } from "@/sheet/sheetView";
import { tellDone, tellProblem } from "@/ui/notices";
import { YardstickSlot } from "@/ui/StageFrame";
import { GoTo } from "./GoTo";
import { KeySheet } from "./KeySheet";
import { FirstStart } from "./FirstStart";
import { Notices } from "./Notices";
import { SetRail } from "./SetRail";
import { TopBar } from "./TopBar";

export function App() {
  const { collectionId, motifId, stage } = usePlace();
  const collections = useCollections();
  const collection = useCollection(collectionId);

  useEffect(() => {
    const known = collections.data;
    if (known?.[0] && !known.some((each) => each.id === collectionId)) goToCollection(known[0].id);
  }, [collections.data, collectionId]);
  useEffect(() => {
    const motifs = collection.data?.motifs;
    if (motifs && !motifs.some((motif) => motif.id === motifId)) goToMotif(motifs[0]?.id ?? null);
  }, [collection.data, motifId]);

  // Another stage is another way of looking: it starts with the whole sheet. Motifs keep the zoom.
  useEffect(() => useSheetView.getState().fitPage(), [stage]);

  useJobEvents(useCallback(tellEnd, []));
  useKeyboard();
  useShellKeys(collection.data?.motifs.map((motif) => motif.id) ?? [], motifId);

  const motif = collection.data?.motifs.find((each) => each.id === motifId) ?? null;
  const bring = useBringIn(collection.data, motif, stage === "sketch");
  const { over, zone } = useDrops(bring);

  return (
    <div
      {...zone}
      className="relative grid h-full grid-cols-[140px_minmax(0,1fr)_300px] grid-rows-[48px_minmax(0,1fr)_40px]"
    >
      <TopBar collection={collection.data} stage={stage} />
      <SetRail view={collection.data} />
      <YardstickSlot.Provider value={<YardstickCard view={collection.data} />}>
        {collection.data ? (
          <StageView stage={stage} />
        ) : (
          <main className="col-start-2 row-start-2 grid place-items-center p-8 text-pencil">
            {collections.data?.length === 0 ? (
              <FirstStart />
            ) : (
              (collections.error?.message ?? collection.error?.message ?? "Opening the collection …")
            )}
          </main>
        )}
      </YardstickSlot.Provider>
      <Notices />
      <GoTo view={collection.data} />
      <KeySheet />
      <WhoseSketches view={collection.data} motif={motif} />
      <BroughtIn />
      {over && collection.data && (
        <div className="pointer-events-none absolute inset-3 z-30 grid place-items-center border-2 border-dashed border-blue-pencil bg-[#fffdf8cc] text-xl">
          Let go to bring them into {collection.data.collection.name}
        </div>
      )}
    </div>
  );
}

const VIEWS: Record<Stage, typeof BriefStage> = {
  brief: BriefStage,
  sketch: SketchStage,
  ink: InkStage,
  proof: ProofStage,
  make: MakeStage,
  pack: PackStage,
};

function StageView({ stage }: { stage: Stage }) {
  const { collectionId, motifId } = usePlace();
  const view = useCollection(collectionId).data;
  const motif = view?.motifs.find((each) => each.id === motifId) ?? null;
  const Chosen = VIEWS[stage];
  return view ? <Chosen key={view.collection.id} view={view} motif={motif} /> : null;
}

function useShellKeys(motifIds: number[], motifId: number | null) {
  const step = (by: number) => {
    const at = motifIds.indexOf(motifId ?? -1);
    const next = motifIds[at + by];
    if (next !== undefined) goToMotif(next);
  };
  useAction("previous-motif", () => step(-1));
  useAction("next-motif", () => step(1));
  useAction("fit", () => useSheetView.getState().fitPage());
  useAction("true-size", () => useSheetView.getState().trueSize());
  useAction("stage-0", () => goToStage(STAGES[0]));
  useAction("stage-1", () => goToStage(STAGES[1]));
  useAction("stage-2", () => goToStage(STAGES[2]));
  useAction("stage-3", () => goToStage(STAGES[3]));
  useAction("stage-4", () => goToStage(STAGES[4]));
  useAction("stage-5", () => goToStage(STAGES[5]));
}

function tellEnd(job: Job) {
  if (!isUnderWay(job) && job.state === "failed") tellProblem(new Error(`${job.label}: ${job.message}`));
  if (job.kind === "mend" && job.state === "done") {
    tellDone(`${doneInWords(job.result.done as DoneLine[])} Ctrl+Z brings it back.`);
  }
}
