/** Walking from finding to finding: which one is chosen, and flying there. */
import { useEffect, useState } from "react";
import type { DrawingData } from "@/api/client";
import { useAction } from "@/keys/useAction";
import { findingOnBlank, type Placing } from "./placing";
import { useSheetView } from "./sheetView";

export function useFindings(drawing: DrawingData | undefined, placing: Placing | null) {
  const [chosen, setChosen] = useState<number | null>(null);
  const findings = drawing?.proof.findings ?? [];
  useEffect(() => {
    if (chosen !== null && chosen >= findings.length) setChosen(null);
  }, [chosen, findings.length]);
  const choose = (index: number) => {
    const finding = findings[index];
    if (!finding || !placing) return;
    setChosen(index);
    const size = finding.unit === "mm" ? finding.measured : 0.5;
    useSheetView.getState().fly(findingOnBlank(placing, finding), size);
  };
  useAction(
    "next-finding",
    findings.length ? () => choose(chosen === null ? 0 : (chosen + 1) % findings.length) : null,
  );
  return {
    chosen: chosen !== null && chosen < findings.length ? chosen : null,
    choose,
    clear: () => setChosen(null),
  };
}
