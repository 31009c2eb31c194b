/** Moving nodes and handles on the sheet, and what can be done to chosen ones. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, ask, type CurrentDrawing } from "@/api/client";
import { toBlank, toDrawing, type Placing } from "@/sheet/placing";
import { apply, type Point, type Size, type View } from "@/sheet/view";
import {
  handlesOf,
  keyOf,
  moveHandle,
  moveNodes,
  nearestOf,
  nodesOf,
  refOf,
  type HandleRef,
  type PathPoints,
} from "./nodes";
import type { Editor } from "./useEdit";

/** How near the pointer must be, screen px. */
const REACH_PX = 8;
const MOST_SHOWN = 3000;
const NONE: PathPoints[] = [];

/** What the pointer holds, and the paths as they were when it took hold. */
type Grip =
  | { kind: "nodes"; chosen: ReadonlySet<string>; paths: PathPoints[] }
  | { kind: "handle"; ref: HandleRef; paths: PathPoints[] }
  | { kind: "box" };

export function usePoints(
  current: CurrentDrawing,
  shapeId: string | null,
  placing: Placing,
  editor: Editor,
  on: boolean,
) {
  const query = useQuery({
    queryKey: ["points", current.id, current.revision_id, shapeId],
    queryFn: () =>
      ask(
        api.GET("/api/drawings/{drawing_id}/shapes/{shape_id}/points", {
          params: { path: { drawing_id: current.id, shape_id: shapeId! } },
        }),
      ),
    enabled: on && shapeId !== null,
    staleTime: Infinity,
    // What is shown stays until the new places are there, so that a click in between meets its node.
    placeholderData: (before, of) => (of?.queryKey[3] === shapeId ? before : undefined),
  });
  const points = query.data as PathPoints[] | undefined;
  const [ahead, setAhead] = useState<PathPoints[] | null>(null);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [box, setBox] = useState<[Point, Point] | null>(null);
  const grip = useRef<Grip | null>(null);
  useEffect(() => setChosen(new Set()), [shapeId]);
  const waits = query.isPlaceholderData;
  useEffect(() => {
    if (!waits) setAhead(null);
  }, [points, waits]);
  const paths = ahead ?? points ?? NONE;

  const send = (moved: PathPoints[]) => {
    const changed = moved.findIndex(
      (each, index) => each !== points?.[index] && each.segments !== points?.[index]?.segments,
    );
    const number = changed < 0 ? 0 : differing(moved, points ?? []);
    const path = moved[number];
    if (!path || !shapeId) return;
    editor.edit(
      {
        kind: "redraw",
        shape: shapeId,
        path: number,
        segments: path.segments as [number, number][][],
        closed: path.closed,
      },
      undefined,
      () => setAhead(null),
    );
  };

  const onStroke = (mm: Point[], done: boolean, perScreenPx: number) => {
    const start = toDrawing(placing, mm[0]!);
    const now = toDrawing(placing, mm.at(-1)!);
    const within = (REACH_PX * perScreenPx) / placing.mmPerPx;
    // While something else than a move is under way, nodes may be about to go.
    const still = editor.busy && ahead === null;
    if (mm.length === 1 && !done) grip.current = still ? null : gripAt(start, within);
    const held = grip.current;
    if (!held) return;
    const by = { x: now.x - start.x, y: now.y - start.y };
    if (held.kind === "box") {
      setBox(done ? null : [mm[0]!, mm.at(-1)!]);
      if (done)
        setChosen(
          new Set(
            nodesOf(paths)
              .filter(({ at }) => between(at, start, now))
              .map(({ ref }) => keyOf(ref)),
          ),
        );
    } else {
      const moved =
        held.kind === "nodes" ? moveNodes(held.paths, held.chosen, by) : moveHandle(held.paths, held.ref, by);
      setAhead(moved);
      if (done) send(moved);
    }
    if (done) grip.current = null;
  };

  const gripAt = (at: Point, within: number): Grip => {
    const handle = nearestOf(handlesOf(paths, chosen), at, within);
    const node = nearestOf(nodesOf(paths), at, within);
    if (handle && !node) return { kind: "handle", ref: handle.ref, paths };
    if (!node) return { kind: "box" };
    const key = keyOf(node.ref);
    const holds = chosen.has(key) ? chosen : new Set([key]);
    setChosen(holds);
    return { kind: "nodes", chosen: holds, paths };
  };

  const onPick = (mm: Point, more: boolean, perScreenPx: number): boolean => {
    const node = nearestOf(
      nodesOf(paths),
      toDrawing(placing, mm),
      (REACH_PX * perScreenPx) / placing.mmPerPx,
    );
    grip.current = null;
    setBox(null);
    if (!node) return false;
    const key = keyOf(node.ref);
    setChosen((before) => {
      const next = new Set(more ? before : []);
      if (more && before.has(key)) next.delete(key);
      else next.add(key);
      return next;
    });
    return true;
  };

  return {
    paths,
    chosen,
    setChosen,
    onStroke,
    onPick,
    moving: ahead !== null,
    marks: (view: View, viewport: Size) =>
      on && (
        <PointMarks
          paths={paths}
          chosen={chosen}
          placing={placing}
          view={view}
          viewport={viewport}
          box={box}
        />
      ),
  };
}

