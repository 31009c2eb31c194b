"""Lines where a curve draws nothing else, one node more where the fit needs it: edits of a spline."""

import math

import numpy as np

from zeichen.core.compiled import NONE, YES, common, counted, uncounted
from zeichen.core.fitting.refinement import refine_window, widen
from zeichen.core.fitting.spline_arrays import SplineArrays, up_to
from zeichen.core.fitting.spline_geometry import controls, misfit, span, spread_parameters, turns_at
from zeichen.core.geometry.loops import around
from zeichen.core.geometry.norm import norm
from zeichen.core.values import AnyArray, FloatArray

# The refinement around a new node.
_ROUNDS, _NOT_CALM = common(8), common(False)
# A corner that turns by this more than its points is a spike of the fit.
_SPIKE_RAD = math.radians(42.0)
# Points that turn by more than this show a corner, however wrong its fit.
_BEND_RAD = math.radians(75.0)


@uncounted
def wrapped(angle: float) -> float:
    """Return an angle brought into -pi to pi."""
    turns: float = math.floor(angle / (2 * math.pi) + 0.5)
    return angle - 2 * math.pi * turns


@counted
def split_worst(spline: SplineArrays, m: int, tolerance: float, least_points: int) -> int:
    """Put a smooth node into every curve that misses its points by more than a tolerance.

    Returns the new number of nodes; arrays must have room for them.
    """
    q, w, u, node, first, line, corner, pinned, angle, handle, closed = spline
    n = len(q)
    p = np.empty((4, 2))
    k = NONE
    while k < (m if closed else m - 1):
        if m >= len(node) - 1:
            break
        worst, _, place = misfit(up_to(spline, m), k)
        start, points = span(first[:m], k, n, closed)
        at = place - start
        before = after = 0
        for step in range(points):
            if w[around(start + step, n)] >= 0.5:
                if step < at:
                    before += 1
                else:
                    after += 1
        if worst <= tolerance or before < least_points or after < least_points:
            k += 1
            continue
        controls(k, node[:m], line[:m], angle[:m], handle[:m], p)
        t = u[around(place, n)]
        t = min(0.85, max(0.15, t))
        for i in range(m, k + 1, -1):
            node[i, 0], node[i, 1] = node[i - 1, 0], node[i - 1, 1]
            first[i] = first[i - 1]
            line[i], corner[i], pinned[i] = line[i - 1], corner[i - 1], pinned[i - 1]
            for end in range(2):
                angle[i, end], handle[i, end] = angle[i - 1, end], handle[i - 1, end]
        m += 1
        ax, ay = p[0, 0] + t * (p[1, 0] - p[0, 0]), p[0, 1] + t * (p[1, 1] - p[0, 1])
        bx, by = p[1, 0] + t * (p[2, 0] - p[1, 0]), p[1, 1] + t * (p[2, 1] - p[1, 1])
        cx, cy = p[2, 0] + t * (p[3, 0] - p[2, 0]), p[2, 1] + t * (p[3, 1] - p[2, 1])
        dx, dy = ax + t * (bx - ax), ay + t * (by - ay)
        ex, ey = bx + t * (cx - bx), by + t * (cy - by)
        fx, fy = dx + t * (ex - dx), dy + t * (ey - dy)
        middle = math.atan2(ey - dy, ex - dx)
        node[k + 1, 0], node[k + 1, 1] = fx, fy
        first[k + 1] = place
        corner[k + 1] = False
        pinned[k + 1] = False
        line[k + 1] = False
        angle[k + 1, 1], handle[k + 1, 1] = angle[k, 1], norm(p[3, 0] - cx, p[3, 1] - cy)
        angle[k + 1, 0], handle[k + 1, 0] = middle, norm(ex - fx, ey - fy)
        angle[k, 1], handle[k, 1] = middle, norm(fx - dx, fy - dy)
        handle[k, 0] = norm(ax - p[0, 0], ay - p[0, 1])
        line[k] = False
        spread_parameters(q, u, start, at)
        spread_parameters(q, u, place, points - at)
        size = m if closed else m - 1
        count = min(4, size)
        s0 = k - 1
        if not closed:
            s0 = min(max(0, s0), size - count)
        from_k, wide = widen(around(s0, size), count, closed, line[:m], corner[:m])
        refine_window(up_to(spline, m), from_k, wide, _ROUNDS, _NOT_CALM)
        k += 2
    return m


