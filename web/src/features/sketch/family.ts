/** Which sketch was drawn after which. */
import type { Sketch } from "@/api/client";

export interface Kin {
  sketch: Sketch;
  /** 0 for the oldest shown; each generation one more. */
  depth: number;
}

const MOST_GENERATIONS = 12;

/** Return a sketch's ancestors, oldest first, itself, and what was drawn after it. */
export function familyOf(chosen: Sketch, sketches: Sketch[]): Kin[] {
  const byId = new Map(sketches.map((sketch) => [sketch.id, sketch]));
  const line: Sketch[] = [];
  let at: Sketch | undefined = chosen;
  while (at && line.length < MOST_GENERATIONS && !line.includes(at)) {
    line.unshift(at);
    at = at.parent_id === null ? undefined : byId.get(at.parent_id);
  }
  const children = sketches.filter((sketch) => sketch.parent_id === chosen.id);
  return [
    ...line.map((sketch, depth) => ({ sketch, depth })),
    ...children.map((sketch) => ({ sketch, depth: line.length })),
  ];
}

/** Return how a sketch came from its parent, in words. */
export function stepWords(sketch: Sketch): string {
  const variations = (sketch.order?.variations ?? []) as [string, number][];
  const last = variations.at(-1);
  if (last) return last[0] === "near" ? "near" : "far";
  return sketch.parent_id === null ? "" : "in its style";
}
