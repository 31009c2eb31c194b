"""Where curves cross or touch each other or themselves, found on their polylines through a grid."""

import math
from typing import NamedTuple

import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.geometry.cells import cell_size, into_cells
from zeichen.core.geometry.drawing import Path
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Ends no further apart than this are one place, in the unit of the points.
_SAME = 1e-9
# So many pieces of a segment are looked at as one first.
_LONGEST_STRETCH = 16


def meeting_segments(paths: list[Path], *, tolerance: float) -> dict[int, set[int]]:
    """Return, for each path that crosses or touches itself or another, which of its segments do.

    Open paths may start and end on each other; pieces of two paths that run along one line are not looked at.

    Parameters
    ----------
    paths : list of Path
    tolerance : float
        How far the polylines looked at may be from the curves, in the unit of the points.
    """
    counts = [len(path.segments) for path in paths]
    if not sum(counts):
        return {}
    first = np.concatenate([[0], np.cumsum(counts)])
    segments = np.ascontiguousarray(np.concatenate([path.segments for path in paths]), dtype=np.float64)
    closed = np.array([path.closed for path in paths], dtype=np.bool_)
    bad: dict[int, set[int]] = {}
    for number, segment in zip(
        *(found.tolist() for found in _meet(segments, first, closed, tolerance)), strict=True
    ):
        bad.setdefault(number, set()).add(segment - int(first[number]))
    return bad


def crossing_pairs(a: FloatArray, b: FloatArray | None = None) -> tuple[AnyArray, FloatArray]:
    """Return which pieces of a polyline cross which of its own or of another, and where along both.

    Parameters
    ----------
    a, b : (n, 2), (m, 2) float arrays
        With b left out, a is compared with itself and every pair is given once.

    Returns
    -------
    (k, 2) int array, (k, 2) float array
        The pieces' numbers, and the place on each as a share of its length.
    """
    other = a if b is None else b
    low, cell = cell_size(np.vstack([a[:-1], other[:-1]]), np.vstack([a[1:], other[1:]]))
    found: tuple[AnyArray, FloatArray] = _crossing(
        np.ascontiguousarray(a), np.ascontiguousarray(other), b is None, low, cell
    )
    return found


@counted
def pieces_along(
    segments: FloatArray, first: AnyArray, closed: BoolArray, tolerance: float
) -> tuple[FloatArray, FloatArray, AnyArray, AnyArray]:
    """Return the pieces of the paths' polylines: their starts and ends, segments and paths; none without length."""
    steps = np.empty(len(segments), np.int64)
    total = len(closed)
    for k in range(len(segments)):
        p = segments[k]
        bend = 0.0
        for i in range(2):
            dx, dy = p[i, 0] - 2 * p[i + 1, 0] + p[i + 2, 0], p[i, 1] - 2 * p[i + 1, 1] + p[i + 2, 1]
            bend = max(bend, math.hypot(dx, dy))
        # Error of linear interpolation, as in bezier.chord_count.
        steps[k] = max(1, math.ceil(math.sqrt(0.75 * bend / tolerance)))
        total += steps[k]
    start, end = np.empty((total, 2)), np.empty((total, 2))
    owner, run = np.empty(total, np.int64), np.empty(total, np.int64)
    filled = 0
    for path in range(len(closed)):
        begin = filled
        for k in range(first[path], first[path + 1]):
            p = segments[k]
            x, y = p[0, 0], p[0, 1]
            if filled > begin:
                x, y = end[filled - 1, 0], end[filled - 1, 1]
            for step in range(1, steps[k] + 1):
                t = step / steps[k]
                u = 1.0 - t
                w0, w1, w2, w3 = u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t
                nx, ny = p[3, 0], p[3, 1]
                if step < steps[k]:
                    nx = w0 * p[0, 0] + w1 * p[1, 0] + w2 * p[2, 0] + w3 * p[3, 0]
                    ny = w0 * p[0, 1] + w1 * p[1, 1] + w2 * p[2, 1] + w3 * p[3, 1]
                if nx != x or ny != y:
                    start[filled, 0], start[filled, 1], end[filled, 0], end[filled, 1] = x, y, nx, ny
                    owner[filled], run[filled] = k, path
                    filled += 1
                x, y = nx, ny
        if closed[path] and filled > begin:
            x, y = start[begin, 0], start[begin, 1]
            if abs(end[filled - 1, 0] - x) + abs(end[filled - 1, 1] - y) < _SAME:
                # The last digit is no gap.
                end[filled - 1, 0], end[filled - 1, 1] = x, y
            else:
                start[filled, 0], start[filled, 1] = end[filled - 1, 0], end[filled - 1, 1]
                end[filled, 0], end[filled, 1] = x, y
                owner[filled], run[filled] = owner[filled - 1], path
                filled += 1
    return start[:filled], end[:filled], owner[:filled], run[:filled]


