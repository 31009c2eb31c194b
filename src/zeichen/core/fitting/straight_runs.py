"""Straight runs along a boundary, and the places where they end: lines and arcs meet nowhere else."""

import math

import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.fitting.local_polynomial import Polyline, gap_between
from zeichen.core.geometry.loops import around
from zeichen.core.geometry.norm import norm
from zeichen.core.values import AnyArray, FloatArray

# A shorter run says nothing of a line, px.
_SHORTEST_RUN_PX = 10.0
# A bend leaves a straight run by more than so many times what its points may be off it, half its length further on.
_BENDS_AWAY = 40.0
# Runs nearer to each other than so many times the least gap between breaks meet in a bend; this is a slight one.
_BEND = 3.0
_SLIGHT_COS = math.cos(math.radians(25.0))
# A bend by less than this sine is as good as none; one that is an angle lies so many times as far as points of a
# straight run from the boundary at most: blur rounds it.
_LEAST_ANGLE = math.sin(math.radians(5.0))
_ON_IT = 3.0
_BEYOND = 6


@uncounted(cache=True)
def relevant_points(weight: FloatArray, first: int, last: int) -> tuple[int, int]:
    """Return the first and the last point of a run whose say no corner's blur took away."""
    n = len(weight)
    first_relevant, last_relevant = first, last
    while first_relevant < last and weight[around(first_relevant, n)] < 0.5:
        first_relevant += 1
    while last_relevant > first and weight[around(last_relevant, n)] < 0.5:
        last_relevant -= 1
    return first_relevant, last_relevant


@uncounted
def _straight_run(
    points: FloatArray, begin: int, end: int, low: int, high: int, off: float, line: FloatArray
) -> tuple[int, int]:
    """Return the first and the last point of the straight run around points begin to end, within low to high.

    All of it lies within a distance off one line (a point of it and its direction in line), the best one through
    what was found so far; two points in a row that do not end it. No run (end before begin) if those in the
    middle do not lie on a line.
    """
    n = len(points)
    ox, oy = points[around(begin, n), 0], points[around(begin, n), 1]
    count = sx = sy = xx = xy = yy = 0.0
    for i in range(begin, end + 1):
        x, y = points[around(i, n), 0] - ox, points[around(i, n), 1] - oy
        count += 1.0
        sx, sy, xx, xy, yy = sx + x, sy + y, xx + x * x, xy + x * y, yy + y * y
    middle_first, middle_last = begin, end
    for part in range(3):
        # The middle itself, then backwards from it, then forwards.
        at, step, stop = middle_first, 1, middle_last
        if part == 1:
            at, step, stop = middle_first - 1, -1, low
        elif part == 2:
            at, step, stop = middle_last + 1, 1, high
        missed = 0
        while (stop - at) * step >= 0:
            mx, my = sx / count, sy / count
            # The direction they spread in most, by its doubled angle's cosine.
            along, across = xx / count - mx * mx - yy / count + my * my, 2.0 * (xy / count - mx * my)
            twice = along / max(norm(along, across), 1e-300)
            line[0], line[1] = ox + mx, oy + my
            line[2] = math.sqrt(max(0.5 + 0.5 * twice, 0.0))
            line[3] = math.copysign(math.sqrt(max(0.5 - 0.5 * twice, 0.0)), across)
            x, y = points[around(at, n), 0] - ox, points[around(at, n), 1] - oy
            if abs((y - my) * line[2] - (x - mx) * line[3]) > off:
                if part == 0:
                    return begin, begin - 1
                missed += 1
                if missed == 2:
                    break
            else:
                missed = 0
                begin, end = min(begin, at), max(end, at)
                if part:
                    count += 1.0
                    sx, sy, xx, xy, yy = sx + x, sy + y, xx + x * x, xy + x * y, yy + y * y
            at += step
    at, back = around(end, n), around(begin, n)
    x, y = points[at, 0] - points[back, 0], points[at, 1] - points[back, 1]
    if x * line[2] + y * line[3] < 0.0:
        line[2], line[3] = -line[2], -line[3]
    return begin, end


@uncounted
def _leaves_its_line(
    polyline: Polyline, begin: int, end: int, low: int, high: int, line: FloatArray, off: float
) -> bool:
    """Return whether a boundary bends away from a straight run at both ends far more than within it.

    A line follows a gentle bend, too, as far as the distance off lets it; half its length further on the bend is
    then 7 times as far off, or 17 times where it changes its side (derived for a parabola and a cubic, the run in
    the middle of them; up to twice that where it is not).
    """
    points, length, _ = polyline
    n = len(points)
    size = gap_between(length, begin, end, n)
    for side in range(2):
        at, step, stop = (begin, -1, low) if side == 0 else (end, 1, high)
        from_end = at
        while at != stop and abs(gap_between(length, from_end, at, n)) < 0.5 * size:
            at += step
        share = min(1.0, 2.0 * abs(gap_between(length, from_end, at, n)) / size)
        x, y = points[around(at, n), 0] - line[0], points[around(at, n), 1] - line[1]
        # What ends at a corner has nowhere to bend to.
        if abs(y * line[2] - x * line[3]) < _BENDS_AWAY * off * share * share and share > 0.1:
            return False
    return True


