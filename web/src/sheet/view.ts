/**
 * View maths of the sheet: plain values, no DOM. The sheet's own frame is mm, x right, y down, (0, 0) at
 * the blank's upper left corner; the screen's is CSS px from the viewport's upper left corner.
 */

export interface Point {
  x: number;
  y: number;
}

export interface Size {
  width: number;
  height: number;
}

/** px = offset + mm * scale */
export interface View {
  scale: number;
  x: number;
  y: number;
}

/** A CSS px is 1/96 in by definition; screens are near enough for a look at true size. */
export const TRUE_SCALE = 96 / 25.4;
const LEAST_SCALE = 0.05;
const MOST_SCALE = 800;

export function apply(view: View, mm: Point): Point {
  return { x: view.x + mm.x * view.scale, y: view.y + mm.y * view.scale };
}

export function invert(view: View, px: Point): Point {
  return { x: (px.x - view.x) / view.scale, y: (px.y - view.y) / view.scale };
}

/** Scale about a place on the screen, which stays where it is. */
export function zoomAt(view: View, px: Point, factor: number): View {
  const scale = Math.min(MOST_SCALE, Math.max(LEAST_SCALE, view.scale * factor));
  const fixed = invert(view, px);
  return { scale, x: px.x - fixed.x * scale, y: px.y - fixed.y * scale };
}

export function pan(view: View, dx: number, dy: number): View {
  return { ...view, x: view.x + dx, y: view.y + dy };
}

/** Show a whole page in the middle with a margin in px around it. */
export function fit(page: Size, viewport: Size, margin = 28): View {
  const room = {
    width: Math.max(40, viewport.width - 2 * margin),
    height: Math.max(40, viewport.height - 2 * margin),
  };
  const scale = Math.min(room.width / page.width, room.height / page.height);
  return centred(page, viewport, Math.min(MOST_SCALE, Math.max(LEAST_SCALE, scale)));
}

/** Show a page in the middle at a scale. */
export function centred(page: Size, viewport: Size, scale: number): View {
  return {
    scale,
    x: (viewport.width - page.width * scale) / 2,
    y: (viewport.height - page.height * scale) / 2,
  };
}

/** Bring a place to the middle, close enough to see something of a given size. */
export function flyTo(place: Point, sizeMm: number, viewport: Size): View {
  const shown = Math.max(sizeMm * 14, 6);
  const scale = Math.min(MOST_SCALE, Math.min(viewport.width, viewport.height) / shown);
  return { scale, x: viewport.width / 2 - place.x * scale, y: viewport.height / 2 - place.y * scale };
}

/** The ruler's tick distances in mm at a scale: small ones at least 5 px apart, and how many make a long one. */
export function rulerSteps(scale: number): { tick: number; long: number } {
  const steps = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000];
  const tick = steps.find((step) => step * scale >= 5) ?? 1000;
  return { tick, long: String(tick).replace(/[0.]/g, "") === "2" ? tick * 5 : tick * 10 };
}
