import { useState } from "react";
import type { CollectionView } from "@/api/client";
import { WorkshopPanel } from "@/features/workshop/WorkshopPanel";
import { goToStage, STAGES, stageTitle, type Stage } from "@/place";
import { Activity } from "./Activity";
import { CollectionMenu } from "./CollectionMenu";

export function TopBar({ collection, stage }: { collection?: CollectionView; stage: Stage }) {
  const [workshop, setWorkshop] = useState(false);
  return (
    <header className="col-span-3 flex items-stretch border-b border-graphite px-4">
      <h1 className="flex w-[124px] items-center gap-2 text-[19px] tracking-[-0.3px]">
        <Mark />
        Zeichen
      </h1>
      <CollectionMenu collection={collection} />
      <nav aria-label="Stages" className="mx-auto flex">
        {STAGES.map((name, index) => (
          <StageTab key={name} name={name} number={index + 1} on={name === stage} />
        ))}
      </nav>
      <div className="flex items-center gap-5">
        <button type="button" className="text-pencil hover:text-graphite" onClick={() => setWorkshop(true)}>
          Workshop
        </button>
        <Activity />
      </div>
      <WorkshopPanel open={workshop} onClose={() => setWorkshop(false)} />
    </header>
  );
}

function Mark() {
  return <img src="/mark.svg" width={22} height={22} alt="" />;
}

function StageTab({ name, number, on }: { name: Stage; number: number; on: boolean }) {
  const title = stageTitle(name);
  return (
    <button
      type="button"
      aria-current={on ? "step" : undefined}
      title={`${title} (${number})`}
      onClick={() => goToStage(name)}
      className={`relative px-4 lg:px-[18px] ${on ? "font-[650] text-graphite" : "text-pencil hover:text-graphite"}`}
    >
      <span aria-hidden className="num absolute top-1.5 left-1.5 text-[10px] leading-none text-pencil">
        {number}
      </span>
      {title}
      {on && (
        <svg
          aria-hidden
          className="absolute right-2.5 -bottom-1 left-2.5 h-[7px] w-[calc(100%-20px)]"
          viewBox="0 0 100 7"
          preserveAspectRatio="none"
        >
          <path
            d="M0 4.200C18 1 30 6 50 3.400S84 1.200 100 3.600"
            stroke="#2F6DB5"
            strokeWidth="2.400"
            fill="none"
          />
        </svg>
      )}
    </button>
  );
}