@counted
def _bend_of(
    points: FloatArray, end: int, begin: int, before: FloatArray, after: FloatArray, off: float
) -> int:
    """Return the point where one run bends into the next, and put into `before` (6) how: as an angle, or unknown (nan).

    It is an angle if it is more than what the points' errors make of one line, and the place where the lines meet
    lies on the boundary.
    """
    n = len(points)
    middle = (end + begin) // 2
    cross = before[4] * after[3] - before[5] * after[2]
    if abs(cross) > _LEAST_ANGLE:
        apart_x, apart_y = after[0] - before[0], after[1] - before[1]
        along = (apart_x * after[3] - apart_y * after[2]) / cross
        x, y = before[0] + along * before[4], before[1] + along * before[5]
        nearest, place = np.inf, middle
        # Either run may go on a little way beyond the bend.
        for i in range(end - _BEYOND, begin + _BEYOND + 1):
            away = (points[around(i, n), 0] - x) ** 2 + (points[around(i, n), 1] - y) ** 2
            if away < nearest:
                nearest, place = away, i
        beside = points[around(place + 1, n)] - points[around(place - 1, n)]
        across = (x - points[around(place, n), 0]) * beside[1] - (y - points[around(place, n), 1]) * beside[0]
        if end - _BEYOND < place < begin + _BEYOND and abs(across) < _ON_IT * off * norm(
            beside[0], beside[1]
        ):
            before[0], before[1], before[4], before[5] = x, y, after[2], after[3]
            return place
    before[:] = np.nan
    return middle


@counted(cache=True)
def with_straight_ends(
    polyline: Polyline, weight: FloatArray, nodes: AnyArray, pieces: int, closest: float, off: float
) -> tuple[AnyArray, int, FloatArray]:
    """Return candidates with one at either end of every straight run, and none within: lines meet arcs nowhere else.

    weight: (n,), of the points; nodes: (at least pieces + 1,), the candidates there are; closest: how near to each
    other those may be, px; off: how far a straight run's points may be from its line, px.

    The rows that go with them hold a point of the run's line and its direction before and after such ends, nothing
    (nan) elsewhere. Where two lines meet in an angle that is too slight for a corner to be seen, but plain from their
    runs, the point is where they meet, and the directions differ.
    """
    points, length, _ = polyline
    n = len(points)
    out = np.empty(3 * pieces + 1, np.int64)
    lines = np.full((3 * pieces + 1, 6), np.nan)
    line = np.empty(4)
    out[0] = nodes[0]
    first_relevant, last_relevant = relevant_points(weight, nodes[0], nodes[pieces])
    used = 0
    done = looked_at = first_relevant
    for k in range(pieces):
        third = (nodes[k + 1] - nodes[k]) // 3
        middle = nodes[k] + third
        if (
            third > 2
            and middle > looked_at
            and gap_between(length, nodes[k], nodes[k + 1], n) >= _SHORTEST_RUN_PX
        ):
            begin, end = _straight_run(points, middle, nodes[k + 1] - third, done, last_relevant, off, line)
            looked_at = max(looked_at, end)
            if (
                end > begin
                and gap_between(length, begin, end, n) >= _SHORTEST_RUN_PX
                and _leaves_its_line(polyline, begin, end, first_relevant, last_relevant, line, off)
            ):
                before = gap_between(length, first_relevant, begin, n) >= closest
                after = gap_between(length, end, last_relevant, n) >= closest
                # What lies right beside the ends is no candidate any more, nor what lies between two of them.
                while (
                    before
                    and used > 0
                    and (out[used] >= begin or gap_between(length, out[used], begin, n) < closest)
                    and lines[used, 0] != lines[used, 0]
                ):
                    used -= 1
                done = end if before and after else done
                # Of two runs that meet in a slight bend neither has a say which way it is taken.
                bend = (
                    before
                    and lines[used, 0] == lines[used, 0]
                    and gap_between(length, out[used], begin, n) < _BEND * closest
                    and lines[used, 4] * line[2] + lines[used, 5] * line[3] > _SLIGHT_COS
                )
                for place, wanted in ((begin, before), (end, after)):
                    if bend and place == begin:
                        out[used] = _bend_of(points, out[used], begin, lines[used], line, off)
                    elif wanted and place > out[used]:
                        used += 1
                        out[used] = place
                        for column in range(4):
                            lines[used, column] = line[column]
                        lines[used, 4], lines[used, 5] = line[2], line[3]
        if k + 1 == pieces or (
            nodes[k + 1] > done and gap_between(length, out[used], nodes[k + 1], n) >= closest
        ):
            used += 1
            out[used] = nodes[k + 1]
            lines[used] = np.nan
    return out, used, lines
