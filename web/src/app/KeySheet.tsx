import { useState } from "react";
import { KEYMAP } from "@/keys/keymap";
import { useAction } from "@/keys/useAction";
import { Panel } from "@/ui/Panel";

export function KeySheet() {
  const [open, setOpen] = useState(false);
  useAction("key-sheet", () => setOpen(true));
  const rows = [
    ...KEYMAP.map(({ keys, does }) => ({ keys, does })),
    { keys: "Space", does: "Pan while held (or the middle button)" },
    { keys: "Wheel", does: "Zoom to the pointer" },
  ];
  return (
    <Panel open={open} onClose={() => setOpen(false)} title="Keys" width={560}>
      <dl className="grid grid-cols-[96px_1fr_96px_1fr] gap-x-3 gap-y-1">
        {rows.map((row) => (
          <div key={row.keys} className="contents">
            <dt className="num">{row.keys}</dt>
            <dd>{row.does}</dd>
          </div>
        ))}
      </dl>
    </Panel>
  );
}