@uncounted
def _side(ax: float, ay: float, bx: float, by: float, cx: float, cy: float) -> float:
    """Return on which side of the line from a to b c lies; exactly 0 where c is one of them."""
    return (bx - ax) * (cy - ay) - (by - ay) * (cx - ax) if cx != bx or cy != by else 0.0


@uncounted
def _within(ax: float, ay: float, bx: float, by: float, cx: float, cy: float) -> bool:
    """Return whether c, on the line through a and b, lies between them."""
    return min(ax, bx) <= cx <= max(ax, bx) and min(ay, by) <= cy <= max(ay, by)


@counted(cache=True)
def _meet(
    segments: FloatArray, first: AnyArray, closed: BoolArray, tolerance: float
) -> tuple[AnyArray, AnyArray]:
    """Return paths and segments (numbered through all paths) of which pieces meet, once for each such piece."""
    start, end, owner, run = pieces_along(segments, first, closed, tolerance)
    if not len(start):
        return run, owner
    bad = np.nonzero(_meeting(start, end, owner, run, closed))[0]
    return run[bad], owner[bad]


class _Runs(NamedTuple):
    """Pieces of runs: their ends (n, 2), whose each is, which runs close, which pieces begin one and end one."""

    start: FloatArray
    end: FloatArray
    run: AnyArray
    closed: BoolArray
    head: BoolArray
    tail: BoolArray


@counted
def _meeting(
    start: FloatArray, end: FloatArray, owner: AnyArray, run: AnyArray, closed: BoolArray
) -> BoolArray:
    """Return which pieces meet one that is not their neighbour in the same run, or run back over that.

    Most are told to be apart by the stretches they belong to, of which there are few.
    """
    n = len(start)
    bad = np.zeros(n, np.bool_)
    head = np.empty(n, np.bool_)
    tail = np.empty(n, np.bool_)
    for k in range(n):
        head[k] = k == 0 or run[k] != run[k - 1]
        tail[k] = k == n - 1 or run[k + 1] != run[k]
    runs = _Runs(start, end, run, closed, head, tail)
    first, low, high = _stretches(start, end, owner)
    corner, cell = cell_size(low, high)
    columns, rows, begin, held = into_cells(low, high, corner, cell)
    for k in range(len(low)):
        if not _goes_one_way(start, end, first[k], first[k + 1]):
            _compare(runs, first[k], first[k + 1], first[k], first[k + 1], bad)
    for at in range(columns * rows):
        for one in range(begin[at], begin[at + 1]):
            for two in range(one + 1, begin[at + 1]):
                k, m = min(held[one], held[two]), max(held[one], held[two])
                if low[k, 0] > high[m, 0] or low[m, 0] > high[k, 0]:
                    continue
                if low[k, 1] > high[m, 1] or low[m, 1] > high[k, 1]:
                    continue
                if m == k + 1 and not head[first[m]] and _goes_one_way(start, end, first[k], first[m + 1]):
                    continue
                _compare(runs, first[k], first[k + 1], first[m], first[m + 1], bad)
    return bad


@counted
def _stretches(
    start: FloatArray, end: FloatArray, owner: AnyArray
) -> tuple[AnyArray, FloatArray, FloatArray]:
    """Return stretches of pieces of one segment that follow each other: where each starts, and their boxes' corners."""
    n = len(start)
    first = np.empty(n + 1, np.int64)
    low, high = np.empty((n, 2)), np.empty((n, 2))
    count = 0
    for k in range(n):
        if k == 0 or owner[k] != owner[k - 1] or k - first[count - 1] == _LONGEST_STRETCH:
            first[count] = k
            for axis in range(2):
                low[count, axis] = high[count, axis] = start[k, axis]
            count += 1
        for axis in range(2):
            low[count - 1, axis] = min(low[count - 1, axis], start[k, axis], end[k, axis])
            high[count - 1, axis] = max(high[count - 1, axis], start[k, axis], end[k, axis])
    first[count] = n
    return first[: count + 1], low[:count], high[:count]


@uncounted
def _goes_one_way(start: FloatArray, end: FloatArray, first: int, last: int) -> bool:
    """Return whether a run of pieces never turns back from the way to its end, and so meets itself nowhere."""
    x, y = end[last - 1, 0] - start[first, 0], end[last - 1, 1] - start[first, 1]
    onwards = True
    for k in range(first, last):
        onwards &= (end[k, 0] - start[k, 0]) * x + (end[k, 1] - start[k, 1]) * y > 0.0
    return bool(onwards)


