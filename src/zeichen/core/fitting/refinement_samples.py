"""The measured points of a window of segments, as the refinement sees them: samples, feet, normal equations.

Samples lie in rows of one array, so that the loops over them run through memory in order. A state holds,
for each sample, its parameter on the curve, its offset along the curve's normal (curve minus point) and
that normal; two states are kept, the present one and the one of a step on trial.
"""

import numpy as np

from zeichen.core.compiled import FAST_SUMS, NONE, ONE, counted, uncounted
from zeichen.core.fitting.projection import offsets, power_form, step_to_feet
from zeichen.core.fitting.spline_arrays import SplineArrays
from zeichen.core.fitting.spline_geometry import span
from zeichen.core.geometry.loops import around
from zeichen.core.values import AnyArray, FloatArray

# Points of one segment that are looked at, about; more say hardly more than these.
_MOST_SAMPLES = 20


@uncounted(cache=True)
def stride_of(points: int, most: int) -> int:
    """Return every how manieth point is looked at, so that there are about as many as wanted."""
    return max(1, (points + most // 2) // most)


@counted
def gather(
    spline: SplineArrays, s0: int, count: int, segments: int
) -> tuple[FloatArray, FloatArray, AnyArray, AnyArray]:
    """Return samples (x, y, weight in rows), their parameters, their points, and where each segment's start.

    Points without weight are left out.
    """
    q, w, u, first, closed = spline.points, spline.weight, spline.at, spline.first, spline.closed
    n = len(q)
    room = 0
    for i in range(count):
        _, points = span(first, around(s0 + i, segments), n, closed)
        room += points // stride_of(points, _MOST_SAMPLES) + 1
    seen = np.empty((3, room))
    at = np.empty(room)
    point = np.empty(room, np.int64)
    begin = np.empty(count + 1, np.int64)
    filled = 0
    for i in range(count):
        begin[i] = filled
        start, points = span(first, around(s0 + i, segments), n, closed)
        stride = stride_of(points, _MOST_SAMPLES)
        for step in range(stride // 2, points, stride):
            j = around(start + step, n)
            if w[j] > 0.0:
                seen[0, filled] = q[j, 0]
                seen[1, filled] = q[j, 1]
                seen[2, filled] = w[j] * stride
                at[filled] = u[j]
                point[filled] = j
                filled += 1
    begin[count] = filled
    return seen, at, point, begin


@uncounted(cache=True, fastmath=FAST_SUMS)
def lie(p: FloatArray, seen: FloatArray, low: int, high: int, before: FloatArray, state: FloatArray) -> float:
    """Put samples on a cubic, two Newton steps from the feet they had; returns the weighted squared error.

    p: (4, 2) control points; before: parameters to start from; state: (4, samples), filled from low to high.
    """
    curve = power_form(p)
    for j in range(np.uint64(low), np.uint64(high)):
        state[0, j] = before[j]
    step_to_feet(curve, seen, state, low, high)
    step_to_feet(curve, seen, state, low, high)
    offsets(curve, seen, state, low, high)
    total = 0.0
    for j in range(np.uint64(low), np.uint64(high)):
        total += seen[2, j] * state[1, j] * state[1, j]
    return total


@uncounted(cache=True, fastmath=FAST_SUMS)
def normal_equations(
    seen: FloatArray, state: FloatArray, some: tuple[int, int], line: bool, a: FloatArray, b: FloatArray
) -> None:
    """Fill the lower half of a (8, 8) and b (8) with the normal equations for control points x0, y0, x1 .. y3.

    some: the first of the points and the one after the last. A line has two control points, its ends; the others have
    no part in it.
    """
    low, high = some
    _fill_block(seen, state, low, high, line, NONE, NONE, a)
    _fill_block(seen, state, low, high, line, ONE, NONE, a)
    _fill_block(seen, state, low, high, line, ONE, ONE, a)
    for axis in range(2):
        b0 = b1 = b2 = b3 = 0.0
        for j in range(np.uint64(low), np.uint64(high)):
            t = state[0, j]
            s = 1.0 - t
            force = seen[2, j] * state[2 + axis, j] * state[1, j]
            if line:
                b0 -= s * force
                b3 -= t * force
            else:
                b0 -= s * s * s * force
                b1 -= 3.0 * s * s * t * force
                b2 -= 3.0 * s * t * t * force
                b3 -= t * t * t * force
        b[axis], b[2 + axis], b[4 + axis], b[6 + axis] = b0, b1, b2, b3


@uncounted(fastmath=FAST_SUMS)
def _fill_block(
    seen: FloatArray, state: FloatArray, low: int, high: int, line: bool, row: int, column: int, a: FloatArray
) -> None:
    """Fill the entries of a (8, 8, lower half) between one coordinate (0 x, 1 y) and another of the control points.

    Sums are kept in variables of their own: sums in arrays take ten times as long.
    """
    a00 = a10 = a11 = a20 = a21 = a22 = a30 = a31 = a32 = a33 = 0.0
    for j in range(np.uint64(low), np.uint64(high)):
        t = state[0, j]
        s = 1.0 - t
        w = seen[2, j] * state[2 + row, j] * state[2 + column, j]
        if line:
            w0, w1, w2, w3 = s, 0.0, 0.0, t
        else:
            w0, w1, w2, w3 = s * s * s, 3.0 * s * s * t, 3.0 * s * t * t, t * t * t
        a00 += w * w0 * w0
        a10 += w * w1 * w0
        a11 += w * w1 * w1
        a20 += w * w2 * w0
        a21 += w * w2 * w1
        a22 += w * w2 * w2
        a30 += w * w3 * w0
        a31 += w * w3 * w1
        a32 += w * w3 * w2
        a33 += w * w3 * w3
    a[row, column], a[2 + row, 2 + column] = a00, a11
    a[4 + row, 4 + column], a[6 + row, 6 + column] = a22, a33
    a[2 + row, column], a[4 + row, column], a[6 + row, column] = a10, a20, a30
    a[4 + row, 2 + column], a[6 + row, 2 + column], a[6 + row, 4 + column] = a21, a31, a32
    if row != column:
        # The same sums stand for the other order of the coordinates.
        a[2 + column, row], a[4 + column, row], a[6 + column, row] = a10, a20, a30
        a[4 + column, 2 + row], a[6 + column, 2 + row], a[6 + column, 4 + row] = a21, a31, a32
