/** Which shapes are meant: pure rules over what the screen knows. Places in drawing units. */
import type { ShapeData } from "@/api/client";
import type { Point } from "@/sheet/view";

export type Selection = ReadonlySet<string>;

const free = (shape: ShapeData) => !shape.locked && !shape.hidden;

/** Shapes of a group are chosen together. */
export function withGroups(shapes: readonly ShapeData[], ids: Iterable<string>): Selection {
  const chosen = new Set(ids);
  const groups = new Set(
    shapes.filter((each) => chosen.has(each.id) && each.group).map((each) => each.group),
  );
  return new Set(
    shapes.filter((each) => chosen.has(each.id) || groups.has(each.group)).map((each) => each.id),
  );
}

/** Shapes that lie whole in a box. */
export function inBox(shapes: readonly ShapeData[], a: Point, b: Point): string[] {
  const [x0, x1] = [Math.min(a.x, b.x), Math.max(a.x, b.x)];
  const [y0, y1] = [Math.min(a.y, b.y), Math.max(a.y, b.y)];
  return shapes
    .filter(free)
    .filter(({ box_px: box }) => box.x_min >= x0 && box.x_max <= x1 && box.y_min >= y0 && box.y_max <= y1)
    .map((shape) => shape.id);
}

/** Shapes whose box's corners and middle all lie in a closed line. */
export function inLasso(shapes: readonly ShapeData[], line: readonly Point[]): string[] {
  return shapes
    .filter(free)
    .filter(({ box_px: box }) =>
      [
        { x: box.x_min, y: box.y_min },
        { x: box.x_max, y: box.y_min },
        { x: box.x_min, y: box.y_max },
        { x: box.x_max, y: box.y_max },
        { x: (box.x_min + box.x_max) / 2, y: (box.y_min + box.y_max) / 2 },
      ].every((place) => inside(line, place)),
    )
    .map((shape) => shape.id);
}

function inside(line: readonly Point[], place: Point): boolean {
  let odd = false;
  line.forEach((a, index) => {
    const b = line[(index + 1) % line.length]!;
    if (a.y > place.y !== b.y > place.y && place.x < a.x + ((place.y - a.y) * (b.x - a.x)) / (b.y - a.y))
      odd = !odd;
  });
  return odd;
}

export function sameColour(shapes: readonly ShapeData[], chosen: Selection): string[] {
  const fills = new Set(shapes.filter((each) => chosen.has(each.id)).map((each) => each.fill));
  return shapes.filter((each) => free(each) && fills.has(each.fill)).map((each) => each.id);
}

/** Shapes whose area is within a fifth of a chosen one's. */
export function sameSize(shapes: readonly ShapeData[], chosen: Selection): string[] {
  const areas = shapes.filter((each) => chosen.has(each.id)).map((each) => each.area_px2);
  return shapes
    .filter((each) => free(each) && areas.some((area) => Math.abs(each.area_px2 - area) <= 0.2 * area))
    .map((each) => each.id);
}

/** Shapes whose box touches a chosen one's. */
export function touching(shapes: readonly ShapeData[], chosen: Selection): string[] {
  const boxes = shapes.filter((each) => chosen.has(each.id)).map((each) => each.box_px);
  return shapes
    .filter(
      (each) =>
        free(each) &&
        boxes.some(
          (box) =>
            each.box_px.x_min <= box.x_max &&
            box.x_min <= each.box_px.x_max &&
            each.box_px.y_min <= box.y_max &&
            box.y_min <= each.box_px.y_max,
        ),
    )
    .map((each) => each.id);
}

export function smallerThan(shapes: readonly ShapeData[], areaMm2: number, mmPerPx: number): string[] {
  return shapes.filter((each) => free(each) && each.area_px2 * mmPerPx ** 2 < areaMm2).map((each) => each.id);
}

export interface SelectionBox {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** The box around chosen shapes, or null if there is none. */
export function boxOf(shapes: readonly ShapeData[], chosen: Selection): SelectionBox | null {
  const boxes = shapes.filter((each) => chosen.has(each.id)).map((each) => each.box_px);
  if (!boxes.length) return null;
  const x = Math.min(...boxes.map((box) => box.x_min));
  const y = Math.min(...boxes.map((box) => box.y_min));
  return {
    x,
    y,
    width: Math.max(...boxes.map((box) => box.x_max)) - x,
    height: Math.max(...boxes.map((box) => box.y_max)) - y,
  };
}
