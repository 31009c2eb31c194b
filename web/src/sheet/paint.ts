/** Painting on the sheet's canvas. Paths are parsed once a shape and kept as long as the shape is. */
import type { DrawingData, ShapeData } from "@/api/client";
import type { Placing } from "./placing";
import { rulerSteps, type Size, type View } from "./view";

export type Painter = (context: CanvasRenderingContext2D, view: View) => void;

const parsed = new WeakMap<ShapeData, Path2D>();

export function pathOf(shape: ShapeData): Path2D {
  let path = parsed.get(shape);
  if (!path) {
    path = new Path2D(shape.d);
    parsed.set(shape, path);
  }
  return path;
}

export const ruleOf = (shape: ShapeData) => shape.fill_rule as CanvasFillRule;
export const joinOf = (shape: ShapeData) => (shape.join === "mitre" ? "miter" : shape.join) as CanvasLineJoin;
export const capOf = (shape: ShapeData) => shape.cap as CanvasLineCap;

/** A line is drawn with the ends and corners it has. */
function takePen(context: CanvasRenderingContext2D, shape: ShapeData) {
  context.lineWidth = shape.stroke_width_px ?? 1;
  context.lineCap = capOf(shape);
  context.lineJoin = joinOf(shape);
  context.miterLimit = shape.mitre_limit;
}

/** How wide the rim below areas that meet is, screen px: half of it lies under the area itself. */
const SEAM_PX = 0.9;
/** Drawings of more shapes than this are painted without: nobody makes out their borders. */
const MOST_SEAMS = 3000;

const met = new WeakMap<readonly ShapeData[], ShapeData[]>();

/** Areas that may lie side by side with others of another colour; found once a drawing. */
export function meeting(shapes: readonly ShapeData[]): ShapeData[] {
  let found = met.get(shapes);
  if (!found) {
    const areas = shapes.filter((shape) => !shape.hidden && shape.stroke_width_px === null);
    const colours = new Set(areas.map((shape) => shape.fill));
    found = colours.size > 1 && areas.length <= MOST_SEAMS ? areas : [];
    met.set(shapes, found);
  }
  return found;
}

interface DrawingLook {
  /** Draws every shape in one colour, as a machine would mark it. */
  colour?: string;
  /** Shapes drawn in blue pencil. */
  selected?: ReadonlySet<string>;
  hairline?: boolean;
  alpha?: number;
}

export function paintDrawing(drawing: DrawingData, placing: Placing, look: DrawingLook = {}): Painter {
  return (context, view) => {
    context.save();
    place(context, view, placing);
    context.globalAlpha = look.alpha ?? 1;
    const colourOf = (shape: ShapeData) =>
      look.selected?.has(shape.id) ? "#2f6db5" : (look.colour ?? shape.fill);
    if (!look.hairline && (look.alpha ?? 1) === 1) {
      // Where two areas meet, each fills half of the pixels along the border, and the sheet would shine through
      // as a hairline: so they first lie on a rim of their own colours.
      context.lineWidth = SEAM_PX / (view.scale * placing.mmPerPx);
      for (const shape of meeting(drawing.shapes)) {
        context.strokeStyle = colourOf(shape);
        context.stroke(pathOf(shape));
      }
    }
    for (const shape of drawing.shapes) {
      if (shape.hidden) continue;
      const colour = colourOf(shape);
      if (look.hairline) {
        context.strokeStyle = colour;
        context.lineWidth = 1.25 / (view.scale * placing.mmPerPx);
        context.stroke(pathOf(shape));
      } else if (shape.stroke_width_px !== null) {
        context.strokeStyle = colour;
        takePen(context, shape);
        context.stroke(pathOf(shape));
      } else {
        context.fillStyle = colour;
        context.fill(pathOf(shape), ruleOf(shape));
      }
    }
    context.restore();
  };
}

/** Outlines of shapes as they would become. */
export function paintShapes(
  shapes: readonly ShapeData[],
  placing: Placing,
  colour: string,
  moved = { x: 0, y: 0 },
): Painter {
  return (context, view) => {
    context.save();
    place(context, view, placing);
    context.strokeStyle = colour;
    context.fillStyle = `${colour}30`;
    context.translate(moved.x, moved.y);
    for (const shape of shapes) {
      context.lineWidth = shape.stroke_width_px ?? 2 / (view.scale * placing.mmPerPx);
      if (shape.stroke_width_px === null) context.fill(pathOf(shape), ruleOf(shape));
      context.stroke(pathOf(shape));
    }
    context.restore();
  };
}

export function paintPicture(picture: CanvasImageSource, size: Size, placing: Placing): Painter {
  return (context, view) => {
    context.save();
    place(context, view, placing);
    context.imageSmoothingEnabled = view.scale * placing.mmPerPx < 3;
    context.drawImage(picture, 0, 0, size.width, size.height);
    context.restore();
  };
}