export type Points = ReturnType<typeof usePoints>;

/** The first path that is not what it was. */
function differing(moved: PathPoints[], before: PathPoints[]): number {
  const at = moved.findIndex(
    (each, index) => JSON.stringify(each.segments) !== JSON.stringify(before[index]?.segments),
  );
  return Math.max(0, at);
}

const between = (at: Point, a: Point, b: Point) =>
  at.x >= Math.min(a.x, b.x) &&
  at.x <= Math.max(a.x, b.x) &&
  at.y >= Math.min(a.y, b.y) &&
  at.y <= Math.max(a.y, b.y);

function PointMarks({
  paths,
  chosen,
  placing,
  view,
  viewport,
  box,
}: {
  paths: readonly PathPoints[];
  chosen: ReadonlySet<string>;
  placing: Placing;
  view: View;
  viewport: Size;
  box: [Point, Point] | null;
}) {
  const onScreen = (px: Point) => apply(view, toBlank(placing, px));
  const seen = nodesOf(paths)
    .map(({ ref, at }) => ({ ref, at: onScreen(at) }))
    .filter(({ at }) => at.x > -9 && at.y > -9 && at.x < viewport.width + 9 && at.y < viewport.height + 9)
    .slice(0, MOST_SHOWN);
  const corners = box?.map((place) => apply(view, place));
  return (
    <g>
      {handlesOf(paths, chosen).map(({ ref, at, node }) => {
        const [to, from] = [onScreen(at), onScreen(node)];
        return (
          <g key={`${ref.path}-${ref.segment}-${ref.which}`} stroke="#2f6db5" fill="#fffdf8">
            <line x1={from.x} y1={from.y} x2={to.x} y2={to.y} />
            <circle cx={to.x} cy={to.y} r="3.5" />
          </g>
        );
      })}
      {seen.map(({ ref, at }) => {
        const mine = chosen.has(keyOf(ref));
        const size = mine ? 8 : 6;
        return (
          <rect
            key={keyOf(ref)}
            x={at.x - size / 2}
            y={at.y - size / 2}
            width={size}
            height={size}
            fill={mine ? "#2f6db5" : "#fffdf8"}
            stroke="#2f6db5"
          />
        );
      })}
      {corners && (
        <rect
          x={Math.min(corners[0]!.x, corners[1]!.x)}
          y={Math.min(corners[0]!.y, corners[1]!.y)}
          width={Math.abs(corners[0]!.x - corners[1]!.x)}
          height={Math.abs(corners[0]!.y - corners[1]!.y)}
          fill="#2f6db518"
          stroke="#2f6db5"
          strokeDasharray="4 3"
        />
      )}
    </g>
  );
}

/** Chosen nodes by path, for operations that take one path at a time: the path with most of them, and a second. */
export function chosenOnOnePath(
  chosen: ReadonlySet<string>,
): { path: number; nodes: number[]; other: number | null } | null {
  const by = new Map<number, number[]>();
  for (const { path, node } of [...chosen].map(refOf)) by.set(path, [...(by.get(path) ?? []), node]);
  const [most, second] = [...by].sort((a, b) => b[1].length - a[1].length);
  if (!most) return null;
  return { path: most[0], nodes: most[1].sort((a, b) => a - b), other: second?.[0] ?? null };
}
