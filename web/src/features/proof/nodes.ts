/** Nodes and handles of a path: what is near a place, and what moves along with what. Drawing units. */
import type { Point } from "@/sheet/view";

export interface PathPoints {
  closed: boolean;
  /** Rows of four places: start, handle, handle, end. */
  segments: number[][][];
}

/** A node of a path; index n of an open path with n segments is its end. */
export interface NodeRef {
  path: number;
  node: number;
}

/** A handle: 1 leaves a segment's start, 2 reaches its end. */
export interface HandleRef {
  path: number;
  segment: number;
  which: 1 | 2;
}

export const keyOf = ({ path, node }: NodeRef) => `${path}:${node}`;
export const refOf = (key: string): NodeRef => {
  const [path, node] = key.split(":").map(Number);
  return { path: path!, node: node! };
};

export function nodesOf(paths: readonly PathPoints[]): { ref: NodeRef; at: Point }[] {
  return paths.flatMap((each, path) => {
    const starts = each.segments.map((segment, node) => ({ ref: { path, node }, at: place(segment[0]!) }));
    const last = each.segments.at(-1);
    if (!each.closed && last) starts.push({ ref: { path, node: each.segments.length }, at: place(last[3]!) });
    return starts;
  });
}

/** The handles beside chosen nodes. */
export function handlesOf(
  paths: readonly PathPoints[],
  chosen: ReadonlySet<string>,
): { ref: HandleRef; at: Point; node: Point }[] {
  return [...chosen].flatMap((key) => {
    const { path, node } = refOf(key);
    const each = paths[path];
    if (!each) return [];
    const count = each.segments.length;
    const out: { ref: HandleRef; at: Point; node: Point }[] = [];
    const after = each.segments[node];
    if (after)
      out.push({ ref: { path, segment: node, which: 1 }, at: place(after[1]!), node: place(after[0]!) });
    const number = node > 0 ? node - 1 : each.closed ? count - 1 : -1;
    const before = each.segments[number];
    if (before)
      out.push({ ref: { path, segment: number, which: 2 }, at: place(before[2]!), node: place(before[3]!) });
    return out;
  });
}

export function nearestOf<T extends { at: Point }>(items: readonly T[], to: Point, within: number): T | null {
  let best: T | null = null;
  let least = within;
  for (const item of items) {
    const away = Math.hypot(item.at.x - to.x, item.at.y - to.y);
    if (away <= least) [best, least] = [item, away];
  }
  return best;
}

/** Move nodes; their handles go along. */
export function moveNodes(
  paths: readonly PathPoints[],
  chosen: ReadonlySet<string>,
  by: Point,
): PathPoints[] {
  return paths.map((each, path) => {
    const count = each.segments.length;
    const moves = (node: number) => chosen.has(keyOf({ path, node: each.closed ? node % count : node }));
    return {
      ...each,
      segments: each.segments.map((segment, k) => {
        const [start, end] = [moves(k), moves(k + 1)];
        if (!start && !end) return segment;
        return segment.map((point, index) => ((index < 2 ? start : end) ? add(point, by) : point));
      }),
    };
  });
}

/** Move a handle; at a smooth node the other one turns with it. */
export function moveHandle(
  paths: readonly PathPoints[],
  { path, segment, which }: HandleRef,
  by: Point,
): PathPoints[] {
  const each = paths[path]!;
  const segments = each.segments.map((row) => row.map((point) => [...point]));
  const count = segments.length;
  const mine = segments[segment]![which]!;
  const node = segments[segment]![which === 1 ? 0 : 3]!;
  const number = which === 1 ? segment - 1 : segment + 1;
  const wrapped = each.closed ? (number + count) % count : number;
  const other = segments[wrapped]?.[which === 1 ? 2 : 1];
  const smooth = other !== undefined && turnOf(mine, node, other) < 0.02;
  segments[segment]![which] = add(mine, by);
  if (smooth && other) {
    const [x, y] = [node[0]! - segments[segment]![which]![0]!, node[1]! - segments[segment]![which]![1]!];
    const size = Math.hypot(x, y) || 1;
    const length = Math.hypot(other[0]! - node[0]!, other[1]! - node[1]!);
    segments[wrapped]![which === 1 ? 2 : 1] = [
      node[0]! + (x / size) * length,
      node[1]! + (y / size) * length,
    ];
  }
  return paths.map((one, index) => (index === path ? { ...one, segments } : one));
}

/** How far three places are from lying in one line, as a sine; 1 where one has no length. */
function turnOf(a: number[], node: number[], b: number[]): number {
  const [ax, ay] = [node[0]! - a[0]!, node[1]! - a[1]!];
  const [bx, by] = [b[0]! - node[0]!, b[1]! - node[1]!];
  const size = Math.hypot(ax, ay) * Math.hypot(bx, by);
  if (size < 1e-9 || ax * bx + ay * by < 0) return 1;
  return Math.abs(ax * by - ay * bx) / size;
}

export function dataOf(paths: readonly PathPoints[]): string {
  return paths
    .filter((each) => each.segments.length)
    .map(
      (each) =>
        `M${each.segments[0]![0]!.join(" ")}` +
        each.segments.map((s) => `C${s[1]!.join(" ")} ${s[2]!.join(" ")} ${s[3]!.join(" ")}`).join("") +
        (each.closed ? "Z" : ""),
    )
    .join("");
}

const place = (point: number[]): Point => ({ x: point[0]!, y: point[1]! });
const add = (point: number[], by: Point) => [point[0]! + by.x, point[1]! + by.y];
