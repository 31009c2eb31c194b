/** Other palettes, by harmony or by words: several at once, each laid on the figure, to choose from. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type CurrentDrawing } from "@/api/client";
import { Button } from "@/ui/Button";
import { Knob } from "@/ui/Knob";
import { tellProblem } from "@/ui/notices";
import { Section } from "@/ui/Section";
import { proposed, type Proposal } from "./proposal";
import type { Editor } from "./useEdit";

const HARMONIES = ["complementary", "analogous", "triadic", "split", "tetradic", "monochrome"] as const;
const PER_HARMONY = 6;
// A figure of more shapes than this is shown by its colours alone.
const MOST_SHAPES = 400;

interface Props {
  current: CurrentDrawing;
  editor: Editor;
  proposal: Proposal;
  onPropose: (proposal: Proposal) => void;
}

export function PalettesPanel({ current, editor, proposal, onPropose }: Props) {
  const [words, setWords] = useState("");
  const [seed, setSeed] = useState(1);
  const [tone, setTone] = useState({ lightness: 0, chroma: 1 });
  const propose = useMutation({
    mutationFn: (body: { harmony?: string; seed: number; words: string }) =>
      ask(
        api.POST("/api/drawings/{drawing_id}/palette", {
          params: { path: { drawing_id: current.id } },
          body: { harmony: body.harmony ?? null, seed: body.seed, words: body.words },
        }),
      ),
    onSuccess: (found) => onPropose(found.ways[0] ?? null),
    onError: tellProblem,
  });
  const found = propose.data;
  const leave = () => {
    propose.reset();
    onPropose(null);
  };
  return (
    <Section title="Another palette">
      <div className="flex flex-wrap gap-x-3">
        {HARMONIES.map((name) => (
          <button
            key={name}
            type="button"
            className="link"
            disabled={propose.isPending}
            title="Six of them; click again for six others"
            onClick={() => {
              propose.mutate({ harmony: name, seed, words: "" });
              setSeed(seed + PER_HARMONY);
            }}
          >
            {name}
          </button>
        ))}
      </div>
      <form
        className="mt-1.5 flex gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          propose.mutate({ seed: 0, words });
        }}
      >
        <input
          aria-label="Palette in words"
          placeholder="pale moss and honey"
          value={words}
          maxLength={200}
          onChange={(event) => setWords(event.target.value)}
          className="min-w-0 flex-1 rounded border border-hair bg-sheet px-2 py-0.5"
        />
        <Button type="submit" disabled={!words.trim() || propose.isPending}>
          Propose
        </Button>
      </form>
      {found && found.unknown.length > 0 && (
        <p role="status" className="mt-1 text-pencil">
          Passed over, for the dictionary has no such word: {found.unknown.join(", ")}.
        </p>
      )}
      {found && proposal && (
        <>
          <div role="radiogroup" aria-label="Proposed palettes" className="mt-2 grid grid-cols-3 gap-1.5">
            {found.ways.map((way) => (
              <button
                key={way.said}
                type="button"
                role="radio"
                aria-checked={proposal.said === way.said}
                aria-label={way.said}
                title={way.said}
                className={`border bg-sheet p-1 ${proposal.said === way.said ? "border-red-pencil" : "border-hair"}`}
                onClick={() => onPropose(way)}
              >
                <Laid current={current} proposal={way} />
              </button>
            ))}
          </div>
          <div className="mt-2 flex gap-2">
            <Button
              kind="ink"
              disabled={editor.busy}
              onClick={() =>
                editor.edit({ kind: "recolour", change: proposal.change, ids: [], fill: "" }, leave)
              }
            >
              Take this palette
            </Button>
            <Button onClick={leave}>Leave it</Button>
          </div>
          <p className="mt-1 text-pencil">{proposal.said}</p>
        </>
      )}
      <Knob
        label="Lighter"
        reading={tone.lightness.toFixed(2)}
        value={tone.lightness}
        min={-0.5}
        max={0.5}
        step={0.02}
        onChange={(lightness) => setTone({ ...tone, lightness })}
      />
      <Knob
        label="More colour"
        reading={`× ${tone.chroma.toFixed(2)}`}
        value={tone.chroma}
        min={0}
        max={2}
        step={0.05}
        onChange={(chroma) => setTone({ ...tone, chroma })}
      />
      <button
        type="button"
        className="link mt-1"
        disabled={editor.busy || (tone.lightness === 0 && tone.chroma === 1)}
        onClick={() => editor.edit({ kind: "tone", ...tone }, () => setTone({ lightness: 0, chroma: 1 }))}
      >
        change the tone so
      </button>
    </Section>
  );
}

/** The figure in a palette, small; below it its colours. */
function Laid({ current, proposal }: { current: CurrentDrawing; proposal: NonNullable<Proposal> }) {
  const drawing = current.drawing;
  const boxes = drawing.shapes.map((shape) => shape.box_px);
  const left = Math.min(...boxes.map((box) => box.x_min));
  const top = Math.min(...boxes.map((box) => box.y_min));
  const wide = Math.max(...boxes.map((box) => box.x_max)) - left;
  const tall = Math.max(...boxes.map((box) => box.y_max)) - top;
  return (
    <>
      {drawing.shapes.length <= MOST_SHAPES && (
        <svg viewBox={`${left} ${top} ${wide} ${tall}`} className="mx-auto h-14 w-full" aria-hidden>
          {proposed(drawing.shapes, proposal).map((shape) =>
            shape.stroke_width_px === null ? (
              <path key={shape.id} d={shape.d} fill={shape.fill} fillRule={shape.fill_rule as "evenodd"} />
            ) : (
              <path
                key={shape.id}
                d={shape.d}
                fill="none"
                stroke={shape.fill}
                strokeWidth={shape.stroke_width_px}
                strokeLinecap="round"
                strokeLinejoin="round"
              />
            ),
          )}
        </svg>
      )}
      <span className="mt-1 flex h-2" aria-hidden>
        {Object.entries(proposal.change).map(([old, next]) => (
          <span key={old} className="grow" style={{ background: next }} title={`${old} → ${next}`} />
        ))}
      </span>
    </>
  );
}
