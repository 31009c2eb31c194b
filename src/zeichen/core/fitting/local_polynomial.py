"""Local curve estimates on a polyline: position and direction at a point, from what lies around it.

Distances are arc lengths in drawing units (px).
"""

import math
from typing import NamedTuple

import numpy as np

from zeichen.core.compiled import NONE, common, counted, uncounted
from zeichen.core.fitting.three_unknowns import solve_three
from zeichen.core.geometry.loops import around
from zeichen.core.geometry.norm import norm
from zeichen.core.values import AnyArray, FloatArray

# On which side of a point, and the degree of the polynomial through what lies there.
BACK, AHEAD = common(-1), common(1)
STRAIGHT, BENT = common(1), common(2)
# No more points than these tell of a side, and of either side together with the other.
_MOST_ON_A_SIDE, _MOST_BESIDE = 64, 79


class Polyline(NamedTuple):
    """Measured points, and how far along them each is.

    points: (n, 2) px. length: (n + 1,) px, see cumulative_length; of an open one the last two are the same.
    closed: whether the last point is followed by the first.
    """

    points: FloatArray
    length: FloatArray
    closed: bool


class Stretch(NamedTuple):
    """What is looked at of a side of a point: from so far from it, past what blur has moved, to so far, px."""

    skip: float
    reach: float


@counted(cache=True)
def polyline_of(points: FloatArray, closed: bool) -> Polyline:
    """Return points, (n, 2) px, with how far along them each is."""
    length = cumulative_length(points)
    if not closed:
        length[len(points)] = length[len(points) - 1]
    return Polyline(points, length, closed)


@counted(cache=True)
def cumulative_length(points: FloatArray) -> FloatArray:
    """Return the arc length up to each point and, last, the length of the whole loop."""
    n = len(points)
    out = np.zeros(n + 1)
    for i in range(n):
        j = i + 1 if i + 1 < n else 0
        dx, dy = points[j, 0] - points[i, 0], points[j, 1] - points[i, 1]
        out[i + 1] = out[i] + math.sqrt(dx * dx + dy * dy)
    return out


@uncounted
def gap_between(length: FloatArray, i: int, j: int, n: int) -> float:
    """Return the arc length from point i to point j of a loop of n points; indices may pass its end."""
    turns = 0
    if not 0 <= i < n:
        turns -= i // n
        i %= n
    if not 0 <= j < n:
        turns += j // n
        j %= n
    return float(length[j] - length[i] + turns * length[n])


@uncounted
def _polynomial_at_zero(
    count: int,
    t_sums: tuple[float, float, float, float],
    x_sums: tuple[float, float, float],
    y_sums: tuple[float, float, float],
    square: float,
    degree: int,
    out: FloatArray,
) -> float:
    """Fit x(t) and y(t) by least squares from their sums; out = position and derivative at t = 0; returns the RMS.

    t_sums: of t, t^2, t^3 and t^4; x_sums, y_sums: of x and y, times 1, t and t^2; square: of x^2 + y^2.
    """
    m0 = float(count)
    m1, m2, m3, m4 = t_sums
    x0, x1, x2 = x_sums
    y0, y1, y2 = y_sums
    if degree == 2 and count >= 4:
        ax, bx, cx, _ = solve_three((m0, m1, m2, m2, m3, m4), (x0, x1, x2))
        ay, by, cy, _ = solve_three((m0, m1, m2, m2, m3, m4), (y0, y1, y2))
    else:
        ax, bx, cx, _ = solve_three((m0, m1, 0.0, m2, 0.0, 1.0), (x0, x1, 0.0))
        ay, by, cy, _ = solve_three((m0, m1, 0.0, m2, 0.0, 1.0), (y0, y1, 0.0))
    out[0], out[1] = ax, ay
    out[2], out[3] = bx, by
    # What a least-squares fit leaves is what there was less what it explains.
    explained = ax * x0 + bx * x1 + cx * x2 + ay * y0 + by * y1 + cy * y2
    return math.sqrt(max(square - explained, 0.0) / max(m0, 1.0))


