/** Changes of place as SVG writes them: (a, b, c, d, e, f), x' = a x + c y + e, y' = b x + d y + f. */
import type { Point } from "@/sheet/view";

export type Matrix = [number, number, number, number, number, number];

export const move = (dx: number, dy: number): Matrix => [1, 0, 0, 1, dx, dy];

export function scaleAbout(middle: Point, sx: number, sy: number): Matrix {
  return [sx, 0, 0, sy, middle.x * (1 - sx), middle.y * (1 - sy)];
}

/** Clockwise on the screen. */
export function turnAbout(middle: Point, degrees: number): Matrix {
  const angle = (degrees * Math.PI) / 180;
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return [c, s, -s, c, middle.x - c * middle.x + s * middle.y, middle.y - s * middle.x - c * middle.y];
}

export function applyTo([a, b, c, d, e, f]: Matrix, place: Point): Point {
  return { x: a * place.x + c * place.y + e, y: b * place.x + d * place.y + f };
}
