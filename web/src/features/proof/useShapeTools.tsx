/** Choosing and moving shapes on the sheet, and drawing patches: what a drag means. */
import { useState } from "react";
import type { CurrentDrawing } from "@/api/client";
import { shapeAt } from "@/sheet/paint";
import { toDrawing, type Placing } from "@/sheet/placing";
import { apply, type Point, type View } from "@/sheet/view";
import { inBox, inLasso, withGroups, type Selection } from "./selecting";
import { move } from "./matrix";
import type { ShapeTool } from "./ShapesPanel";
import type { Editor } from "./useEdit";

interface Options {
  current: CurrentDrawing;
  placing: Placing;
  chosen: Selection;
  onChoose: (ids: Iterable<string>) => void;
  editor: Editor;
  tool: ShapeTool;
  fill: string;
}

/** A context of its own to ask what lies where: hit tests need no screen. */
let asked: CanvasRenderingContext2D | null = null;
const context = () => (asked ??= document.createElement("canvas").getContext("2d"));

export function useShapeTools({ current, placing, chosen, onChoose, editor, tool, fill }: Options) {
  const [stroke, setStroke] = useState<Point[]>([]);
  const { drawing } = current;
  const places = stroke.map((mm) => toDrawing(placing, mm));
  const [first, last] = [places[0], places.at(-1)];
  const canvas = context();
  const held = tool === "choose" && first && canvas ? shapeAt(canvas, drawing, first.x, first.y) : null;
  const moves = held !== null && chosen.has(held.id);
  const by = moves && first && last ? { x: last.x - first.x, y: last.y - first.y } : null;

  const onStroke = (mm: Point[], done: boolean) => {
    if (!done) return setStroke(mm);
    setStroke([]);
    const line = mm.map((place) => toDrawing(placing, place));
    const [a, b] = [line[0]!, line.at(-1)!];
    const at = tool === "choose" && canvas ? shapeAt(canvas, drawing, a.x, a.y) : null;
    if (tool === "choose" && at && chosen.has(at.id)) {
      editor.edit({
        kind: "transform",
        ids: [...withGroups(drawing.shapes, chosen)],
        matrix: move(b.x - a.x, b.y - a.y),
      });
    } else if (tool === "choose") onChoose(inBox(drawing.shapes, a, b));
    else if (tool === "lasso") onChoose(inLasso(drawing.shapes, line));
    else {
      const how = tool === "patch-join" ? "join" : tool === "patch-cut" ? "cut" : "recolour";
      editor.edit({ kind: "patch", line: line.map(({ x, y }) => [x, y]), how, fill, ids: [...chosen] });
    }
  };

  return {
    onStroke,
    /** How far chosen shapes are being dragged, drawing units. */
    by,
    marks: (view: View) => stroke.length > 1 && !moves && <Drag tool={tool} stroke={stroke} view={view} />,
  };
}

function Drag({ tool, stroke, view }: { tool: ShapeTool; stroke: Point[]; view: View }) {
  const px = stroke.map((place) => apply(view, place));
  const [first, last] = [px[0]!, px.at(-1)!];
  const red = tool === "patch-cut";
  const colour = red ? "#c23b2a" : "#2f6db5";
  if (tool === "choose")
    return (
      <rect
        x={Math.min(first.x, last.x)}
        y={Math.min(first.y, last.y)}
        width={Math.abs(last.x - first.x)}
        height={Math.abs(last.y - first.y)}
        fill={`${colour}14`}
        stroke={colour}
        strokeDasharray="4 3"
      />
    );
  return (
    <polygon
      points={px.map(({ x, y }) => `${x},${y}`).join(" ")}
      fill={`${colour}22`}
      stroke={colour}
      strokeWidth="1.5"
      strokeDasharray={tool === "lasso" ? "4 3" : undefined}
    />
  );
}