@uncounted(cache=True)
def side_estimate(
    polyline: Polyline, i: int, side: int, stretch: Stretch, degree: int, out: FloatArray
) -> bool:
    """Extrapolate one side of a point to it, from the points on a stretch of that side.

    out holds x, y and the unit direction *away* from the point, and, if it has room, how far the furthest of
    the points is off the straight line through those. False if too few points lie there.
    """
    points, length, closed = polyline
    skip, reach = stretch
    n = len(points)
    total = length[n]
    ox, oy = points[i, 0], points[i, 1]
    m1 = m2 = m3 = m4 = x0 = x1 = x2 = y0 = y1 = y2 = squares = 0.0
    count = first = last = NONE
    for k in range(1, min(n // 2, 200) if closed else n):
        j = i + side * k
        if j < 0 or j >= n:
            if not closed:
                break
            j += n if j < 0 else -n
        away = (length[j] - length[i]) * side
        if away < 0:
            away += total
        if away > reach or count == _MOST_ON_A_SIDE:
            break
        if away >= skip:
            first = first if count else k
            last = k
            count += 1
            x, y, square = points[j, 0] - ox, points[j, 1] - oy, away * away
            m1, m2, m3, m4 = m1 + away, m2 + square, m3 + square * away, m4 + square * square
            x0, x1, x2 = x0 + x, x1 + x * away, x2 + x * square
            y0, y1, y2 = y0 + y, y1 + y * away, y2 + y * square
            squares += x * x + y * y
    if count < 2:
        return False
    _polynomial_at_zero(count, (m1, m2, m3, m4), (x0, x1, x2), (y0, y1, y2), squares, degree, out)
    size = norm(out[2], out[3])
    if size < 1e-9:
        return False
    out[0], out[1] = out[0] + ox, out[1] + oy
    out[2] /= size
    out[3] /= size
    if len(out) > 4:
        out[4] = 0.0
        for k in range(first, last + 1):
            j = around(i + side * k, n)
            out[4] = max(out[4], abs((points[j, 0] - out[0]) * out[3] - (points[j, 1] - out[1]) * out[2]))
    return True


@counted
def central_estimate(polyline: Polyline, i: int, reach: float, out: FloatArray) -> float:
    """Smooth a point from both sides: out holds x, y and the unit direction; returns the RMS left over."""
    rms: float = widened_estimate(polyline, i, reach, np.zeros(2, np.int64), np.zeros(11), out)
    return rms


@uncounted
def widened_estimate(
    polyline: Polyline, i: int, reach: float, steps: AnyArray, sums: FloatArray, out: FloatArray
) -> float:
    """Do what central_estimate does, going on from a nearer reach.

    steps: how many points on either side are seen already; sums: (11,) of those; both 0 at first.
    """
    points, length, closed = polyline
    n = len(points)
    total = length[n]
    ox, oy = points[i, 0], points[i, 1]
    m1, m2, m3, m4 = sums[0], sums[1], sums[2], sums[3]
    x0, x1, x2, y0, y1, y2 = sums[4], sums[5], sums[6], sums[7], sums[8], sums[9]
    squares = sums[10]
    most = min((n - 1) // 2 + 1, _MOST_BESIDE) if closed else _MOST_BESIDE
    for number in range(2):
        side = 2 * number - 1
        for k in range(steps[number] + 1, most):
            j = i + side * k
            if j < 0 or j >= n:
                if not closed:
                    break
                j += n if j < 0 else -n
            away = (length[j] - length[i]) * side
            if away < 0:
                away += total
            if away > reach:
                break
            steps[number] = k
            t = away * side
            x, y, square = points[j, 0] - ox, points[j, 1] - oy, t * t
            m1, m2, m3, m4 = m1 + t, m2 + square, m3 + square * t, m4 + square * square
            x0, x1, x2 = x0 + x, x1 + x * t, x2 + x * square
            y0, y1, y2 = y0 + y, y1 + y * t, y2 + y * square
            squares += x * x + y * y
    sums[0], sums[1], sums[2], sums[3] = m1, m2, m3, m4
    sums[4], sums[5], sums[6], sums[7], sums[8], sums[9] = x0, x1, x2, y0, y1, y2
    sums[10] = squares
    # The point itself is one of them.
    count = steps[0] + steps[1] + 1
    rms: float = _polynomial_at_zero(count, (m1, m2, m3, m4), (x0, x1, x2), (y0, y1, y2), squares, BENT, out)
    size = norm(out[2], out[3])
    out[0], out[1] = out[0] + ox, out[1] + oy
    if size > 1e-9:
        out[2] /= size
        out[3] /= size
    return rms
