"""What a spline of segments looks like: control points, the points of each segment, how far they lie from it.

A spline is kept as arrays: `node` (m, 2); for each segment `line`, `angle` (start, end) and `handle`
(start, end); `first`, where each segment's points begin. See Spline.
"""

import math

import numpy as np

from zeichen.core.compiled import NONE, counted, uncounted
from zeichen.core.fitting.projection import offsets, power_form, square_distances, step_to_feet
from zeichen.core.fitting.spline_arrays import SplineArrays
from zeichen.core.geometry.bezier import AREA_TERMS
from zeichen.core.geometry.loops import around
from zeichen.core.geometry.norm import norm
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Points of one segment whose distance from it is measured, about.
_MOST_LOOKED_AT = 96
# And of those that may show one that runs off.
_MOST_GLANCED_AT = 48
# Newton steps to a point's foot.
_STEPS = 3
# A point nearer than this to where a few steps lead is no cause for a longer look.
_SURELY_NEAR_PX = 0.5


@uncounted
def controls(
    k: int,
    node: FloatArray,
    line: BoolArray,
    angle: FloatArray,
    handle: FloatArray,
    p: FloatArray,
) -> None:
    """Write the control points of segment k into p (4, 2)."""
    draw_line(p, node[k], node[around(k + 1, len(node))])
    if not line[k]:
        p[1, 0] = p[0, 0] + handle[k, 0] * math.cos(angle[k, 0])
        p[1, 1] = p[0, 1] + handle[k, 0] * math.sin(angle[k, 0])
        p[2, 0] = p[3, 0] - handle[k, 1] * math.cos(angle[k, 1])
        p[2, 1] = p[3, 1] - handle[k, 1] * math.sin(angle[k, 1])


@uncounted
def project(
    p: FloatArray, x: float, y: float, t: float, steps: int
) -> tuple[float, float, float, float, float]:
    """Return (t, offset along the unit normal, nx, ny, distance) of a point from a cubic, starting at t.

    The offset is curve minus point, measured along the curve's normal at the foot.
    """
    ax, ay = p[1, 0] - p[0, 0], p[1, 1] - p[0, 1]
    bx, by = p[2, 0] - p[1, 0], p[2, 1] - p[1, 1]
    cx, cy = p[3, 0] - p[2, 0], p[3, 1] - p[2, 1]
    fx = fy = gx = gy = 0.0
    for step in range(steps + 1):
        s = 1.0 - t
        w0, w1, w2, w3 = s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t
        fx = w0 * p[0, 0] + w1 * p[1, 0] + w2 * p[2, 0] + w3 * p[3, 0] - x
        fy = w0 * p[0, 1] + w1 * p[1, 1] + w2 * p[2, 1] + w3 * p[3, 1] - y
        gx = 3 * (s * s * ax + 2 * s * t * bx + t * t * cx)
        gy = 3 * (s * s * ay + 2 * s * t * by + t * t * cy)
        if step == steps:
            break
        square = gx * gx + gy * gy
        # The full Newton step near the foot, the plain one where it would go the wrong way.
        hx = 6 * (s * (bx - ax) + t * (cx - bx))
        hy = 6 * (s * (by - ay) + t * (cy - by))
        full = square + fx * hx + fy * hy
        slope = full if full > 0.3 * square else square
        if slope < 1e-12:
            break
        change = (fx * gx + fy * gy) / slope
        moved = min(1.0, max(0.0, t - change))
        if abs(moved - t) < 1e-7:
            break
        t = moved
    size = norm(gx, gy)
    if size < 1e-9:
        gx, gy = p[3, 0] - p[0, 0], p[3, 1] - p[0, 1]
        size = max(norm(gx, gy), 1e-12)
    nx, ny = -gy / size, gx / size
    return t, fx * nx + fy * ny, nx, ny, norm(fx, fy)


@uncounted
def span(first: AnyArray, k: int, n: int, closed: bool) -> tuple[int, int]:
    """Return the first point and the number of points of segment k."""
    if closed and k == len(first) - 1:
        return first[k], first[0] + n - first[k]
    return first[k], first[k + 1] - first[k]


