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
import { move, scaleAbout, turnAbout, type Matrix } from "./matrix";
import { boxOf, sameColour, sameSize, smallerThan, touching, withGroups, type Selection } from "./selecting";
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
            <IconButton
              mark="copy"
              word="copy"
              disabled={!some}
              onClick={() => edit({ kind: "duplicate", ids, away_mm: 2 })}
            />
            <IconButton
              mark="group"
              word="group"
              disabled={!some || ids.length < 2}
              onClick={() => edit({ kind: "mark", ids, group: `group-${ids[0]}` })}
            />
            <IconButton
              mark="ungroup"
              word="ungroup"
              disabled={!some}
              onClick={() => edit({ kind: "mark", ids, group: "" })}
            />
            <IconButton
              mark="lock"
              word="lock"
              disabled={!some}
              onClick={() => edit({ kind: "mark", ids, locked: true }, () => onChoose([]))}
            />
            <IconButton
              mark="hide"
              word="hide"
              disabled={!some}
              onClick={() => edit({ kind: "mark", ids, hidden: true }, () => onChoose([]))}
            />
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
          <IconButton
            mark="outline"
            word="outline"
            aria-label="outline stroke"
            title="A drawn line becomes the area of its pen"
            disabled={!some}
            onClick={() => edit({ kind: "outline-stroke", ids })}
          />
          <IconButton
            mark="symmetric"
            word="symmetric"
            aria-label="make symmetric"
            title="Both halves alike"
            disabled={!some}
            onClick={() => edit({ kind: "make-symmetric", ids })}
          />
          <IconButton
            mark="true-forms"
            word="true forms"
            aria-label="true lines and circles"
            title="What is nearly a line or a circle becomes one"
            disabled={!some}
            onClick={() => edit({ kind: "tidy", ids, tolerance_mm: 0.1 })}
          />
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

function PlaceFields({
  current,
  chosen,
  edit,
}: {
  current: CurrentDrawing;
  chosen: Selection;
  edit: Editor["edit"];
}) {
  const { shapes, mm_per_px: perPx, figure_px: figure } = current.drawing;
  const [ratio, setRatio] = useState(true);
  const box = boxOf(shapes, chosen);
  if (!box) return null;
  const ids = [...withGroups(shapes, chosen)];
  const middle = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  const change = (matrix: Matrix) => edit({ kind: "transform", ids, matrix });
  const round = (px: number) => Number((px * perPx).toFixed(2));
  const scale = (sx: number, sy: number) => change(scaleAbout(middle, ratio ? sx : sx, ratio ? sx : sy));
  return (
    <>
      <div className="grid grid-cols-2 gap-x-4">
        <NumberField
          label="X"
          unit="mm"
          value={round(box.x - figure.x_min)}
          onDone={(x) =>
            changed(x, round(box.x - figure.x_min)) && change(move(x / perPx - (box.x - figure.x_min), 0))
          }
        />
        <NumberField
          label="Y"
          unit="mm"
          value={round(box.y - figure.y_min)}
          onDone={(y) =>
            changed(y, round(box.y - figure.y_min)) && change(move(0, y / perPx - (box.y - figure.y_min)))
          }
        />
        <NumberField
          label="W"
          unit="mm"
          value={round(box.width)}
          onDone={(w) => changed(w, round(box.width)) && scale(w / perPx / box.width, 1)}
        />
        <NumberField
          label="H"
          unit="mm"
          value={round(box.height)}
          onDone={(h) => {
            if (!changed(h, round(box.height))) return;
            const by = h / perPx / box.height;
            change(scaleAbout(middle, ratio ? by : 1, by));
          }}
        />
        <NumberField
          label="Scale"
          unit="%"
          value={100}
          onDone={(by) => changed(by, 100) && change(scaleAbout(middle, by / 100, by / 100))}
        />
        <NumberField
          label="Turn"
          unit="°"
          value={0}
          onDone={(by) => changed(by, 0) && change(turnAbout(middle, by))}
        />
      </div>
      <Row>
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="accent-blue-pencil"
            checked={ratio}
            onChange={(event) => setRatio(event.target.checked)}
          />
          keep ratio
        </label>
      </Row>
      <IconGrid label="Mirror">
        <IconButton
          mark="mirror-across"
          word="across"
          aria-label="mirror across"
          onClick={() => change(scaleAbout(middle, -1, 1))}
        />
        <IconButton
          mark="mirror-down"
          word="over"
          aria-label="mirror over"
          onClick={() => change(scaleAbout(middle, 1, -1))}
        />
      </IconGrid>
    </>
  );
}

const changed = (next: number, before: number) => Math.abs(next - before) > 1e-9;

function GrowFields({ ids, some, edit }: { ids: string[]; some: boolean; edit: Editor["edit"] }) {
  const [by, setBy] = useState(0.5);
  const [thin, setThin] = useState(0.02);
  return (
    <>
      <div className="mt-2 flex items-center justify-between gap-2">
        <NumberField label="By" unit="mm" value={by} onDone={setBy} />
        <span className="flex gap-1">
          <IconButton
            mark="grow"
            word="grow"
            disabled={!some}
            onClick={() => edit({ kind: "grow", ids, distance_mm: by, join: "round" })}
          />
          <IconButton
            mark="shrink"
            word="shrink"
            disabled={!some}
            onClick={() => edit({ kind: "grow", ids, distance_mm: -by, join: "round" })}
          />
        </span>
      </div>
      <div className="flex items-center justify-between gap-2">
        <NumberField label="Within" unit="mm" value={thin} onDone={setThin} />
        <IconButton
          mark="thin-out"
          word="thin out"
          aria-label="thin out nodes"
          disabled={!some}
          onClick={() => edit({ kind: "simplify", ids, tolerance_mm: thin })}
        />
      </div>
    </>
  );
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

function Row({ children }: { children: ReactNode }) {
  return <div className="mb-1 flex flex-wrap gap-x-3 gap-y-0.5">{children}</div>;
}
