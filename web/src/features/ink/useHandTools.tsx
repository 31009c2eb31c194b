/** Rubbing out, bringing back and boxes, by hand on the sheet. */
import { useEffect, useState } from "react";
import type { CleanStep } from "@/api/cleaning";
import type { Placing } from "@/sheet/placing";
import { apply, type Point, type Size, type View } from "@/sheet/view";
import { isBrush, stepOf, type Tool } from "./strokes";

interface Options {
  sketchId: number | null;
  placing: Placing | null;
  picture: Size | null;
  /** The finished width, mm: a new brush is a fiftieth of it. */
  widthMm: number;
  onStep: (step: CleanStep) => void;
}

export function useHandTools({ sketchId, placing, picture, widthMm, onStep }: Options) {
  const [tool, setTool] = useState<Tool | null>(null);
  const [brushMm, setBrushMm] = useState(widthMm / 50);
  const [stroke, setStroke] = useState<Point[]>([]);
  useEffect(() => setTool(null), [sketchId]);
  const onStroke =
    tool && placing && picture
      ? (mm: Point[], done: boolean) => {
          setStroke(done ? [] : mm);
          const step = done ? stepOf(tool, mm, { placing, picture, brushMm }) : null;
          if (step) onStep(step);
          if (done && tool === "crop") setTool(null);
        }
      : undefined;
  return {
    tool,
    setTool,
    brushMm,
    setBrushMm,
    onStroke,
    marks: (view: View) => tool && <StrokeMark tool={tool} stroke={stroke} view={view} brushMm={brushMm} />,
  };
}

export type HandTools = ReturnType<typeof useHandTools>;

function StrokeMark({
  tool,
  stroke,
  view,
  brushMm,
}: {
  tool: Tool;
  stroke: Point[];
  view: View;
  brushMm: number;
}) {
  const px = stroke.map((place) => apply(view, place));
  const [first, last] = [px[0], px.at(-1)];
  if (!first || !last) return null;
  if (isBrush(tool))
    return (
      <polyline
        points={[...px, last].map(({ x, y }) => `${x},${y}`).join(" ")}
        fill="none"
        stroke={tool === "rub-out" ? "#c23b2a" : "#2f6db5"}
        strokeOpacity={0.35}
        strokeWidth={brushMm * view.scale}
        strokeLinecap="round"
        strokeLinejoin="round"
      />
    );
  return (
    <rect
      x={Math.min(first.x, last.x)}
      y={Math.min(first.y, last.y)}
      width={Math.abs(last.x - first.x)}
      height={Math.abs(last.y - first.y)}
      fill={tool === "wipe-box" ? "#c23b2a22" : "none"}
      stroke={tool === "wipe-box" ? "#c23b2a" : "#2f6db5"}
      strokeDasharray="5 4"
    />
  );
}
