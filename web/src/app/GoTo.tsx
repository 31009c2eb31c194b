/** Go to anything: motifs, stages, collections, by a few letters. */
import { useMemo, useState } from "react";
import type { CollectionView } from "@/api/client";
import { useCollections } from "@/api/queries";
import { useAction } from "@/keys/useAction";
import { goToCollection, goToMotif, goToStage, STAGES, stageTitle } from "@/place";
import { Panel } from "@/ui/Panel";

interface Target {
  name: string;
  kind: string;
  go: () => void;
}

export function GoTo({ view }: { view?: CollectionView }) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const collections = useCollections().data;
  useAction("go-to", () => {
    setText("");
    setAt(0);
    setOpen(true);
  });
  const targets = useMemo<Target[]>(
    () => [
      ...(view?.motifs ?? []).map((motif) => ({
        name: motif.name,
        kind: "motif",
        go: () => goToMotif(motif.id),
      })),
      ...STAGES.map((stage) => ({ name: stageTitle(stage), kind: "stage", go: () => goToStage(stage) })),
      ...(collections ?? []).map((each) => ({
        name: each.name,
        kind: "collection",
        go: () => goToCollection(each.id),
      })),
    ],
    [view, collections],
  );
  const found = targets
    .filter((target) => target.name.toLowerCase().includes(text.trim().toLowerCase()))
    .slice(0, 10);
  const choose = (target?: Target) => {
    target?.go();
    setOpen(false);
  };
  return (
    <Panel open={open} onClose={() => setOpen(false)} title="Go to" width={380}>
      <input
        aria-label="Name of a motif, stage or collection"
        value={text}
        autoFocus
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          if (event.key === "ArrowDown") setAt(Math.min(found.length - 1, at + 1));
          else if (event.key === "ArrowUp") setAt(Math.max(0, at - 1));
          else if (event.key === "Enter") choose(found[at]);
          else return;
          event.preventDefault();
        }}
        className="w-full rounded border border-graphite bg-sheet px-2 py-1"
      />
      <ul className="mt-2">
        {found.map((target, index) => (
          <li key={`${target.kind}-${target.name}`}>
            <button
              type="button"
              onClick={() => choose(target)}
              className={`flex w-full justify-between px-2 py-1 text-left ${index === at ? "bg-blue-line" : "hover:bg-paper"}`}
            >
              <span>{target.name}</span>
              <span className={index === at ? "text-graphite" : "text-pencil"}>{target.kind}</span>
            </button>
          </li>
        ))}
        {found.length === 0 && <li className="px-2 py-1 text-pencil">Nothing of that name.</li>}
      </ul>
    </Panel>
  );
}