@uncounted
def straighten(spline: SplineArrays, m: int, tolerance: float) -> int:
    """Make lines of the curves that draw nothing else; returns how many.

    The points must lie within the tolerance of the chord, and smooth ends must point along it.
    """
    q, w, _, node, first, line, corner, _, angle, handle, closed = spline
    n = len(q)
    made = 0
    for k in range(m if closed else m - 1):
        if line[k]:
            continue
        j = around(k + 1, m)
        dx, dy = node[j, 0] - node[k, 0], node[j, 1] - node[k, 1]
        chord = norm(dx, dy)
        if chord < 0.5:
            continue
        along = math.atan2(dy, dx)
        bent = False
        for end in range(2):
            smooth = not corner[k if end == 0 else j]
            # A sagitta of the tolerance on an arc over this chord turns each end by 4 s / chord.
            if smooth and abs(wrapped(angle[k, end] - along)) > 4.0 * tolerance / chord + 0.004:
                bent = True
        if bent:
            continue
        start, points = span(first[:m], k, n, closed)
        worst = 0.0
        for step in range(points):
            i = around(start + step, n)
            if w[i] >= 0.5:
                off = abs((q[i, 0] - node[k, 0]) * dy - (q[i, 1] - node[k, 1]) * dx) / chord
                worst = max(worst, off)
        if worst <= tolerance:
            line[k] = True
            angle[k, 0] = angle[k, 1] = along
            handle[k, 0] = handle[k, 1] = chord / 3
            made += 1
    # Two lines that meet have no direction to share.
    for k in range(m):
        left = around(k - 1, m) if closed else k - 1
        if left >= 0 and line[left] and line[k]:
            corner[k] = True
    return made


@uncounted(cache=True)
def begin_at_nearest(
    q: FloatArray, k: int, before: int, after: int, node: FloatArray, first: AnyArray
) -> None:
    """Let the segment after node k, which moved, begin at the measured point nearest to it.

    It lies between where the segments after two other nodes begin.
    """
    n = len(q)
    low, high = first[before], first[after]
    high += n if high <= low else 0
    best, found = np.inf, -1
    # Every segment keeps a point. Places rise from the first node's on and may pass the end of the list.
    for place in range(max(low + 1, n) if k == 0 else low + 1, high):
        x, y = q[around(place, n), 0] - node[k, 0], q[around(place, n), 1] - node[k, 1]
        if x * x + y * y < best:
            best, found = x * x + y * y, place
    if found >= 0:
        first[k] = found - n if k == 0 else found


@uncounted(cache=True)
def drop_node(spline: SplineArrays, k: int, m: int) -> None:
    """Take node k of m out; the segment before it takes over its points, and keeps its own shape for now."""
    _, _, _, node, first, line, corner, pinned, angle, handle, _ = spline
    for i in range(k, m - 1):
        first[i], line[i], corner[i], pinned[i] = first[i + 1], line[i + 1], corner[i + 1], pinned[i + 1]
        for end in range(2):
            node[i, end], angle[i, end], handle[i, end] = (
                node[i + 1, end],
                angle[i + 1, end],
                handle[i + 1, end],
            )


@counted(cache=True)
def smooth_spikes(spline: SplineArrays, pace: int) -> AnyArray:
    """Make smooth those corners of a closed spline that turn far more than their points do; returns which.

    pace: how many points a pixel of the picture's own is long.
    """
    q, w, _, node, first, line, corner, pinned, angle, handle, _ = spline
    n, m = len(q), len(node)
    made = np.empty(m, np.int64)
    count = 0
    turns = turns_at(m, angle, YES)
    for k in range(m):
        if not corner[k] or turns[k] < _SPIKE_RAD:
            continue
        i = first[k]
        seen = _turn_around(q, i, pace)
        if seen > _BEND_RAD or turns[k] - seen < (_SPIKE_RAD if seen <= _SPIKE_RAD else 2.0 * _SPIKE_RAD):
            continue
        left = around(k - 1, m)
        ahead, behind = around(i + 3 * pace, n), around(i - 3 * pace, n)
        node[k, 0], node[k, 1] = q[around(i, n), 0], q[around(i, n), 1]
        corner[k] = pinned[k] = line[k] = line[left] = False
        angle[k, 0] = angle[left, 1] = math.atan2(q[ahead, 1] - q[behind, 1], q[ahead, 0] - q[behind, 0])
        # No corner blurs them, so the points around have their say.
        for j in range(i - 8 * pace, i + 9 * pace):
            w[around(j, n)] = 1.0
        for segment in (k, left):
            other = around(segment + 1, m)
            chord = norm(node[other, 0] - node[segment, 0], node[other, 1] - node[segment, 1])
            handle[segment, 0] = handle[segment, 1] = chord / 3
        made[count] = k
        count += 1
    return made[:count]


@counted
def _turn_around(q: FloatArray, i: int, pace: int) -> float:
    """Return by how much a closed run of points turns at one of them, radians, seen from 8 pixels around."""
    n = len(q)
    directions = np.zeros((2, 2))
    for side in range(2):
        start, count = i + (2 if side else -8) * pace, 7 * pace
        half = count // 2
        for k in range(count):
            share = 1.0 / (count - half) if k >= half else -1.0 / half
            directions[side, 0] += share * q[around(start + k, n), 0]
            directions[side, 1] += share * q[around(start + k, n), 1]
    come, go = directions[0], directions[1]
    return abs(math.atan2(come[0] * go[1] - come[1] * go[0], come[0] * go[0] + come[1] * go[1]))
