import type { CurrentDrawing } from "@/api/client";
import { Button } from "@/ui/Button";
import { plural } from "@/ui/format";
import { Section } from "@/ui/Section";
import type { Mend } from "./mends";
import type { ProofActions } from "./useProofActions";

interface Props {
  current: CurrentDrawing;
  mend: Mend | null;
  onMend: () => void;
  selectedCount: number;
  actions: ProofActions;
  onSelectAll: () => void;
  onDelete: () => void;
}

export function MendBar({ current, mend, onMend, selectedCount, actions, onSelectAll, onDelete }: Props) {
  const { findings } = current.drawing.proof;
  const specks = findings.filter((finding) => finding.kind === "speck").length;
  return (
    <Section
      title="Mend"
      aside={
        <span className="flex gap-3">
          <button
            type="button"
            className="link"
            title="Undo (Ctrl+Z)"
            disabled={!current.can_undo || actions.busy}
            onClick={actions.undo}
          >
            undo
          </button>
          <button
            type="button"
            className="link"
            title="Redo (Ctrl+Shift+Z)"
            disabled={!current.can_redo || actions.busy}
            onClick={actions.redo}
          >
            redo
          </button>
        </span>
      }
    >
      {mend?.does === "advice" ? (
        <p className="mb-2">{mend.advice}</p>
      ) : (
        mend && (
          <Button kind="ink" className="mr-2 mb-2" title="M" disabled={actions.busy} onClick={onMend}>
            {mend.label}
          </Button>
        )
      )}
      <div className="flex flex-wrap gap-2">
        {mend?.does !== "drop-specks" && (
          <Button disabled={!specks || actions.busy} onClick={actions.dropSpecks}>
            {specks ? `Drop ${plural(specks, "speck")}` : "No specks"}
          </Button>
        )}
        <Button kind="danger" title="Delete" disabled={!selectedCount || actions.busy} onClick={onDelete}>
          {selectedCount > 1 ? `Delete ${selectedCount} shapes` : "Delete shape"}
        </Button>
      </div>
      <p className="mt-2 text-sm text-pencil">
        {selectedCount
          ? `${plural(selectedCount, "shape")} selected`
          : "Click a shape to select it; Shift adds more."}
      </p>
      <p className="flex gap-4 text-sm">
        <button type="button" className="link" onClick={onSelectAll}>
          select all {current.drawing.shapes.length}
        </button>
        <a className="link" href={`/api/motifs/${current.motif_id}/drawing.svg`} download>
          drawing as SVG
        </a>
      </p>
    </Section>
  );
}
