import type { CurrentDrawing, Finding, How, MendPreview } from "@/api/client";
import { FINDING_WORDS } from "@/sheet/FindingMarks";
import { Button } from "@/ui/Button";
import { mm, plural } from "@/ui/format";
import { Section } from "@/ui/Section";
import { HOW_WORDS, mendsOf } from "./mends";
import type { FitWidth } from "./useFitWidth";
import type { MendOrder, ProofActions } from "./useProofActions";

interface Props {
  current: CurrentDrawing;
  chosen: number | null;
  how: How | null;
  onLookAt: (how: How) => void;
  preview: MendPreview | null;
  actions: ProofActions;
  /** Where real letters are set. */
  onLetters: () => void;
  /** Makes the yardstick's width that of the blank. */
  fit: FitWidth;
}

export function MendBar({ current, chosen, how, onLookAt, preview, actions, onLetters, fit }: Props) {
  const { findings } = current.drawing.proof;
  const finding = chosen === null ? undefined : findings[chosen];
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
      {finding?.kind === "lettering" && (
        <Button kind="ink" className="mr-2 mb-2" onClick={onLetters}>
          Set real letters
        </Button>
      )}
      {finding?.kind === "too_large" && (
        <Button kind="ink" className="mr-2 mb-2" title="M" disabled={fit.busy} onClick={fit.apply}>
          Make it {mm(fit.widthMm)} wide
        </Button>
      )}
      {finding && chosen !== null && (
        <OneFinding
          finding={finding}
          count={findings.filter((each) => each.kind === finding.kind).length}
          shapeCount={current.drawing.shapes.length}
          how={how}
          preview={preview}
          busy={actions.busy}
          onLookAt={onLookAt}
          onMend={(order) => actions.mend({ ...order, finding: chosen })}
        />
      )}
      {findings.length > 0 ? (
        <Button
          kind={finding ? "plain" : "ink"}
          title="Mend everything that can be without asking (Shift+M)"
          disabled={actions.busy}
          onClick={actions.mendAll}
        >
          {actions.mendsAll ? "Mending …" : `Mend all ${findings.length}`}
        </Button>
      ) : (
        <p className="text-pencil">Nothing to mend; everything here can still be edited.</p>
      )}
      {findings.length > 0 && !finding && (
        <p className="mt-2 text-sm text-pencil">
          F goes to the next finding and shows what its mend would do.
        </p>
      )}
    </Section>
  );
}

function OneFinding({
  finding,
  count,
  shapeCount,
  how,
  preview,
  busy,
  onLookAt,
  onMend,
}: {
  finding: Finding;
  count: number;
  shapeCount: number;
  how: How | null;
  preview: MendPreview | null;
  busy: boolean;
  onLookAt: (how: How) => void;
  onMend: (order: Omit<MendOrder, "finding">) => void;
}) {
  const { hows, advice } = mendsOf(finding, shapeCount);
  if (!how) return <p className="mb-2">{advice}</p>;
  return (
    <div className="mb-2.5 border-b border-hair pb-2.5">
      <div role="radiogroup" aria-label="How to mend it" className="mb-2">
        {hows.map((each) => (
          <label key={each} className="flex items-center gap-2 py-0.5">
            <input
              type="radio"
              name="how"
              className="accent-blue-pencil"
              checked={each === how}
              onChange={() => onLookAt(each)}
            />
            {HOW_WORDS[each]}
          </label>
        ))}
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <Button kind="ink" title="M" disabled={busy} onClick={() => onMend({ how, alike: false })}>
          Mend it
        </Button>
        {count > 1 && (
          <Button disabled={busy} onClick={() => onMend({ how, alike: true })}>
            all {count} {FINDING_WORDS[finding.kind][1]}
          </Button>
        )}
      </div>
      <p className="mt-1.5 text-sm text-pencil" aria-live="polite">
        {preview ? previewInWords(preview) : "Looking what it would change …"}
      </p>
    </div>
  );
}

function previewInWords({
  shapes,
  gone,
  findings_before: before,
  findings_after: after,
  nodes_before,
  nodes_after,
}: MendPreview): string {
  const parts = [
    shapes.length ? `changes ${plural(shapes.length, "shape")}` : "",
    gone.length ? `drops ${plural(gone.length, "shape")}` : "",
    !gone.length && nodes_after < nodes_before ? `nodes ${nodes_before} → ${nodes_after}` : "",
  ].filter(Boolean);
  return `${parts.join(", ") || "changes nothing"}; findings ${before} → ${after}`;
}
