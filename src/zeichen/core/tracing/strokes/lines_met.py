"""Where lines meet others: the first place a way touches one, and what of them lies beside a place."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.geometry.bezier import lengths_along
from zeichen.core.geometry.norm import norm
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Lines this near to each other (px, widths) touch.
_TOUCHING_PX = 0.6
_TOUCHING = 0.05
# Its own beginning is no place for a line to end on, widths.
_OWN_WAY = 5.0


@dataclass(frozen=True, slots=True, eq=False)
class Lines:
    """Lines one after the other: their points (n, 2), px, where each starts, which are closed, and their boxes."""

    points: FloatArray
    starts: AnyArray
    closed: BoolArray
    boxes: FloatArray

    @classmethod
    def of(cls, lines: list[tuple[FloatArray, bool]]) -> "Lines":
        """Return lines, given the points of each and whether it is closed."""
        starts = np.concatenate([[0], np.cumsum([len(points) for points, _ in lines])]).astype(np.int64)
        points = np.concatenate([points for points, _ in lines]) if lines else np.zeros((0, 2))
        closed = np.array([closed for _, closed in lines], np.bool_)
        points = np.ascontiguousarray(points)
        return cls(points, starts, closed, _boxes(points, starts))

    def beside(self, place: FloatArray, reach: float, *, without: Iterable[int] = ()) -> FloatArray:
        """Return the points of all lines but some within reach of a place, nan between two lines or parts of one."""
        counted_out = np.zeros(len(self.closed), np.bool_)
        counted_out[list(without)] = True
        found: FloatArray = _beside(
            self.points, self.starts, self.boxes, counted_out, place[0], place[1], reach
        )
        return found

    def in_window(
        self, low: FloatArray, high: FloatArray, margin: float, *, without: Iterable[int] = ()
    ) -> FloatArray:
        """Return the points of all lines but some in a window, its corners given, and in a margin around it."""
        return self.beside((low + high) / 2, math.dist(low, high) / 2 + margin, without=without)

    def met_by(self, way: FloatArray, width: float, number: int, side: int) -> tuple[float, FloatArray]:
        """Return how far along a way, from one of a line's ends on, and where, it meets a line; -1 if it does not.

        Its own beginning is none it could meet.

        Parameters
        ----------
        way : (n, 2) float array, px
            Points a pixel apart.
        width : float, px
            Of the line.
        number : int
            Which line it is.
        side : int
            0 if the way begins at its first point, 1 if at its last.
        """
        first, last = int(self.starts[number]), int(self.starts[number + 1])
        own = _far_from_end(self.points, first, last, side == 0, _OWN_WAY * width)
        return self._touched(way, width, number, own)

    def touched_by(self, way: FloatArray, width: float, *, without: int = -1) -> tuple[float, FloatArray]:
        """Return how far along a way, points a pixel apart, and where, it touches a line but one; -1 if it does not."""
        return self._touched(way, width, without, (0, 0))

    def _touched(
        self, way: FloatArray, width: float, number: int, own: tuple[int, int]
    ) -> tuple[float, FloatArray]:
        near = max(_TOUCHING_PX, _TOUCHING * width)
        found: tuple[float, FloatArray] = _first_touch(
            way, self.points, self.starts, self.closed, self.boxes, number, *own, near
        )
        return found


@counted(cache=True)
def _boxes(points: FloatArray, starts: AnyArray) -> FloatArray:
    """Return the left, top, right and bottom of each line; of one without points a box nothing is in."""
    out = np.empty((len(starts) - 1, 4))
    for line in range(len(out)):
        out[line, 0] = out[line, 1] = np.inf
        out[line, 2] = out[line, 3] = -np.inf
        for k in range(starts[line], starts[line + 1]):
            for axis in range(2):
                out[line, axis] = min(out[line, axis], points[k, axis])
                out[line, 2 + axis] = max(out[line, 2 + axis], points[k, axis])
    return out


@counted(cache=True)
def _beside(
    points: FloatArray,
    starts: AnyArray,
    boxes: FloatArray,
    without: BoolArray,
    x: float,
    y: float,
    reach: float,
) -> FloatArray:
    """Return the points of all lines but some within reach of a place, with nan between two lines or parts of one."""
    near = np.zeros(len(without), np.bool_)
    most = 0
    for line in range(len(without)):
        near[line] = not without[line] and (
            boxes[line, 0] < x + reach
            and boxes[line, 2] > x - reach
            and boxes[line, 1] < y + reach
            and boxes[line, 3] > y - reach
        )
        if near[line]:
            most += starts[line + 1] - starts[line]
    out = np.empty((2 * most, 2))
    count, last = 0, -2
    for line in range(len(without)):
        if not near[line]:
            continue
        for k in range(starts[line], starts[line + 1]):
            if norm(points[k, 0] - x, points[k, 1] - y) >= reach:
                continue
            if count and (last != k - 1 or k == starts[line]):
                out[count, 0] = out[count, 1] = np.nan
                count += 1
            out[count, 0], out[count, 1] = points[k, 0], points[k, 1]
            count += 1
            last = k
    return out[:count]


@uncounted(cache=True)
def _far_from_end(
    points: FloatArray, first: int, last: int, from_start: bool, reach: float
) -> tuple[int, int]:
    """Return the first and behind the last of a line's points that are further than a reach along it from an end."""
    away = 0.0
    k = first if from_start else last - 1
    step = 1 if from_start else -1
    while away <= reach and first <= k + step < last:
        away += norm(points[k + step, 0] - points[k, 0], points[k + step, 1] - points[k, 1])
        k += step
    if away <= reach:
        return first, first
    return (k, last) if from_start else (first, k + 1)


