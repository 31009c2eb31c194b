/** Shapes as a whole: choosing, placing, putting together. */
import { useState, type ReactNode } from "react";
import type { CurrentDrawing, Operation } from "@/api/client";
import { Button } from "@/ui/Button";
import { NumberField } from "@/ui/Field";
import { mm, plural } from "@/ui/format";
import { IconButton, IconGrid } from "@/ui/IconButton";
import type { Mark } from "@/ui/marks";
import { Section } from "@/ui/Section";
import { TextButton } from "@/ui/TextButton";
import { sameColour, sameSize, smallerThan, touching, type Selection } from "./selecting";
import { GrowFields, PlaceFields, Row } from "./ShapeFields";
import type { Editor } from "./useEdit";

interface Props {
  current: CurrentDrawing;
  chosen: Selection;
  onChoose: (ids: Iterable<string>) => void;
  editor: Editor;
  tool: ShapeTool;
  onTool: (tool: ShapeTool) => void;
  fill: string;
  /** How a drawing from elsewhere takes this one's place. */
  bringIn: ReactNode;
}

export type ShapeTool = "choose" | "lasso" | "patch-join" | "patch-cut" | "patch-recolour";

const TOOLS: [ShapeTool, Mark, string, string][] = [
  ["choose", "box", "box", "Click a shape, or drag a box around several; drag a chosen one to move it"],
  ["lasso", "lasso", "lasso", "Draw around the shapes you mean"],
  ["patch-join", "patch-on", "add", "Draw an area that is joined to the shape of its colour"],
  ["patch-cut", "patch-out", "cut out", "Draw an area that is cut out of what it covers"],
  ["patch-recolour", "patch-over", "tint", "Draw an area that gets the chosen colour"],
];

interface Keeping {
  mark: "copy" | "group" | "ungroup" | "lock" | "hide";
  /** How many shapes it takes. */
  least: number;
  does: (ids: string[]) => Operation;
  /** Whether the shapes can no longer be chosen afterwards. */
  lets?: boolean;
}

const KEEPING: Keeping[] = [
  { mark: "copy", least: 1, does: (ids) => ({ kind: "duplicate", ids, away_mm: 2 }) },
  { mark: "group", least: 2, does: (ids) => ({ kind: "mark", ids, group: `group-${ids[0]}` }) },
  { mark: "ungroup", least: 1, does: (ids) => ({ kind: "mark", ids, group: "" }) },
  { mark: "lock", least: 1, does: (ids) => ({ kind: "mark", ids, locked: true }), lets: true },
  { mark: "hide", least: 1, does: (ids) => ({ kind: "mark", ids, hidden: true }), lets: true },
];

interface Bettering {
  mark: Mark;
  word: string;
  name: string;
  hint: string;
  does: (ids: string[]) => Operation;
}

const BETTERING: Bettering[] = [
  {
    mark: "outline",
    word: "outline",
    name: "outline stroke",
    hint: "A drawn line becomes the area of its pen",
    does: (ids) => ({ kind: "outline-stroke", ids }),
  },
  {
    mark: "symmetric",
    word: "symmetric",
    name: "make symmetric",
    hint: "Both halves alike",
    does: (ids) => ({ kind: "make-symmetric", ids }),
  },
  {
    mark: "true-forms",
    word: "true forms",
    name: "true lines and circles",
    hint: "What is nearly a line or a circle becomes one",
    does: (ids) => ({ kind: "tidy", ids, tolerance_mm: 0.1 }),
  },
];

