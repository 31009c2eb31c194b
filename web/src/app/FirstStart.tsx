/** What a new data folder greets with: three ways in. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { api, ask, sendDrawing } from "@/api/client";
import { keys } from "@/api/queries";
import { sendAll } from "@/features/sketch/bringing";
import { fileMotifs, PICTURE_TYPES } from "@/features/sketch/useBringIn";
import { goToCollection, goToMotif, goToStage, type Stage } from "@/place";
import { tellProblem } from "@/ui/notices";
import { NewCollection } from "./NewCollection";

const FIRST = "First collection";

export function FirstStart() {
  const [naming, setNaming] = useState(false);
  const client = useQueryClient();
  const begin = useMutation({
    mutationFn: async ({ files, stage }: { files: File[]; stage: Stage }) => {
      const made = await ask(api.POST("/api/collections", { body: { name: FIRST } }));
      let firstId: number | null = null;
      const found = await fileMotifs(made.id, files, { create: true });
      for (const [index, { motif_id }] of found.entries()) {
        const file = files[index];
        if (motif_id === null || !file) continue;
        firstId ??= motif_id;
        if (stage === "proof") await sendDrawing(motif_id, file);
        else await sendAll([{ motifId: motif_id, file }]);
      }
      return { collectionId: made.id, motifId: firstId, stage };
    },
    onSuccess: ({ collectionId, motifId, stage }) => {
      goToCollection(collectionId);
      if (motifId !== null) goToMotif(motifId);
      goToStage(stage);
    },
    onError: tellProblem,
    onSettled: () => client.invalidateQueries({ queryKey: keys.collections }),
  });
  return (
    <div className="grid max-w-[760px] gap-6 text-graphite">
      <div>
        <h2 className="text-2xl">What would you like to make?</h2>
        <p className="mt-1 text-pencil">
          A picture becomes clean paths, the paths are checked at their true size, and then cut, carved,
          printed or packed. There are three ways to begin.
        </p>
      </div>
      <div className="grid grid-cols-3 gap-4">
        <FileWay
          title="I have pictures"
          words="Photos of drawings, scans, clipart: PNG, JPEG and the like. Each becomes a motif."
          accept={PICTURE_TYPES}
          busy={begin.isPending}
          onFiles={(files) => begin.mutate({ files, stage: "sketch" })}
        />
        <Way title="I have ideas" words="Write subjects, one a line, and have them drawn in one style.">
          <button type="button" className={WAY} disabled={begin.isPending} onClick={() => setNaming(true)}>
            Write subjects
          </button>
        </Way>
        <FileWay
          title="I have a drawing"
          words="An SVG or DXF from another program, to be checked, mended and made."
          accept=".svg,.svgz,.dxf,image/svg+xml"
          busy={begin.isPending}
          onFiles={(files) => begin.mutate({ files, stage: "proof" })}
        />
      </div>
      <NewCollection open={naming} onClose={() => setNaming(false)} />
    </div>
  );
}

const WAY =
  "inline-block cursor-pointer rounded border border-graphite bg-graphite px-2.5 py-1 font-semibold text-sheet hover:bg-[#3a3e44]";

function Way({ title, words, children }: { title: string; words: string; children: ReactNode }) {
  return (
    <section className="flex flex-col items-start justify-between gap-4 border border-hair bg-sheet p-4">
      <div>
        <h3 className="text-lg">{title}</h3>
        <p className="mt-1 text-pencil">{words}</p>
      </div>
      {children}
    </section>
  );
}

interface FileWayProps {
  title: string;
  words: string;
  accept: string;
  busy: boolean;
  onFiles: (files: File[]) => void;
}

function FileWay({ title, words, accept, busy, onFiles }: FileWayProps) {
  return (
    <Way title={title} words={words}>
      <label className={`${WAY} focus-within:outline-2 focus-within:outline-blue-pencil`}>
        {busy ? "Bringing in …" : "Choose files"}
        <input
          type="file"
          multiple
          accept={accept}
          aria-label={`${title}: choose files`}
          className="sr-only"
          disabled={busy}
          onChange={(event) => {
            const files = [...(event.target.files ?? [])];
            event.target.value = "";
            if (files.length) onFiles(files);
          }}
        />
      </label>
    </Way>
  );
}