@counted(cache=True)
def _first_touch(
    way: FloatArray,
    points: FloatArray,
    starts: AnyArray,
    closed: BoolArray,
    boxes: FloatArray,
    own: int,
    own_first: int,
    own_last: int,
    near: float,
) -> tuple[float, FloatArray]:
    """Return how far along a way, and where, it first touches one of some lines; -1 if it does not.

    Of one of them, its own, only some points count; where each of them starts is given, and where the last ends.

    It touches a line where it crosses it, or where one of its points is near it: lines that merge gently come
    near long before they cross. Points of a way are a pixel apart.
    """
    length = np.zeros(len(way))
    low, high = way[0].copy(), way[0].copy()
    for i in range(len(way)):
        if i:
            length[i] = length[i - 1] + norm(way[i, 0] - way[i - 1, 0], way[i, 1] - way[i - 1, 1])
        for axis in range(2):
            low[axis] = min(low[axis], way[i, axis] - near)
            high[axis] = max(high[axis], way[i, axis] + near)
    best = -1.0
    place = np.zeros(2)
    for line in range(len(closed)):
        if (
            boxes[line, 0] > high[0]
            or boxes[line, 2] < low[0]
            or boxes[line, 1] > high[1]
            or boxes[line, 3] < low[1]
        ):
            continue
        first, last = starts[line], starts[line + 1]
        if line == own:
            first, last = own_first, own_last
        nearest = np.empty(0)
        for k in range(first, last):
            j = k + 1
            if j == last:
                if not closed[line] or last - first < 3:
                    break
                j = first
            ax, ay, bx, by = points[k, 0], points[k, 1], points[j, 0], points[j, 1]
            if max(ax, bx) < low[0] or min(ax, bx) > high[0] or max(ay, by) < low[1] or min(ay, by) > high[1]:
                continue
            if len(nearest) == 0:
                nearest = np.full(len(way), near)
            dx, dy = bx - ax, by - ay
            square = dx * dx + dy * dy
            for i in range(len(way)):
                if best >= 0.0 and min(float(i), length[i]) > best:
                    break
                px, py = way[i, 0] - ax, way[i, 1] - ay
                t = min(1.0, max(0.0, (px * dx + py * dy) / square)) if square > 0.0 else 0.0
                away = norm(px - t * dx, py - t * dy)
                if away < nearest[i] and (best < 0.0 or i <= best):
                    nearest[i] = away
                    best = float(i)
                    place[0], place[1] = ax + t * dx, ay + t * dy
                if i + 1 == len(way):
                    continue
                ex, ey = way[i + 1, 0] - way[i, 0], way[i + 1, 1] - way[i, 1]
                cross = ex * dy - ey * dx
                if cross == 0.0:
                    continue
                along = (py * dx - px * dy) / cross
                over = (py * ex - px * ey) / cross
                if 0.0 <= along <= 1.0 and 0.0 <= over <= 1.0:
                    at = length[i] + along * (length[i + 1] - length[i])
                    if best < 0.0 or at < best:
                        best = at
                        place[0], place[1] = way[i, 0] + along * ex, way[i, 1] + along * ey
    return best, place


def walked(points: FloatArray) -> FloatArray:
    """Return points along a polyline about a pixel apart, its ends included."""
    along = lengths_along(points)
    at = np.linspace(0.0, along[-1], math.ceil(along[-1]) + 1)
    return np.stack([np.interp(at, along, points[:, axis]) for axis in (0, 1)], axis=1)
