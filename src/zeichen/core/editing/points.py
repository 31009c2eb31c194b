"""Nodes and handles of one path: put in, taken out, smoothed, cut and joined."""

import itertools
from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from zeichen.core.editing.arranging import chosen, with_shapes
from zeichen.core.editing.corners import rounded_corners
from zeichen.core.errors import InvalidInputError, NotFoundError
from zeichen.core.fitting.cubic_fit import Ends, fit_cubic, room_for
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path
from zeichen.core.values import FloatArray

_MOST_SEGMENTS = 100_000


def path_of(drawing: Drawing, shape_id: str, number: int) -> Path:
    """Return one path of a shape that is not locked."""
    (shape,) = chosen(drawing, [shape_id])
    if not 0 <= number < len(shape.paths):
        raise NotFoundError(f"{shape_id} has no path {number}; it has {len(shape.paths)}.")
    return shape.paths[number]


def with_path(drawing: Drawing, shape_id: str, number: int, path: Path | None) -> Drawing:
    """Return the drawing with one path of a shape replaced, or taken out."""
    shape = drawing.shape(shape_id)
    paths = tuple(
        kept
        for k, each in enumerate(shape.paths)
        if (kept := path if k == number else each) is not None and len(kept.segments)
    )
    return with_shapes(drawing, [replace(shape, paths=paths, letters="")])


def redrawn(drawing: Drawing, shape_id: str, number: int, segments: FloatArray, *, closed: bool) -> Drawing:
    """Return the drawing with a path's control points as a maker has moved them.

    Raises
    ------
    InvalidInputError
        If the segments do not follow on each other.
    """
    path_of(drawing, shape_id, number)
    moved = Path(np.asarray(segments, dtype=np.float64), closed)
    if not 0 < len(moved.segments) <= _MOST_SEGMENTS:
        raise InvalidInputError(f"A path has 1 to {_MOST_SEGMENTS} segments; got {len(moved.segments)}.")
    gaps = np.abs(moved.segments[1:, 0] - moved.segments[:-1, 3]).max(initial=0.0)
    size = float(np.ptp(moved.segments.reshape(-1, 2), axis=0).max()) or 1.0
    if gaps > 1e-3 * size:
        raise InvalidInputError("The segments of a path must follow on each other.")
    return with_path(drawing, shape_id, number, moved)


def with_node(drawing: Drawing, shape_id: str, number: int, segment: int, t: float) -> Drawing:
    """Return the drawing with a node put into a segment; the curve stays as it is."""
    path = path_of(drawing, shape_id, number)
    _require(path, [segment])
    if not 0.0 < t < 1.0:
        raise InvalidInputError(f"A new node lies between 0 and 1 of its segment; got {t}.")
    return with_path(drawing, shape_id, number, Path(bezier.split(path.segments, segment, t), path.closed))


def without_nodes(drawing: Drawing, shape_id: str, number: int, nodes: Iterable[int]) -> Drawing:
    """Return the drawing with nodes taken out and the curve between their neighbours fitted to what it was.

    A path that loses all but one of its nodes is gone.
    """
    path = path_of(drawing, shape_id, number)
    gone = set(nodes)
    _require(path, gone, open_end=not path.closed)
    count = len(path.segments)
    if path.closed:
        kept = [k for k in range(count) if k not in gone]
        if len(kept) < 2:
            return with_path(drawing, shape_id, number, None)
        ring = np.roll(path.segments, -kept[0], axis=0)
        bounds = [k - kept[0] for k in kept] + [count]
    else:
        kept = [k for k in range(count + 1) if k not in gone]
        if len(kept) < 2:
            return with_path(drawing, shape_id, number, None)
        ring, bounds = path.segments, kept
    runs = [_one(ring[a:b]) for a, b in itertools.pairwise(bounds)]
    return with_path(drawing, shape_id, number, Path(np.array(runs), path.closed))


def _one(run: FloatArray) -> FloatArray:
    """Return the one cubic that is nearest to a run and keeps its directions at both ends."""
    if len(run) == 1:
        return np.asarray(run[0])
    if bezier.is_straight(run, tolerance=1e-6).all() and len(run) == 2 and _turns(run):
        # Between two straight sides a corner was taken out: a straight side is what is left.
        return np.asarray(bezier.line_segments(np.stack([run[0, 0], run[-1, 3]]))[0])
    start, end = bezier.end_directions(run)
    points = bezier.evaluate(run, np.arange(24) / 24.0).reshape(-1, 2)[1:]
    room = room_for(len(points))
    inner = np.ascontiguousarray(points.T)
    ends = Ends(run[0, 0], run[-1, 3], start[0], -end[-1], False, False)
    fit_cubic(inner, len(points), ends, 8, room)
    out: FloatArray = room.out
    if not np.isfinite(out).all():
        return np.asarray(bezier.line_segments(np.stack([run[0, 0], run[-1, 3]]))[0])
    return out


