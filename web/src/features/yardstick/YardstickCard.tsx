/** What everything is judged by: always in sight, changed with one click. */
import { useState } from "react";
import type { CollectionView } from "@/api/client";
import { mm } from "@/ui/format";
import { YardstickPanel } from "./YardstickPanel";

export function YardstickCard({ view }: { view?: CollectionView }) {
  const [open, setOpen] = useState(false);
  if (!view) return null;
  const { name, yardstick } = view.yardstick;
  return (
    <section aria-label="Yardstick" className="shrink-0 border-b border-graphite bg-sheet px-4 pt-3 pb-3.5">
      <div className="flex items-baseline justify-between">
        <span className="font-head text-sm font-semibold text-pencil">Yardstick</span>
        <button type="button" className="link" onClick={() => setOpen(true)}>
          change
        </button>
      </div>
      <p className="truncate font-head text-[16px] leading-[22px] font-semibold" title={name}>
        {name}
      </p>
      <div className="flex items-baseline justify-between gap-2">
        <span className="truncate">
          {yardstick.blank || "blank"} {mm(yardstick.blank_width_mm, "").replace(".0", "")} ×{" "}
          {mm(yardstick.blank_height_mm).replace(".0", "")}
        </span>
        <span className="num shrink-0">≥ {mm(yardstick.limits.thin_mm)}</span>
      </div>
      <Ruler widthMm={yardstick.width_mm} />
      <YardstickPanel open={open} onClose={() => setOpen(false)} view={view} />
    </section>
  );
}

function Ruler({ widthMm }: { widthMm: number }) {
  return (
    <div className="relative mt-2 h-4 border-b border-graphite" aria-label={`Finished width ${widthMm} mm`}>
      <svg width="100%" height="16" viewBox="0 0 268 16" preserveAspectRatio="none" aria-hidden>
        {Array.from({ length: 34 }, (_, k) => (
          <path key={k} d={`M${k * 8 + 0.5} 16V${k % 5 === 0 ? 6 : 11}`} stroke="#24272B" strokeWidth="1" />
        ))}
      </svg>
      <b className="num absolute -top-1.5 right-0 bg-sheet pl-1 text-[11px] font-semibold">{mm(widthMm)}</b>
    </div>
  );
}