@uncounted
def _compare(runs: _Runs, first: int, last: int, other_first: int, other_last: int, bad: BoolArray) -> None:
    """Mark the pieces of two stretches, the second the same or a later one, that meet."""
    start, end = runs.start, runs.end
    for i in range(first, last):
        left, right = min(start[i, 0], end[i, 0]), max(start[i, 0], end[i, 0])
        top, bottom = min(start[i, 1], end[i, 1]), max(start[i, 1], end[i, 1])
        for j in range(max(other_first, i + 1), other_last):
            if min(start[j, 0], end[j, 0]) > right or max(start[j, 0], end[j, 0]) < left:
                continue
            if min(start[j, 1], end[j, 1]) > bottom or max(start[j, 1], end[j, 1]) < top:
                continue
            if not (bad[i] and bad[j]) and _pieces_meet(runs, i, j):
                bad[i] = bad[j] = True


@uncounted
def _pieces_meet(runs: _Runs, i: int, j: int) -> bool:
    """Return whether piece i meets a later piece j, their boxes meet; neighbours, if one runs back over the other."""
    start, end, run, closed, head, tail = runs
    ax, ay, bx, by = start[i, 0], start[i, 1], end[i, 0], end[i, 1]
    cx, cy, dx, dy = start[j, 0], start[j, 1], end[j, 0], end[j, 1]
    same = bool(run[i] == run[j])
    whole = closed[run[i]]
    o1, o2 = _side(ax, ay, bx, by, cx, cy), _side(ax, ay, bx, by, dx, dy)
    if same and (j == i + 1 or (whole and head[i] and tail[j])):
        along = (bx - ax) * (dx - cx) + (by - ay) * (dy - cy)
        return bool(o1 == 0.0 and o2 == 0.0 and along < 0.0)
    o3, o4 = _side(cx, cy, dx, dy, ax, ay), _side(cx, cy, dx, dy, bx, by)
    if o1 == 0.0 and o2 == 0.0 and o3 == 0.0 and o4 == 0.0:
        return same and (
            _within(ax, ay, bx, by, cx, cy)
            or _within(ax, ay, bx, by, dx, dy)
            or _within(cx, cy, dx, dy, ax, ay)
        )
    if (o1 > 0.0 and o2 > 0.0) or (o1 < 0.0 and o2 < 0.0):
        return False
    if (o3 > 0.0 and o4 > 0.0) or (o3 < 0.0 and o4 < 0.0):
        return False
    # An open path's own end may lie on another.
    if not whole and ((o3 == 0.0 and head[i]) or (o4 == 0.0 and tail[i])):
        return False
    return bool(closed[run[j]] or not ((o1 == 0.0 and head[j]) or (o2 == 0.0 and tail[j])))


@counted(cache=True)
def _crossing(
    a: FloatArray, b: FloatArray, same: bool, low: FloatArray, cell: float
) -> tuple[AnyArray, FloatArray]:
    columns, rows, first, held = into_cells(b[:-1], b[1:], low, cell)
    pairs = np.empty((16, 2), np.int64)
    places = np.empty((16, 2))
    filled = 0
    seen = np.full(len(b), -1)
    for i in range(len(a) - 1):
        ax, ay, bx, by = a[i, 0], a[i, 1], a[i + 1, 0], a[i + 1, 1]
        c0 = max(0, int((min(ax, bx) - low[0]) / cell))
        c1 = min(columns - 1, int((max(ax, bx) - low[0]) / cell))
        r0 = max(0, int((min(ay, by) - low[1]) / cell))
        r1 = min(rows - 1, int((max(ay, by) - low[1]) / cell))
        for r in range(r0, r1 + 1):
            for c in range(c0, c1 + 1):
                at = r * columns + c
                for k in range(first[at], first[at + 1]):
                    j = held[k]
                    if seen[j] == i or (same and j <= i):
                        continue
                    seen[j] = i
                    cx, cy, dx, dy = b[j, 0], b[j, 1], b[j + 1, 0], b[j + 1, 1]
                    o1, o2 = _side(ax, ay, bx, by, cx, cy), _side(ax, ay, bx, by, dx, dy)
                    o3, o4 = _side(cx, cy, dx, dy, ax, ay), _side(cx, cy, dx, dy, bx, by)
                    # Only what truly crosses: pieces that share an end have a side of 0.
                    if o1 * o2 >= 0.0 or o3 * o4 >= 0.0:
                        continue
                    if filled == len(pairs):
                        more, where = np.empty((2 * filled, 2), np.int64), np.empty((2 * filled, 2))
                        for old in range(filled):
                            for axis in range(2):
                                more[old, axis], where[old, axis] = pairs[old, axis], places[old, axis]
                        pairs, places = more, where
                    pairs[filled, 0], pairs[filled, 1] = i, j
                    places[filled, 0], places[filled, 1] = o3 / (o3 - o4), o1 / (o1 - o2)
                    filled += 1
    return pairs[:filled], places[:filled]
