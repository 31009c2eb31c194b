import { pictureUrl, type Motif, type MotifVerdict } from "@/api/client";
import { goToMotif, goToStage } from "@/place";
import { plural } from "@/ui/format";
import { Tick } from "@/ui/Tick";

interface Props {
  motifs: Motif[];
  currentId: number | null;
  verdicts: MotifVerdict[];
  left: ReadonlySet<number>;
  onChange: (left: ReadonlySet<number>) => void;
}

/** Which motifs go into the pack, and how they stand. */
export function PackMotifs({ motifs, currentId, verdicts, left, onChange }: Props) {
  const toggle = (id: number, inside: boolean) => {
    const next = new Set(left);
    if (inside) next.delete(id);
    else next.add(id);
    onChange(next);
  };
  return (
    <section aria-label="Motifs of the pack" className="flex min-h-0 flex-col">
      <h2 className="text-xl">In the pack</h2>
      <p className="mb-2 text-pencil">Motifs with a drawing; take out what should stay home.</p>
      <ul className="min-h-0 grow overflow-y-auto border-t border-hair pb-4">
        {motifs.map((motif) => {
          const verdict = verdicts.find((each) => each.motif_id === motif.id);
          const drawn = motif.drawing_id !== null;
          return (
            <li
              key={motif.id}
              className={`grid grid-cols-[150px_88px_minmax(0,1fr)_auto] items-center gap-3 border-b border-hair py-1 pl-2 ${motif.id === currentId ? "bg-sheet shadow-[inset_3px_0_var(--color-blue-pencil)]" : ""}`}
            >
              <Tick
                checked={drawn && !left.has(motif.id)}
                disabled={!drawn}
                onChange={(inside) => toggle(motif.id, inside)}
              >
                {motif.name}
              </Tick>
              <span className="grid h-12 place-items-center overflow-hidden">
                {motif.thumb_sha && (
                  <img
                    src={pictureUrl(motif.thumb_sha)}
                    alt=""
                    className="h-14 max-w-none object-contain on-paper"
                  />
                )}
              </span>
              <Standing drawn={drawn} verdict={verdict} />
              <button
                type="button"
                className="link pr-2"
                onClick={() => {
                  goToMotif(motif.id);
                  goToStage(drawn ? "proof" : "sketch");
                }}
              >
                {drawn ? "open" : "sketch it"}
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function Standing({ drawn, verdict }: { drawn: boolean; verdict?: MotifVerdict }) {
  if (!drawn) return <span className="text-pencil">no drawing yet</span>;
  if (verdict?.problem) return <span className="text-red-pencil">✗ cannot be shown</span>;
  const findings = verdict?.finding_count ?? undefined;
  if (findings === undefined) return <span className="text-pencil">judging …</span>;
  return findings ? (
    <span className="text-red-pencil">✗ {plural(findings, "finding")}</span>
  ) : (
    <span className="text-leaf">✓ cut-ready</span>
  );
}