def _turns(run: FloatArray) -> bool:
    start, end = bezier.end_directions(run)
    return bool(abs(end[0, 0] * start[1, 1] - end[0, 1] * start[1, 0]) > 1e-3)


def smoothed(drawing: Drawing, shape_id: str, number: int, nodes: Iterable[int], *, corner: bool) -> Drawing:
    """Return the drawing with nodes made smooth (handles in one line), or corners (handles towards the neighbours)."""
    path = path_of(drawing, shape_id, number)
    chosen_nodes = sorted(set(nodes))
    _require(path, chosen_nodes)
    segments = path.segments.copy()
    count = len(segments)
    for node in chosen_nodes:
        if not path.closed and node == 0:
            continue
        before = (node - 1) % count
        place = segments[node, 0]
        coming, going = place - segments[before, 2], segments[node, 1] - place
        if corner:
            segments[before, 2] = place + (segments[before, 0] - place) / 3.0
            segments[node, 1] = place + (segments[node, 3] - place) / 3.0
            continue
        lengths = [float(np.hypot(*way)) for way in (coming, going)]
        through = segments[node, 3] - segments[before, 0]
        size = float(np.hypot(*through))
        way = through / size if size > 1e-12 else np.array([1.0, 0.0])
        sides = [
            length if length > 1e-9 else float(np.hypot(*(other - place))) / 3.0
            for length, other in zip(lengths, (segments[before, 0], segments[node, 3]), strict=True)
        ]
        segments[before, 2] = place - sides[0] * way
        segments[node, 1] = place + sides[1] * way
    return with_path(drawing, shape_id, number, Path(segments, path.closed))


def straightened(drawing: Drawing, shape_id: str, number: int, segments: Iterable[int]) -> Drawing:
    """Return the drawing with segments made straight lines between their ends."""
    path = path_of(drawing, shape_id, number)
    which = sorted(set(segments))
    _require(path, which)
    out = path.segments.copy()
    for k in which:
        out[k] = bezier.line_segments(np.stack([out[k, 0], out[k, 3]]))[0]
    return with_path(drawing, shape_id, number, Path(out, path.closed))


def rounded(drawing: Drawing, shape_id: str, number: int, nodes: Iterable[int], radius: float) -> Drawing:
    """Return the drawing with corners rounded by a radius; all corners of the path if no node is named."""
    path = path_of(drawing, shape_id, number)
    which = sorted(set(nodes)) or list(range(0 if path.closed else 1, len(path.segments)))
    return with_path(drawing, shape_id, number, rounded_corners(path, which, radius))


def cut(drawing: Drawing, shape_id: str, number: int, node: int) -> Drawing:
    """Return the drawing with a path cut at a node: a closed one opens there, an open one becomes two."""
    path = path_of(drawing, shape_id, number)
    _require(path, [node])
    if path.closed:
        return with_path(drawing, shape_id, number, Path(np.roll(path.segments, -node, axis=0), closed=False))
    if node == 0:
        raise InvalidInputError("An open path cannot be cut at its own end.")
    shape = drawing.shape(shape_id)
    first, second = Path(path.segments[:node], closed=False), Path(path.segments[node:], closed=False)
    paths = (*shape.paths[:number], first, second, *shape.paths[number + 1 :])
    return with_shapes(drawing, [replace(shape, paths=paths)])


def joined(drawing: Drawing, shape_id: str, number: int, other: int | None = None) -> Drawing:
    """Return the drawing with an open path closed, or joined to another open one at their nearest ends."""
    path = path_of(drawing, shape_id, number)
    if path.closed:
        raise InvalidInputError("This path is closed already.")
    if other is None or other == number:
        return with_path(drawing, shape_id, number, Path(_bridged(path.segments, path.segments[0, 0])))
    second = path_of(drawing, shape_id, other)
    if second.closed:
        raise InvalidInputError("A closed path has no end to be joined at.")
    ways = [
        (float(np.hypot(*(a[-1, 3] - b[0, 0]))), a, b)
        for a in (path.segments, bezier.reverse(path.segments))
        for b in (second.segments, bezier.reverse(second.segments))
    ]
    _, a, b = min(ways, key=lambda way: way[0])
    whole = Path(np.concatenate([_bridged(a, b[0, 0]), b]), closed=False)
    shape = drawing.shape(shape_id)
    paths = tuple(whole if k == number else each for k, each in enumerate(shape.paths) if k != other)
    return with_shapes(drawing, [replace(shape, paths=paths)])


def _bridged(segments: FloatArray, to: FloatArray) -> FloatArray:
    end = segments[-1, 3]
    if float(np.abs(end - to).max()) < 1e-9:
        return segments
    return np.concatenate([segments, bezier.line_segments(np.stack([end, to]))])


def _require(path: Path, numbers: Iterable[int], *, open_end: bool = False) -> None:
    most = len(path.segments) + open_end
    for number in numbers:
        if not 0 <= number < most:
            raise NotFoundError(f"The path has no node {number}; it has {most}.")
