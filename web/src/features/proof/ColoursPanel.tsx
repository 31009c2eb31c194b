/** The drawing's colours: recolour, merge, other palettes, and variants kept side by side. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, type CurrentDrawing } from "@/api/client";
import { useDrawingChange } from "@/api/queries";
import { NameForm } from "@/ui/NameForm";
import { tellDone, tellProblem } from "@/ui/notices";
import { Section } from "@/ui/Section";
import { TextButton } from "@/ui/TextButton";
import { PalettesPanel } from "./PalettesPanel";
import type { Proposal } from "./proposal";
import type { Editor } from "./useEdit";

export const GROUNDS: [string, string][] = [
  ["#fffdf8", "sheet"],
  ["#ffffff", "white"],
  ["#1d1f23", "dark"],
  ["#b58a5c", "kraft"],
  ["#4b4f57", "slate"],
  ["#22365c", "navy"],
  ["#7a1f2b", "burgundy"],
  ["#3d5a40", "green"],
];

interface Props {
  current: CurrentDrawing;
  editor: Editor;
  ground: string;
  chosen: string;
  onChoose: (colour: string) => void;
  proposal: Proposal;
  onPropose: (proposal: Proposal) => void;
  /** Whether a click on the sheet takes a colour from the sketch; null without a sketch. */
  sampling: boolean | null;
  onSampling: (on: boolean) => void;
  /** Shapes that are chosen: a colour can be given to them alone. */
  selected: ReadonlySet<string>;
}

export function useSwatches(current: CurrentDrawing, ground: string) {
  return useQuery({
    queryKey: ["swatches", current.id, current.revision_id, ground],
    queryFn: () =>
      ask(
        api.GET("/api/drawings/{drawing_id}/swatches", {
          params: { path: { drawing_id: current.id }, query: { ground } },
        }),
      ),
    placeholderData: (before) => before,
  }).data;
}

export function ColoursPanel({
  current,
  editor,
  ground,
  chosen,
  onChoose,
  proposal,
  onPropose,
  sampling,
  onSampling,
  selected,
}: Props) {
  const swatches = useSwatches(current, ground) ?? [];
  return (
    <>
      <Section title="Colours" aside={<span className="num text-pencil">{swatches.length}</span>}>
        <ul>
          {swatches.map(({ colour, share, contrast }) => (
            <li key={colour} className="flex items-center gap-2 border-b border-hair py-0.5">
              <input
                type="color"
                aria-label={`Recolour ${colour}`}
                title="Another colour for all of it"
                value={colour}
                onChange={() => undefined}
                onBlur={(event) =>
                  event.target.value !== colour &&
                  editor.edit({
                    kind: "recolour",
                    change: { [colour]: event.target.value },
                    ids: [],
                    fill: "",
                  })
                }
                className="h-5 w-6 cursor-pointer border border-hair bg-transparent p-0"
              />
              <button
                type="button"
                className={`num ${chosen === colour ? "font-semibold underline" : ""}`}
                title="Use it for patches, forms and letters"
                aria-pressed={chosen === colour}
                onClick={() => onChoose(colour)}
              >
                {colour}
              </button>
              <span className="num grow text-right text-pencil">{(100 * share).toFixed(1)} %</span>
              <span
                className={`num w-[68px] text-right whitespace-nowrap ${contrast < 3 ? "text-red-pencil" : "text-leaf"}`}
                title="Contrast on the chosen ground; 3 is needed to make it out"
              >
                {contrast.toFixed(1)} {contrast < 3 ? "faint" : "✓"}
              </span>
            </li>
          ))}
        </ul>
        <div className="mt-1.5 flex flex-wrap items-center gap-x-3">
          <span className="inline-block h-4 w-5 border border-hair" style={{ background: chosen }} />
          <span className="num">{chosen}</span>
          <TextButton
            disabled={sampling === null}
            aria-pressed={sampling ?? false}
            title="Shows the sketch; click the place whose colour you want"
            onClick={() => onSampling(!sampling)}
          >
            {sampling ? "click on the sketch …" : "take one from the sketch"}
          </TextButton>
          <TextButton
            disabled={!selected.size || editor.busy}
            onClick={() => editor.edit({ kind: "recolour", change: {}, ids: [...selected], fill: chosen })}
          >
            give it to what is selected
          </TextButton>
        </div>
        {swatches.length > 1 && (
          <button
            type="button"
            className="link mt-1"
            disabled={editor.busy}
            onClick={() => editor.edit({ kind: "merge-colours", most: swatches.length - 1 })}
          >
            merge the two nearest
          </button>
        )}
      </Section>
      <PalettesPanel current={current} editor={editor} proposal={proposal} onPropose={onPropose} />
      <Variants current={current} proposal={proposal} />
    </>
  );
}

function Variants({ current, proposal }: { current: CurrentDrawing; proposal: Proposal }) {
  const client = useQueryClient();
  const key = ["variants", current.id];
  const path = { drawing_id: current.id };
  const list = useQuery({
    queryKey: key,
    queryFn: () => ask(api.GET("/api/drawings/{drawing_id}/variants", { params: { path } })),
  }).data;
  const refresh = () => client.invalidateQueries({ queryKey: key });
  const keep = useMutation({
    mutationFn: (name: string) =>
      ask(
        api.POST("/api/drawings/{drawing_id}/variants", {
          params: { path },
          body: { revision_id: current.revision_id, name, change: proposal?.change ?? {} },
        }),
      ),
    onSuccess: refresh,
    onError: tellProblem,
  });
  const take = useDrawingChange((variant_id: number) =>
    ask(
      api.POST("/api/drawings/{drawing_id}/variants/{variant_id}/take", {
        params: { path: { ...path, variant_id } },
        body: { revision_id: current.revision_id },
      }),
    ),
  );
  const forget = useMutation({
    mutationFn: (variant_id: number) =>
      ask(api.DELETE("/api/variants/{variant_id}", { params: { path: { variant_id } } })),
    onSuccess: refresh,
    onError: tellProblem,
  });
  return (
    <Section title="Variants" aside={<span className="num text-pencil">{list?.length ?? ""}</span>}>
      <ul className="mb-2 grid grid-cols-3 gap-2">
        {list?.map((variant) => (
          <li key={variant.id} className="border border-hair bg-sheet p-1 text-sm">
            <img
              src={`/api/variants/${variant.id}.svg?${variant.svg_sha.slice(0, 8)}`}
              alt=""
              className="mx-auto h-14"
            />
            <div className="truncate" title={variant.name}>
              {variant.name}
            </div>
            <button
              type="button"
              className="link mr-2"
              onClick={() =>
                take.mutate(variant.id, {
                  onError: tellProblem,
                  onSuccess: () =>
                    tellDone(`These are the colours of ${variant.name} now. Ctrl+Z brings the others back.`),
                })
              }
            >
              take
            </button>
            <button
              type="button"
              className="link"
              aria-label={`Forget ${variant.name}`}
              onClick={() => forget.mutate(variant.id)}
            >
              ×
            </button>
          </li>
        ))}
      </ul>
      <NameForm
        label="Name of the variant"
        placeholder={proposal ? `keep “${proposal.said}” as …` : "keep these colours as …"}
        busy={keep.isPending}
        onKeep={(name) => keep.mutateAsync(name)}
      />
    </Section>
  );
}