export function ShapesPanel({ current, chosen, onChoose, editor, tool, onTool, fill, bringIn }: Props) {
  const { shapes, mm_per_px: perPx, proof } = current.drawing;
  const ids = [...chosen];
  const some = ids.length > 0 && !editor.busy;
  const { edit } = editor;
  const [under, setUnder] = useState(1);
  return (
    <>
      <Section title="Choose" aside={<span className="num text-pencil">{ids.length || "none"}</span>}>
        <IconGrid label="With the pencil">
          {TOOLS.map(([value, mark, word, hint]) => (
            <IconButton
              key={value}
              mark={mark}
              word={word}
              title={hint}
              aria-pressed={tool === value}
              onClick={() => onTool(value)}
            />
          ))}
        </IconGrid>
        <Row>
          <TextButton onClick={() => onChoose(shapes.filter((s) => !s.locked && !s.hidden).map((s) => s.id))}>
            select all {shapes.length}
          </TextButton>
          <TextButton disabled={!ids.length} onClick={() => onChoose(sameColour(shapes, chosen))}>
            same colour
          </TextButton>
          <TextButton disabled={!ids.length} onClick={() => onChoose(sameSize(shapes, chosen))}>
            same size
          </TextButton>
          <TextButton disabled={!ids.length} onClick={() => onChoose(touching(shapes, chosen))}>
            touching
          </TextButton>
        </Row>
        <div className="flex items-baseline justify-between">
          <NumberField label="All under" unit="mm²" value={under} onDone={setUnder} />
          <TextButton onClick={() => onChoose(smallerThan(shapes, under, perPx))}>choose</TextButton>
        </div>
        <p className="text-sm text-pencil">
          {ids.length
            ? `${plural(ids.length, "shape")} selected`
            : "Click a shape to select it; Shift adds more."}
        </p>
      </Section>
      {ids.length > 0 && (
        <Section title="Place">
          <PlaceFields current={current} chosen={chosen} edit={edit} />
          <IconGrid label="Align">
            {(["left", "centre", "right", "top", "middle", "bottom"] as const).map((to) => (
              <IconButton
                key={to}
                mark={to}
                word={to}
                disabled={!some}
                onClick={() => edit({ kind: "align", ids, to })}
              />
            ))}
            {(["across", "down"] as const).map((along) => (
              <IconButton
                key={along}
                mark={along}
                word={`spread ${along === "across" ? "↔" : "↕"}`}
                aria-label={`spread ${along}`}
                title={`Equal room between three or more, ${along}`}
                disabled={!some || ids.length < 3}
                onClick={() => edit({ kind: "distribute", ids, along })}
              />
            ))}
          </IconGrid>
          <IconGrid label="Order">
            {(["front", "up", "down", "back"] as const).map((place) => (
              <IconButton
                key={place}
                mark={place === "down" ? "under" : place}
                word={place}
                disabled={!some}
                onClick={() => edit({ kind: "order", ids, place })}
              />
            ))}
          </IconGrid>
          <IconGrid label="Keep">
            {KEEPING.map(({ mark, least, does, lets }) => (
              <IconButton
                key={mark}
                mark={mark}
                word={mark}
                disabled={!some || ids.length < least}
                onClick={() => edit(does(ids), lets ? () => onChoose([]) : undefined)}
              />
            ))}
          </IconGrid>
          <Button
            kind="danger"
            title="Delete"
            className="mt-2"
            disabled={!some}
            onClick={() => edit({ kind: "delete", ids }, () => onChoose([]))}
          >
            {ids.length > 1 ? `Delete ${ids.length} shapes` : "Delete shape"}
          </Button>
        </Section>
      )}
      <Section title="Put together">
        <IconGrid label="Of two or more">
          {(["join", "subtract", "intersect", "split"] as const).map((how) => (
            <IconButton
              key={how}
              mark={how}
              word={how}
              disabled={!some || ids.length < 2}
              onClick={() => edit({ kind: "combine", ids, how })}
            />
          ))}
        </IconGrid>
        <IconGrid label="Make better" wide>
          {BETTERING.map(({ mark, word, name, hint, does }) => (
            <IconButton
              key={mark}
              mark={mark}
              word={word}
              aria-label={name}
              title={hint}
              disabled={!some}
              onClick={() => edit(does(ids))}
            />
          ))}
        </IconGrid>
        <GrowFields ids={ids} some={some} edit={edit} />
        <IconGrid label="New form">
          {(["box", "ellipse", "polygon", "star"] as const).map((form) => (
            <IconButton
              key={form}
              mark={form === "box" ? "rectangle" : form}
              word={form}
              aria-label={`new ${form}`}
              disabled={editor.busy}
              onClick={() =>
                edit({ kind: "new-form", form, box: quarter(current), sides: form === "star" ? 5 : 6, fill })
              }
            />
          ))}
        </IconGrid>
      </Section>
      <Marked current={current} edit={edit} />
      <p className="px-4 py-2 text-sm text-pencil">
        {plural(shapes.length, "shape")}, {proof.readings.nodes} nodes
      </p>
      <ul className="px-4 pb-3">
        <li className="py-0.5">
          <a className="link" href={`/api/motifs/${current.motif_id}/drawing.svg`} download>
            drawing as SVG
          </a>
        </li>
        <li className="py-0.5">{bringIn}</li>
      </ul>
    </>
  );
}

/** A quarter of the figure's box, in its middle: where a new form appears. */
function quarter({ drawing }: CurrentDrawing): [number, number, number, number] {
  const { x_min: x0, y_min: y0, x_max: x1, y_max: y1 } = drawing.figure_px;
  const size = Math.min(x1 - x0, y1 - y0) / 4;
  return [(x0 + x1 - size) / 2, (y0 + y1 - size) / 2, size, size];
}

/** Locked and hidden shapes, which the sheet does not let anyone choose. */
function Marked({ current, edit }: { current: CurrentDrawing; edit: (operation: Operation) => void }) {
  const marked = current.drawing.shapes.filter((shape) => shape.locked || shape.hidden);
  if (!marked.length) return null;
  return (
    <Section title="Locked or hidden">
      <ul>
        {marked.map((shape) => (
          <li key={shape.id} className="flex justify-between">
            <span>
              {shape.id}{" "}
              <span className="text-pencil">
                {mm(shape.area_px2 * current.drawing.mm_per_px ** 2, "mm²")}
              </span>
            </span>
            <TextButton onClick={() => edit({ kind: "mark", ids: [shape.id], locked: false, hidden: false })}>
              {shape.hidden ? "show" : "unlock"}
            </TextButton>
          </li>
        ))}
      </ul>
    </Section>
  );
}
