import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Pack } from "@/api/client";
import { bytes, plural } from "@/ui/format";
import { RenamePanel } from "@/ui/RenamePanel";
import { Section } from "@/ui/Section";
import { TextButton } from "@/ui/TextButton";

interface Entry {
  name: string;
  size_bytes: number;
}

/** Packs that have been written, newest first, with what is in them. */
export function PackList({ packs }: { packs: Pack[] }) {
  const [renaming, setRenaming] = useState<Pack | null>(null);
  const client = useQueryClient();
  const rename = useMutation({
    mutationFn: (title: string) =>
      ask(
        api.PATCH("/api/packs/{pack_id}", {
          params: { path: { pack_id: renaming?.id ?? 0 } },
          body: { title },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["packs"] }),
  });
  return (
    <Section title="Packs written">
      {packs.length === 0 && <p className="text-pencil">None yet.</p>}
      <ul>
        {packs.map((pack) => (
          <li key={pack.id} className="border-b border-hair py-1.5 last:border-b-0">
            <div className="flex items-baseline justify-between gap-2">
              <a className="link truncate" href={`/api/packs/${pack.id}/zip`} download title={pack.title}>
                {pack.title}
              </a>
              <span className="num shrink-0 text-pencil">{bytes(pack.size_bytes)}</span>
            </div>
            <TextButton
              className="float-right text-sm"
              aria-label={`Rename ${pack.title}`}
              onClick={() => setRenaming(pack)}
            >
              rename
            </TextButton>
            <details>
              <summary className="text-sm text-pencil">
                {plural(pack.contents.length, "file")},{" "}
                {pack.listing.origin === "machine" ? "declared as machine-made" : "declared as hand-made"}
              </summary>
              <ul className="num mt-1 text-[11px] leading-4">
                {(pack.contents as unknown as Entry[]).map((entry) => (
                  <li key={entry.name} className="flex justify-between">
                    <span className="truncate">{entry.name}</span>
                    <span className="text-pencil">{bytes(entry.size_bytes)}</span>
                  </li>
                ))}
              </ul>
            </details>
          </li>
        ))}
      </ul>
      {renaming && (
        <RenamePanel
          title="Rename the pack"
          name={renaming.title}
          maxLength={200}
          onClose={() => setRenaming(null)}
          onKeep={rename.mutateAsync}
        />
      )}
    </Section>
  );
}
