/** Several pictures came at once: a motif each, or all for the motif that is chosen? */
import { useQuery } from "@tanstack/react-query";
import type { CollectionView, Motif } from "@/api/client";
import { Button } from "@/ui/Button";
import { Panel } from "@/ui/Panel";
import { plural } from "@/ui/format";
import { letWait, sendAll, useBringing } from "./bringing";
import { fileMotifs, useOneEach } from "./useBringIn";

export function WhoseSketches({ view, motif }: { view: CollectionView | undefined; motif: Motif | null }) {
  const files = useBringing((state) => state.waiting);
  const oneEach = useOneEach(view);
  const names = files.map((file) => file.name);
  const found = useQuery({
    queryKey: ["file-motifs", view?.collection.id, view?.motifs.map((each) => each.name), names],
    queryFn: () => fileMotifs(view?.collection.id ?? 0, files, { create: false }),
    enabled: view !== undefined && files.length > 0,
  }).data;
  const fresh = new Set(found?.filter((each) => each.motif_id === null).map((each) => each.name)).size;
  const close = () => letWait([]);
  return (
    <Panel
      open={files.length > 0}
      onClose={close}
      title={`${plural(files.length, "picture")} to bring in`}
      description="Each can become a motif of its own, named after the file."
      width={620}
    >
      <ul
        aria-label="Pictures and their motifs"
        className="max-h-[44vh] overflow-y-auto border-t border-hair"
      >
        {names.map((name, index) => (
          <li key={index} className="grid grid-cols-[1fr_1fr_70px] gap-4 border-b border-hair py-1.5">
            <span className="num truncate text-pencil" title={name}>
              {name}
            </span>
            <span className="truncate">{found?.[index]?.name ?? "…"}</span>
            <span className="text-right text-pencil">
              {found?.[index] && (found[index].motif_id === null ? "new" : "there")}
            </span>
          </li>
        ))}
      </ul>
      <div className="mt-3 flex gap-2">
        <Button kind="ink" onClick={() => (close(), void oneEach(files))}>
          {!found || fresh > 0 ? `One motif each${found ? `, ${fresh} new` : ""}` : "Each for its motif"}
        </Button>
        {motif && (
          <Button
            onClick={() => {
              close();
              void sendAll(files.map((file) => ({ motifId: motif.id, file })));
            }}
          >
            All as sketches of {motif.name}
          </Button>
        )}
        <Button onClick={close}>Cancel</Button>
      </div>
    </Panel>
  );
}
