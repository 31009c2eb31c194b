/** What the keys do: here first, then everywhere, then in the other stages. */
import { useState } from "react";
import { KEYMAP } from "@/keys/keymap";
import { useAction } from "@/keys/useAction";
import { STAGES, usePlace } from "@/place";
import { Panel } from "@/ui/Panel";
import { keyGroups } from "./keyGroups";

export function KeySheet() {
  const [open, setOpen] = useState(false);
  const stage = usePlace((place) => place.stage);
  useAction("key-sheet", () => setOpen(true));
  return (
    <Panel open={open} onClose={() => setOpen(false)} title="Keys" width={640}>
      <div className="grid grid-cols-2 gap-x-8">
        {keyGroups(KEYMAP, stage, STAGES).map((group) => (
          <section key={group.title} className="mb-3 break-inside-avoid">
            <h4 className={`mb-1 border-b border-hair pb-0.5 ${group.here ? "font-[650]" : "text-pencil"}`}>
              {group.title}
            </h4>
            <dl className="grid grid-cols-[92px_1fr] gap-x-3 gap-y-0.5">
              {group.rows.map((row) => (
                <div key={row.keys} className="contents">
                  <dt className="num">{row.keys}</dt>
                  <dd>{row.does}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </Panel>
  );
}
