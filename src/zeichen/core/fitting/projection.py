"""Feet of many points on one cubic at once, in plain loops that the compiler runs through several points at a time.

Points lie in rows of one array (x, y, and what else there may be), so that loops run through memory in order. A
state holds in its rows, for each point, the parameter of its foot, its offset along the curve's normal there
(curve minus point) and that normal. What is asked for goes from `low` on up to `high`; counted without a sign,
as otherwise each access would ask whether it counts from the end.

A loop that takes the largest of its values, or has another in it, is run through one point at a time: so there is a
pass for each step, and the largest is looked for afterwards.
"""

import math

import numpy as np

from zeichen.core.compiled import FAST_SUMS, uncounted
from zeichen.core.values import FloatArray

# A place where a curve stands still, by the square of its slope, has the direction of its chord.
_STILL = 1e-18

Power = tuple[float, float, float, float, float, float, float, float]


@uncounted(cache=True)
def power_form(p: FloatArray) -> Power:
    """Return the coefficients x0, y0 .. x3, y3 of the powers of t of a cubic's control points (4, 2)."""
    x0, y0 = p[0, 0], p[0, 1]
    x1, y1 = 3.0 * (p[1, 0] - x0), 3.0 * (p[1, 1] - y0)
    x3, y3 = p[3, 0] - x0 + 3.0 * (p[1, 0] - p[2, 0]), p[3, 1] - y0 + 3.0 * (p[1, 1] - p[2, 1])
    return x0, y0, x1, y1, p[3, 0] - x0 - x1 - x3, p[3, 1] - y0 - y1 - y3, x3, y3


@uncounted(fastmath=FAST_SUMS)
def _way(curve: Power, t: float, x: float, y: float) -> tuple[float, float]:
    """Return the way (x, y) from a point to a curve's place at t."""
    x0, y0, x1, y1, x2, y2, x3, y3 = curve
    return x0 + t * (x1 + t * (x2 + t * x3)) - x, y0 + t * (y1 + t * (y2 + t * y3)) - y


@uncounted(fastmath=FAST_SUMS)
def _slope(curve: Power, t: float) -> tuple[float, float]:
    """Return a curve's derivative (x, y) at t."""
    _, _, x1, y1, x2, y2, x3, y3 = curve
    return x1 + t * (2.0 * x2 + 3.0 * t * x3), y1 + t * (2.0 * y2 + 3.0 * t * y3)


@uncounted(cache=True, fastmath=FAST_SUMS)
def step_to_feet(curve: Power, seen: FloatArray, state: FloatArray, low: int, high: int) -> None:
    """Take the parameters one Newton step nearer to the points' feet: a plain one where a full one goes astray."""
    _, _, _, _, x2, y2, x3, y3 = curve
    for j in range(np.uint64(low), np.uint64(high)):
        t = state[0, j]
        fx, fy = _way(curve, t, seen[0, j], seen[1, j])
        gx, gy = _slope(curve, t)
        square = gx * gx + gy * gy
        full = square + fx * (2.0 * x2 + 6.0 * t * x3) + fy * (2.0 * y2 + 6.0 * t * y3)
        slope = max(full if full > 0.3 * square else square, 1e-12)
        state[0, j] = min(1.0, max(0.0, t - (fx * gx + fy * gy) / slope))


@uncounted(cache=True, fastmath=FAST_SUMS)
def plain_step_to_feet(curve: Power, seen: FloatArray, state: FloatArray, low: int, high: int) -> None:
    """Take the parameters one step of Gauss and Newton nearer to the feet of points that lie near the curve."""
    for j in range(np.uint64(low), np.uint64(high)):
        t = state[0, j]
        fx, fy = _way(curve, t, seen[0, j], seen[1, j])
        gx, gy = _slope(curve, t)
        slope = max(gx * gx + gy * gy, 1e-12)
        state[0, j] = min(1.0, max(0.0, t - (fx * gx + fy * gy) / slope))


@uncounted(cache=True, fastmath=FAST_SUMS)
def offsets(curve: Power, seen: FloatArray, state: FloatArray, low: int, high: int) -> None:
    """Fill rows 1 to 3 of a state: the offset at each parameter, and the normal it is measured along."""
    _, _, x1, y1, x2, y2, x3, y3 = curve
    chord_x, chord_y = x1 + x2 + x3, y1 + y2 + y3
    for j in range(np.uint64(low), np.uint64(high)):
        t = state[0, j]
        fx, fy = _way(curve, t, seen[0, j], seen[1, j])
        gx, gy = _slope(curve, t)
        still = gx * gx + gy * gy < _STILL
        gx = chord_x if still else gx
        gy = chord_y if still else gy
        size = 1.0 / math.sqrt(max(gx * gx + gy * gy, 1e-24))
        state[1, j] = (fy * gx - fx * gy) * size
        state[2, j] = -gy * size
        state[3, j] = gx * size


@uncounted(cache=True, fastmath=FAST_SUMS)
def square_distances(curve: Power, seen: FloatArray, state: FloatArray, low: int, high: int) -> None:
    """Fill row 1 of a state with the squared distances of points from the curve at their parameters."""
    for j in range(np.uint64(low), np.uint64(high)):
        fx, fy = _way(curve, state[0, j], seen[0, j], seen[1, j])
        state[1, j] = fx * fx + fy * fy