@counted
def misfit(spline: SplineArrays, k: int) -> tuple[float, float, int]:
    """Return (largest distance, weighted sum of squares, point of the largest) of segment k, from some points."""
    q, w, u, node, first, line, _, _, angle, handle, closed = spline
    n = len(q)
    p = np.empty((4, 2))
    controls(k, node, line, angle, handle, p)
    start, points = span(first, k, n, closed)
    stride = max(1, points // _MOST_LOOKED_AT)
    seen, state = np.empty((2, points // stride + 1)), np.empty((4, points // stride + 1))
    count = NONE
    for step in range(stride // 2, points, stride):
        j = around(start + step, n)
        seen[0, count], seen[1, count], state[0, count] = q[j, 0], q[j, 1], u[j]
        count += 1
    curve = power_form(p)
    for _ in range(_STEPS):
        step_to_feet(curve, seen, state, NONE, count)
    offsets(curve, seen, state, NONE, count)
    worst, total, place = 0.0, 0.0, -1
    for i in range(count):
        step = stride // 2 + i * stride
        j = around(start + step, n)
        if w[j] > 0.0:
            u[j] = state[0, i]
            total += stride * w[j] * state[1, i] * state[1, i]
            off = abs(state[1, i]) * min(1.0, w[j])
            if off > worst:
                worst, place = off, start + step
    return worst, total, place


@uncounted(cache=True)
def spread_parameters(q: FloatArray, u: FloatArray, start: int, points: int) -> None:
    """Set the parameters of a run of points by length."""
    n = len(q)
    run = 0.0
    for step in range(points):
        j = around(start + step, n)
        if step:
            i = around(j - 1, n)
            run += norm(q[j, 0] - q[i, 0], q[j, 1] - q[i, 1])
        u[j] = run
    for step in range(points):
        j = around(start + step, n)
        u[j] = (u[j] + 0.25) / (run + 0.5) if points > 1 else 0.5


@uncounted
def spread_all(q: FloatArray, u: FloatArray, first: AnyArray, segments: int, closed: bool) -> None:
    """Set the parameters of all points by length along their segments."""
    for k in range(segments):
        start, points = span(first, k, len(q), closed)
        spread_parameters(q, u, start, points)


@counted(cache=True)
def all_controls(
    segments: int, node: FloatArray, line: BoolArray, angle: FloatArray, handle: FloatArray
) -> FloatArray:
    """Return the control points of a spline, shape (segments, 4, 2)."""
    out = np.empty((segments, 4, 2))
    for k in range(segments):
        controls(k, node, line, angle, handle, out[k])
    return out


@counted
def furthest_points(spline: SplineArrays, segments: int) -> FloatArray:
    """Return, for each segment, how far the furthest of its points lies from it, whatever its weight."""
    q, _, _, node, first, line, _, _, angle, handle, closed = spline
    n = len(q)
    out = np.zeros(segments)
    p = np.empty((4, 2))
    seen, state = np.empty((2, 2 * _MOST_GLANCED_AT)), np.empty((2, 2 * _MOST_GLANCED_AT))
    for k in range(segments):
        controls(k, node, line, angle, handle, p)
        start, points = span(first, k, n, closed)
        # Points lie less than a pixel apart: more than these do not show a curve that runs off better.
        stride = max(1, points // _MOST_GLANCED_AT)
        count = NONE
        for step in range(stride // 2, points, stride):
            j = around(start + step, n)
            seen[0, count], seen[1, count], state[0, count] = q[j, 0], q[j, 1], (step + 0.5) / points
            count += 1
        curve = power_form(p)
        for _ in range(_STEPS):
            step_to_feet(curve, seen, state, NONE, count)
        square_distances(curve, seen, state, NONE, count)
        for i in range(count):
            off = math.sqrt(state[1, i])
            if off > out[k] and off > _SURELY_NEAR_PX:
                # A longer look: beside a short handle Newton gets on slowly.
                _, _, _, _, again = project(p, seen[0, i], seen[1, i], state[0, i], 12)
                off = min(off, again)
            out[k] = max(out[k], off)
    return out


@counted(cache=True)
def turns_at(m: int, angle: FloatArray, closed: bool) -> FloatArray:
    """Return by how much a spline turns at each of its m nodes, radians; 0 at the ends of an open one."""
    out = np.zeros(m)
    for k in range(0 if closed else 1, m if closed else m - 1):
        turn = angle[k, 0] - angle[k - 1 if k else m - 1, 1]
        out[k] = abs(turn - 2 * math.pi * math.floor(turn / (2 * math.pi) + 0.5))
    return out


@uncounted(cache=True)
def node_off(q: FloatArray, x: float, y: float, at: int, closed: bool) -> float:
    """Return how far a place lies from the line between a point and the one before it.

    Straight between the two: along gentle runs points may be several px apart.
    """
    n = len(q)
    i = around(at, n)
    j = around(at - 1, n) if closed else max(at - 1, 0)
    way_x, way_y, off_x, off_y = q[j, 0] - q[i, 0], q[j, 1] - q[i, 1], x - q[i, 0], y - q[i, 1]
    along = (off_x * way_x + off_y * way_y) / max(way_x * way_x + way_y * way_y, 1e-12)
    along = max(0.0, min(1.0, along))
    off: float = norm(off_x - along * way_x, off_y - along * way_y)
    return off


@counted(cache=True)
def outliers(spline: SplineArrays, segments: int, limit: float, lost: float) -> BoolArray:
    """Return which segments of a spline are further from one of their points than a limit.

    Or have a smooth node further than `lost` from the points beside it: a spike may leave all of them behind.
    """
    q, _, _, node, first, _, corner, _, angle, _, closed = spline
    m = len(node)
    room, gone = np.empty(m), np.zeros(m, np.bool_)
    turn = turns_at(m, angle, closed)
    for k in range(m):
        room[k] = limit
        if corner[k]:
            # At a slender tip the contour itself stays short of the corner.
            room[k] = limit * max(1.0, 0.75 / max(math.cos(min(turn[k], 3.0) / 2), 0.2))
        gone[k] = not corner[k] and node_off(q, node[k, 0], node[k, 1], first[k], closed) > lost
    off = furthest_points(spline, segments)
    out = np.empty(segments, np.bool_)
    for k in range(segments):
        j = around(k + 1, m)
        out[k] = gone[k] or gone[j] or off[k] > max(room[k], room[j])
    return out


@uncounted(cache=True)
def same_way_round(segments: FloatArray, loop: FloatArray) -> bool:
    """Return whether a closed run of curves and a closed polyline (n, 2) enclose areas of the same sign."""
    # From the loop's own first point on: far from the origin the products would cancel badly.
    ox, oy = loop[0, 0], loop[0, 1]
    area = drawn = 0.0
    for k in range(1, len(loop)):
        ax, ay, bx, by = loop[k - 1, 0] - ox, loop[k - 1, 1] - oy, loop[k, 0] - ox, loop[k, 1] - oy
        area += ax * by - ay * bx
    for k in range(len(segments)):
        for first, last, share in AREA_TERMS:
            ax, ay = segments[k, first, 0] - ox, segments[k, first, 1] - oy
            bx, by = segments[k, last, 0] - ox, segments[k, last, 1] - oy
            drawn += share * (ax * by - ay * bx)
    return drawn * area > 0.0


@uncounted
def draw_line(curve: FloatArray, start: FloatArray, end: FloatArray) -> None:
    """Write a straight line into a curve's control points (4, 2): its handles on the thirds of its chord."""
    for axis in range(2):
        step = (end[axis] - start[axis]) / 3.0
        curve[0, axis], curve[1, axis] = start[axis], start[axis] + step
        curve[2, axis], curve[3, axis] = end[axis] - step, end[axis]
