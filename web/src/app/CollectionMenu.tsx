/** The collections, and what can be done with the one that is open: rename it, hand it out, take another in. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { DropdownMenu } from "radix-ui";
import { useRef, useState } from "react";
import { api, ask, sendCollection, type CollectionView } from "@/api/client";
import { keys, useCollections } from "@/api/queries";
import { goToCollection } from "@/place";
import { tellDone, tellProblem } from "@/ui/notices";
import { RenamePanel } from "@/ui/RenamePanel";
import { NewCollection } from "./NewCollection";

const ITEM = "px-3 py-1 outline-none data-[highlighted]:bg-blue-line data-[highlighted]:text-graphite";

export function CollectionMenu({ collection }: { collection?: CollectionView }) {
  const collections = useCollections();
  const [open, setOpen] = useState<"new" | "rename" | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const rename = useRename(collection);
  const takeIn = useTakeIn();
  const name = collection?.collection.name;
  return (
    <div className="my-3 flex items-center border-l border-hair pl-3.5">
      <DropdownMenu.Root modal={false}>
        <DropdownMenu.Trigger
          aria-label={`Collection: ${name ?? "none"}`}
          className="flex max-w-[220px] items-center gap-1.5 font-semibold"
        >
          <span className="truncate">{name ?? "…"}</span>
          <span aria-hidden className="text-pencil">
            ▾
          </span>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            sideOffset={8}
            collisionPadding={8}
            className="z-40 flex max-h-[var(--radix-dropdown-menu-content-available-height)] min-w-56 flex-col border border-graphite bg-sheet py-1"
          >
            {/* First, so that it neither moves under the pointer when the others arrive nor leaves the screen. */}
            <DropdownMenu.Item onSelect={() => setOpen("new")} className={`${ITEM} text-blue-pencil`}>
              New collection …
            </DropdownMenu.Item>
            <DropdownMenu.Item onSelect={() => file.current?.click()} className={`${ITEM} text-blue-pencil`}>
              Take one in from a file …
            </DropdownMenu.Item>
            {collection && (
              <>
                <DropdownMenu.Separator className="my-1 border-t border-hair" />
                <DropdownMenu.Item onSelect={() => setOpen("rename")} className={`${ITEM} text-blue-pencil`}>
                  Rename this one …
                </DropdownMenu.Item>
                <DropdownMenu.Item asChild className={`${ITEM} text-blue-pencil`}>
                  <a href={`/api/collections/${collection.collection.id}/file`} download>
                    Hand this one out as a file
                  </a>
                </DropdownMenu.Item>
              </>
            )}
            <DropdownMenu.Separator className="my-1 border-t border-hair" />
            <DropdownMenu.Group className="min-h-0 overflow-y-auto">
              {collections.data?.map((each) => (
                <DropdownMenu.Item key={each.id} onSelect={() => goToCollection(each.id)} className={ITEM}>
                  {each.name}
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.Group>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <input
        ref={file}
        type="file"
        hidden
        accept=".zip"
        aria-label="Collection file"
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          event.target.value = "";
          if (chosen) takeIn.mutate(chosen);
        }}
      />
      <NewCollection
        open={open === "new"}
        onClose={() => setOpen(null)}
        yardstickId={collection?.yardstick.id}
      />
      {open === "rename" && name && (
        <RenamePanel
          title="Rename the collection"
          name={name}
          onClose={() => setOpen(null)}
          onKeep={rename.mutateAsync}
        />
      )}
    </div>
  );
}

function useRename(view?: CollectionView) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (name: string) =>
      ask(
        api.PATCH("/api/collections/{collection_id}", {
          params: { path: { collection_id: view?.collection.id ?? 0 } },
          body: { name },
        }),
      ),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: keys.collections });
      await client.invalidateQueries({ queryKey: ["collection"] });
    },
  });
}

function useTakeIn() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (file: File) => sendCollection(file),
    onSuccess: async (made) => {
      await client.invalidateQueries({ queryKey: keys.collections });
      goToCollection(made.id);
      tellDone(`Took in ${made.name}.`);
    },
    onError: tellProblem,
  });
}
