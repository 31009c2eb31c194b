/** Strokes and boxes drawn on the sheet, as clean-up steps in shares of the picture. */
import type { CleanStep } from "@/api/cleaning";
import { toDrawing, type Placing } from "@/sheet/placing";
import type { Point, Size } from "@/sheet/view";

export type Tool = "rub-out" | "bring-back" | "wipe-box" | "crop";

export const TOOLS: { tool: Tool; label: string; hint: string }[] = [
  { tool: "rub-out", label: "Rub out", hint: "Brush the ground over what should go" },
  { tool: "bring-back", label: "Bring back", hint: "Brush back what earlier steps took away" },
  { tool: "wipe-box", label: "Wipe a box", hint: "Everything in the box becomes ground" },
  { tool: "crop", label: "Cut to a box", hint: "Only the box stays" },
];
export const isBrush = (tool: Tool) => tool === "rub-out" || tool === "bring-back";

const LEAST_BOX = 0.004;

/** Return the step that a stroke on the sheet stands for; null if it is too small to mean anything. */
export function stepOf(
  tool: Tool,
  mm: Point[],
  { placing, picture, brushMm }: { placing: Placing; picture: Size; brushMm: number },
): CleanStep | null {
  const places = mm.map((place) => {
    const px = toDrawing(placing, place);
    return { x: px.x / picture.width, y: px.y / picture.height };
  });
  if (isBrush(tool)) {
    const width = brushMm / placing.mmPerPx / Math.max(picture.width, picture.height);
    const path = places.map(({ x, y }) => [within(x, -1, 2), within(y, -1, 2)]);
    return { kind: "brush", on: true, path, width: within(width, 0.0005, 1), restore: tool === "bring-back" };
  }
  const [first, last] = [places[0], places.at(-1)];
  if (!first || !last) return null;
  const box = {
    x_min: within(Math.min(first.x, last.x), 0, 1),
    y_min: within(Math.min(first.y, last.y), 0, 1),
    x_max: within(Math.max(first.x, last.x), 0, 1),
    y_max: within(Math.max(first.y, last.y), 0, 1),
  };
  if (box.x_max - box.x_min < LEAST_BOX || box.y_max - box.y_min < LEAST_BOX) return null;
  return { kind: tool, on: true, ...box };
}

/** A row of the list of steps: one step, or strokes of the brush that follow each other. */
export interface StepRow {
  from: number;
  count: number;
  step: CleanStep;
}

export function stepRows(steps: CleanStep[]): StepRow[] {
  const rows: StepRow[] = [];
  steps.forEach((step, from) => {
    const last = rows.at(-1);
    const same = step.kind === "brush" && last?.step.kind === "brush" && last.step.restore === step.restore;
    if (last && same) last.count += 1;
    else rows.push({ from, count: 1, step });
  });
  return rows;
}

const within = (value: number, least: number, most: number) => Math.min(most, Math.max(least, value));
