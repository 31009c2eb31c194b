/** What was not taken of the file a drawing came from; its text is one click from being set anew. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, ask, type CurrentDrawing, type KeptDrawing, type LetterOperation } from "@/api/client";
import { TextButton } from "@/ui/TextButton";
import { Section } from "@/ui/Section";
import { tellProblem } from "@/ui/notices";
import type { Editor } from "./useEdit";

type LiveText = NonNullable<CurrentDrawing["brought_in"]>["texts"][number];

/** Capitals of most text faces are about this share of the size their file names. */
const CAPITALS = 0.7;
/** Half a letter's usual advance, as a share of that size: letters are set about their middle. */
const HALF_ADVANCE = 0.27;

export function lettersFor(text: LiveText, mmPerPx: number, fill: string): LetterOperation {
  const capital = CAPITALS * text.size;
  return {
    kind: "letter",
    text: text.content.slice(0, 400),
    font: "lilita-one",
    cap_height_mm: Math.min(500, Math.max(0.5, Number((capital * mmPerPx).toFixed(2)))),
    x: text.x + HALF_ADVANCE * text.size * text.content.length,
    y: text.y - capital / 2,
    bend: "straight",
    bend_by: 0,
    tracking: 0,
    fill,
    replaces: "",
    clears: null,
  };
}

interface Props {
  current: CurrentDrawing;
  editor: Editor;
  fill: string;
  /** The letters are there: they can be changed under Letters. */
  onSet: (made: KeptDrawing) => void;
}

export function NotTaken({ current, editor, fill, onSet }: Props) {
  const client = useQueryClient();
  const forget = useMutation({
    mutationFn: () =>
      ask(
        api.DELETE("/api/drawings/{drawing_id}/not-taken", { params: { path: { drawing_id: current.id } } }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["drawing", current.motif_id] }),
    onError: tellProblem,
  });
  const file = current.brought_in;
  if (!file) return null;
  const { shapes, mm_per_px: perPx } = current.drawing;
  const isSet = (text: LiveText) =>
    shapes.some(
      (shape) => shape.letters && (JSON.parse(shape.letters) as { text: string }).text === text.content,
    );
  return (
    <Section
      title={`Not taken of ${file.name}`}
      aside={<TextButton onClick={() => forget.mutate()}>seen</TextButton>}
    >
      <ul aria-label="Not taken" className="flex flex-col gap-1">
        {file.not_taken.map((line) => (
          // What the text says stands below, line by line.
          <li key={line}>{file.texts.length > 0 ? line.replace(/ \(“.*”.*\)$/, "") : line}</li>
        ))}
      </ul>
      {file.texts.length > 0 && (
        <ul aria-label="Text of the file" className="mt-2 flex max-h-40 flex-col gap-1 overflow-y-auto">
          {file.texts.map((text, number) => (
            <li key={number} className="flex items-baseline justify-between gap-3">
              <span className="truncate" title={text.content}>
                “{text.content}”
              </span>
              {isSet(text) ? (
                <span className="text-leaf">set</span>
              ) : (
                <TextButton
                  disabled={editor.busy}
                  onClick={() => editor.edit(lettersFor(text, perPx, fill), onSet)}
                >
                  set in Lettering
                </TextButton>
              )}
            </li>
          ))}
        </ul>
      )}
    </Section>
  );
}
