import { useEffect, useRef } from "react";
import type { Finding } from "@/api/client";
import { FINDING_WORDS, measureOf } from "@/sheet/FindingMarks";
import { mm } from "@/ui/format";

interface Props {
  findings: Finding[];
  chosen: number | null;
  onChoose: (index: number) => void;
}

export function FindingList({ findings, chosen, onChoose }: Props) {
  const list = useRef<HTMLOListElement>(null);
  useEffect(() => {
    if (chosen !== null) list.current?.children[chosen]?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  if (!findings.length) return <p className="text-leaf">✓ Nothing to mend at this size.</p>;
  return (
    <ol ref={list} className="max-h-[190px] overflow-y-auto border-t border-hair">
      {findings.map((finding, index) => (
        <li key={index} className="border-b border-hair">
          <button
            type="button"
            aria-pressed={index === chosen}
            onClick={() => onChoose(index)}
            className={`grid w-full grid-cols-[1fr_auto_76px] gap-2 px-1.5 py-1 text-left hover:bg-sheet ${index === chosen ? "bg-sheet shadow-[inset_3px_0_var(--color-red-pencil)]" : ""}`}
          >
            <span className="first-letter:uppercase">{FINDING_WORDS[finding.kind][0]}</span>
            <span className="num text-red-pencil">{measureOf(finding)}</span>
            <span className="num text-right text-pencil">
              {finding.limit > 0 ? `≥ ${mm(finding.limit, finding.unit)}` : ""}
            </span>
          </button>
        </li>
      ))}
    </ol>
  );
}
