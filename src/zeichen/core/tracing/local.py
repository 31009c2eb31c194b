"""Local curve estimates on a closed polyline: position and direction at a point, corners.

All kernels take points (n, 2) of a closed contour and its cumulative length (n + 1); distances are
arc lengths in drawing units (px).
"""

import math

import numpy as np
from numba import njit

from zeichen.core.geometry.norm import norm
from zeichen.core.tracing.three_unknowns import solve_three
from zeichen.core.values import FAST_SUMS, FloatArray


@njit(cache=True, error_model="numpy")
def cumulative_length(points: FloatArray) -> FloatArray:
    """Return the arc length up to each point and, last, the length of the whole loop."""
    n = len(points)
    out = np.zeros(n + 1)
    for i in range(n):
        j = i + 1 if i + 1 < n else 0
        dx, dy = points[j, 0] - points[i, 0], points[j, 1] - points[i, 1]
        out[i + 1] = out[i] + math.sqrt(dx * dx + dy * dy)
    return out


@njit(error_model="numpy")
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


@njit(error_model="numpy", fastmath=FAST_SUMS)
def _polynomial_at_zero(d: FloatArray, q: FloatArray, count: int, degree: int, out: FloatArray) -> float:
    """Fit x(d) and y(d) by least squares; out = position and derivative at d = 0; returns the RMS."""
    m1 = m2 = m3 = m4 = x0 = x1 = x2 = y0 = y1 = y2 = 0.0
    # From the first point on: far from the origin the sums would cancel badly.
    ox, oy = q[0, 0], q[0, 1]
    for k in range(count):
        t = d[k]
        x, y = q[k, 0] - ox, q[k, 1] - oy
        square = t * t
        m1 += t
        m2 += square
        m3 += square * t
        m4 += square * square
        x0 += x
        y0 += y
        x1 += x * t
        y1 += y * t
        x2 += x * square
        y2 += y * square
    m0 = float(count)
    if degree == 2 and count >= 4:
        ax, bx, cx, _ = solve_three(m0, m1, m2, m2, m3, m4, x0, x1, x2)
        ay, by, cy, _ = solve_three(m0, m1, m2, m2, m3, m4, y0, y1, y2)
    else:
        ax, bx, cx, _ = solve_three(m0, m1, 0.0, m2, 0.0, 1.0, x0, x1, 0.0)
        ay, by, cy, _ = solve_three(m0, m1, 0.0, m2, 0.0, 1.0, y0, y1, 0.0)
    total = 0.0
    for k in range(count):
        ex = ax + d[k] * (bx + d[k] * cx) - (q[k, 0] - ox)
        ey = ay + d[k] * (by + d[k] * cy) - (q[k, 1] - oy)
        total += ex * ex + ey * ey
    out[0], out[1] = ax + ox, ay + oy
    out[2], out[3] = bx, by
    return math.sqrt(total / max(count, 1))


@njit(cache=True, error_model="numpy")
def side_estimate(
    points: FloatArray,
    length: FloatArray,
    i: int,
    side: int,
    skip: float,
    reach: float,
    degree: int,
    closed: bool,
    out: FloatArray,
) -> bool:
    """Extrapolate one side of a point to it, from points between skip and reach away.

    out holds x, y and the unit direction *away* from the point, and, if it has room, how far the furthest of
    the points is off the straight line through those. False if too few points lie there.
    """
    n = len(points)
    total = length[n]
    d = np.empty(64)
    q = np.empty((64, 2))
    count = 0
    for k in range(1, min(n // 2, 200) if closed else n):
        j = i + side * k
        if j < 0 or j >= n:
            if not closed:
                break
            j += n if j < 0 else -n
        away = (length[j] - length[i]) * side
        if away < 0:
            away += total
        if away > reach or count == 64:
            break
        if away >= skip:
            d[count] = away
            q[count, 0] = points[j, 0]
            q[count, 1] = points[j, 1]
            count += 1
    if count < 2:
        return False
    _polynomial_at_zero(d, q, count, degree, out)
    size = norm(out[2], out[3])
    if size < 1e-9:
        return False
    out[2] /= size
    out[3] /= size
    if len(out) > 4:
        out[4] = 0.0
        for k in range(count):
            out[4] = max(out[4], abs((q[k, 0] - out[0]) * out[3] - (q[k, 1] - out[1]) * out[2]))
    return True


@njit(error_model="numpy")
def central_estimate(
    points: FloatArray, length: FloatArray, i: int, reach: float, closed: bool, out: FloatArray
) -> float:
    """Smooth a point from both sides: out holds x, y and the unit direction; returns the RMS left over."""
    n = len(points)
    total = length[n]
    d = np.empty(160)
    q = np.empty((160, 2))
    d[0] = 0.0
    q[0, 0] = points[i, 0]
    q[0, 1] = points[i, 1]
    count = 1
    for side in (-1, 1):
        for k in range(1, min((n - 1) // 2 + 1, 79) if closed else 79):
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
            d[count] = away * side
            q[count, 0] = points[j, 0]
            q[count, 1] = points[j, 1]
            count += 1
    rms: float = _polynomial_at_zero(d, q, count, 2, out)
    size = norm(out[2], out[3])
    if size > 1e-9:
        out[2] /= size
        out[3] /= size
    return rms
