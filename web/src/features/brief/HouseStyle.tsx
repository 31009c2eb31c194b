/** What keeps the set looking like one hand: look, line weight, detail, colours, format, a reference. */
import { useQuery } from "@tanstack/react-query";
import { api, ask, pictureUrl, type CollectionView, type Sketch } from "@/api/client";
import { LOOKS } from "@/api/looks";
import { keys, useScene } from "@/api/queries";
import { mm } from "@/ui/format";
import { Section } from "@/ui/Section";
import { Segments } from "@/ui/Segments";
import { Tick } from "@/ui/Tick";
import type { Draft } from "./draft";
import { Palette } from "./Palette";
import { Knob } from "@/ui/Knob";

const DETAILS = [
  { value: "plain", label: "Plain" },
  { value: "some", label: "Some" },
  { value: "rich", label: "Rich" },
] as const;
const FORMATS = [
  { value: "square", label: "Square" },
  { value: "landscape", label: "Wide" },
  { value: "portrait", label: "Tall" },
] as const;
const USUAL_SHARE = 0.018;

interface Props {
  view: CollectionView;
  draft: Draft;
  onChange: (change: Partial<Draft>) => void;
}

export function HouseStyle({ view, draft, onChange }: Props) {
  const { style } = draft;
  const put = (change: Partial<Draft["style"]>) => onChange({ style: { ...style, ...change } });
  const width = view.yardstick.yardstick.width_mm;
  const figureShare = useScene().data?.figure_share ?? 1;
  const usual = round((USUAL_SHARE * width) / figureShare);
  const chosen = style.line_mm ?? usual;
  return (
    <Section title="House style">
      <Segments label="Look" value={draft.look} segments={LOOKS} onChange={(look) => onChange({ look })} />
      {draft.reference_id ? (
        <Reference id={draft.reference_id} width={width} onClear={() => onChange({ reference_id: null })} />
      ) : (
        <div className="mt-2.5">
          <Tick checked={style.line_mm != null} onChange={(on) => put({ line_mm: on ? usual : null })}>
            Line weight on the finished piece
          </Tick>
          {style.line_mm != null && (
            <Knob
              label={`at ${mm(width)} wide`}
              reading={mm(chosen)}
              value={chosen}
              min={round(width * 0.003)}
              max={round(width * 0.05)}
              step={0.05}
              onChange={(line_mm) => put({ line_mm: round(line_mm) })}
            />
          )}
          <div className="mt-2 grid grid-cols-[62px_1fr] items-center gap-y-1.5">
            <span>Detail</span>
            <Segments
              label="Detail"
              value={style.detail}
              segments={[...DETAILS]}
              onChange={(detail) => put({ detail })}
            />
          </div>
        </div>
      )}
      <div className="mt-1.5 grid grid-cols-[62px_1fr] items-center gap-y-1.5">
        <span>Format</span>
        <Segments
          label="Format"
          value={style.format}
          segments={[...FORMATS]}
          onChange={(format) => put({ format })}
        />
      </div>
      {draft.look === "flat" && !draft.reference_id && <Palette style={style} onChange={put} />}
      {!draft.reference_id && (
        <p className="mt-2 text-pencil">
          To follow a picture's hand, choose it in Sketch and press “use as reference”.
        </p>
      )}
    </Section>
  );
}

function Reference({ id, width, onClear }: { id: number; width: number; onClear: () => void }) {
  const hand = useHand(id);
  const sketch = useSketch(id);
  const figureShare = useScene().data?.figure_share ?? 1;
  const found = hand.data;
  return (
    <div className="mt-2.5 flex gap-2.5" aria-label="Reference">
      {sketch.data && (
        <img
          src={pictureUrl(sketch.data.thumb_sha)}
          alt="Reference sketch"
          className="on-paper size-20 border border-hair object-contain"
        />
      )}
      <div className="min-w-0">
        <p>In the style of this sketch:</p>
        {found ? (
          <p className="num text-pencil">
            {found.line_share ? `line ${mm((found.line_share * width) / figureShare)}` : "no lines"}
            {found.palette.length > 0 && `, ${found.palette.length} colours`}
          </p>
        ) : (
          <p className="text-pencil">{hand.error ? hand.error.message : "measuring …"}</p>
        )}
        <button type="button" className="link" onClick={onClear}>
          no reference
        </button>
      </div>
    </div>
  );
}

function useHand(id: number) {
  return useQuery({
    queryKey: keys.hand(id),
    queryFn: () => ask(api.GET("/api/sketches/{sketch_id}/hand", { params: { path: { sketch_id: id } } })),
    staleTime: Infinity,
  });
}

function useSketch(id: number) {
  return useQuery<Sketch>({
    queryKey: ["sketch", id],
    queryFn: () => ask(api.GET("/api/sketches/{sketch_id}", { params: { path: { sketch_id: id } } })),
  });
}

const round = (value: number) => Math.round(value * 20) / 20;