/** A rectangle of mm, for blanks, beds and pages. */
export function paintPage(page: Size, fill: string, edge = "#bbd3ea"): Painter {
  return (context, view) => {
    const [x, y, width, height] = [view.x, view.y, page.width * view.scale, page.height * view.scale];
    context.fillStyle = fill;
    context.fillRect(x, y, width, height);
    context.strokeStyle = edge;
    context.lineWidth = 1;
    context.strokeRect(Math.round(x) + 0.5, Math.round(y) + 0.5, Math.round(width), Math.round(height));
  };
}

/** Pale blue lines through the middle of the page. */
export function paintMiddle(page: Size): Painter {
  return (context, view) => {
    const x = Math.round(view.x + (page.width / 2) * view.scale) + 0.5;
    const y = Math.round(view.y + (page.height / 2) * view.scale) + 0.5;
    context.save();
    context.strokeStyle = "#bbd3ea";
    context.setLineDash([2, 5]);
    context.beginPath();
    context.moveTo(view.x, y);
    context.lineTo(view.x + page.width * view.scale, y);
    context.moveTo(x, view.y);
    context.lineTo(x, view.y + page.height * view.scale);
    context.stroke();
    context.restore();
  };
}

/** Which shape lies under a place given in drawing units: the topmost one. */
export function shapeAt(
  context: CanvasRenderingContext2D,
  drawing: DrawingData,
  x: number,
  y: number,
): ShapeData | null {
  for (const shape of [...drawing.shapes].reverse()) {
    const box = shape.box_px;
    if (shape.hidden || shape.locked) continue;
    if (x < box.x_min || x > box.x_max || y < box.y_min || y > box.y_max) continue;
    context.save();
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.lineWidth = Math.max(shape.stroke_width_px ?? 0, 3);
    const hit =
      shape.stroke_width_px === null
        ? context.isPointInPath(pathOf(shape), x, y, ruleOf(shape))
        : context.isPointInStroke(pathOf(shape), x, y);
    context.restore();
    if (hit) return shape;
  }
  return null;
}

export const RULER_PX = 22;

export function paintRulers(context: CanvasRenderingContext2D, view: View, viewport: Size) {
  context.fillStyle = "#f7f4ec";
  context.fillRect(0, 0, viewport.width, RULER_PX);
  context.fillRect(0, 0, RULER_PX, viewport.height);
  context.font = '9px "IBM Plex Mono"';
  context.fillStyle = "#2f6db5";
  context.textBaseline = "top";
  const { tick, long } = rulerSteps(view.scale);
  for (const upright of [false, true]) {
    const length = upright ? viewport.height : viewport.width;
    const offset = upright ? view.y : view.x;
    const first = Math.ceil((RULER_PX - offset) / view.scale / tick);
    const last = Math.floor((length - offset) / view.scale / tick);
    for (let k = first; k <= last; k++) {
      const at = Math.round(offset + k * tick * view.scale) + 0.5;
      const isLong = Math.abs((k * tick) / long - Math.round((k * tick) / long)) < 1e-6;
      const size = isLong ? 11 : 5;
      context.strokeStyle = isLong ? "#2f6db5" : "#bbd3ea";
      context.beginPath();
      if (upright) {
        context.moveTo(RULER_PX - size, at);
        context.lineTo(RULER_PX, at);
      } else {
        context.moveTo(at, RULER_PX - size);
        context.lineTo(at, RULER_PX);
      }
      context.stroke();
      if (isLong) label(context, String(Number((k * tick).toFixed(2))), at, upright);
    }
  }
  context.fillStyle = "#f7f4ec";
  context.fillRect(0, 0, RULER_PX, RULER_PX);
  context.strokeStyle = "#24272b2e";
  context.beginPath();
  context.moveTo(RULER_PX, RULER_PX - 0.5);
  context.lineTo(viewport.width, RULER_PX - 0.5);
  context.moveTo(RULER_PX - 0.5, RULER_PX);
  context.lineTo(RULER_PX - 0.5, viewport.height);
  context.stroke();
  context.fillStyle = "#2f6db5";
  context.fillText("mm", 5, 6);
}

function label(context: CanvasRenderingContext2D, text: string, at: number, upright: boolean) {
  context.save();
  if (upright) {
    context.translate(1, at - 2);
    context.rotate(-Math.PI / 2);
    context.fillText(text, 0, 0);
  } else {
    context.fillText(text, at + 3, 1);
  }
  context.restore();
}

function place(context: CanvasRenderingContext2D, view: View, placing: Placing) {
  context.translate(view.x + placing.origin.x * view.scale, view.y + placing.origin.y * view.scale);
  const scale = view.scale * placing.mmPerPx;
  context.scale(scale, scale);
}

/** More nodes than are painted within a frame on a slow machine. */
const MANY_NODES = 4000;
export const isHeavy = (drawing: DrawingData) => drawing.proof.readings.nodes > MANY_NODES;
