"""Fewer nodes where fewer will do: each trial is fitted anew around the node that goes."""

import math

import numpy as np

from zeichen.core.compiled import NONE, common, counted, uncounted
from zeichen.core.fitting.cubic_fit import Ends, fit_cubic, room_for
from zeichen.core.fitting.node_insertion import drop_node, wrapped
from zeichen.core.fitting.refinement import refine_window, widen
from zeichen.core.fitting.spline_arrays import SplineArrays, up_to
from zeichen.core.fitting.spline_geometry import misfit, span, spread_parameters
from zeichen.core.geometry.loops import around
from zeichen.core.geometry.norm import norm
from zeichen.core.values import BoolArray, FloatArray

# The refinement around where a node was, and that of one cubic.
_ROUNDS, _ROUNDS_OF_ONE, _NOT_CALM = common(5), common(4), common(False)
# One cubic hardly follows a bend of more than this without bulging.
_MOST_TURN = math.radians(130.0)
# Where two lines meet at less than this they may be one.
_SLIGHT_KINK = math.radians(12.0)
# A node stays if without it a quick fit misses one of this many points by so many times the tolerance.
_GLANCED_AT = 20
_FAR_OFF = 5.0
# A segment no longer than this may turn anywhere, px.
_SHORT_PX = 1.6
# A corner that moves further than this, beside the tolerance, when a node beside it goes has lost its hold.
_MOST_DRIFT_PX = 1.0


@uncounted
def _chord(node: FloatArray, k: int, m: int) -> float:
    j = around(k + 1, m)
    size: float = norm(node[j, 0] - node[k, 0], node[j, 1] - node[k, 1])
    return size


@counted
def remove_nodes(spline: SplineArrays, m: int, tolerance: float, longest_line: float) -> int:
    """Take out smooth nodes that the curve does without; returns how many nodes are left.

    The spline occupies the first m entries of its arrays. A node goes when, everything around it fitted
    anew, no point is further off than the tolerance. Lines longer than longest_line are kept.
    """
    q, _, u, node, first, line, corner, pinned, angle, handle, closed = spline
    n = len(q)
    k = 0 if closed else 1
    while k < m:
        if m <= 2 or (not closed and k >= m - 1):
            break
        left = around(k - 1, m) if closed else k - 1
        kink = abs(wrapped(angle[k, 0] - angle[left, 1]))
        if pinned[k] or (closed and m <= 2) or (corner[k] and kink > _SLIGHT_KINK):
            k += 1
            continue
        too_long = False
        for side in (left, k):
            if line[side]:
                j = around(side + 1, m)
                size = norm(node[j, 0] - node[side, 0], node[j, 1] - node[side, 1])
                too_long = too_long or size > longest_line
        bend = wrapped(angle[left, 1] - angle[left, 0]) + wrapped(angle[k, 1] - angle[k, 0])
        # A line goes on as a line if it can; a long one never becomes part of a curve.
        as_line = (line[left] or line[k]) and abs(bend) + kink < _SLIGHT_KINK
        short_l, short_r = _chord(node, left, m) < _SHORT_PX, _chord(node, k, m) < _SHORT_PX
        if (too_long and not as_line) or (abs(bend) > _MOST_TURN and short_l == short_r):
            k += 1
            continue
        if not as_line and _hopeless(spline, left, k, m, tolerance):
            k += 1
            continue
        # Work on copies; most trials fail.
        trial = _copied(up_to(spline, m))
        _, _, _, s_node, s_first, s_line, s_corner, _, s_angle, s_handle, _ = trial
        start_l, points_l = span(s_first, left, n, closed)
        _, points_r = span(s_first, k, n, closed)
        if k == 0:
            # The spline starts at this node: let it start at the next one instead.
            _rotate(trial, m)
            here, before = m - 1, m - 2
        else:
            here, before = k, k - 1
        share = (points_l + 1.0) / (points_l + points_r + 2.0)
        turn_angle, turn_handle = s_angle[here, 1], s_handle[here, 1]
        if abs(bend) > _MOST_TURN:
            # A stub that turns back says nothing: the other one goes on.
            if short_r:
                turn_angle, turn_handle = s_angle[before, 1], s_handle[before, 1]
            else:
                s_angle[before, 0], s_handle[before, 0] = s_angle[here, 0], s_handle[here, 0]
        start_handle = s_handle[before, 0]
        line_l, line_r = s_line[before], s_line[here]
        drop_node(trial, here, m)
        size = m - 1
        s_line[before] = as_line
        j = around(before + 1, size) if closed else before + 1
        chord = norm(s_node[j, 0] - s_node[before, 0], s_node[j, 1] - s_node[before, 1])
        s_angle[before, 1] = turn_angle
        s_handle[before, 0] = chord / 3 if line_l else start_handle / share
        s_handle[before, 1] = chord / 3 if line_r else turn_handle / (1.0 - share)
        if as_line:
            along = math.atan2(s_node[j, 1] - s_node[before, 1], s_node[j, 0] - s_node[before, 0])
            s_angle[before, 0] = s_angle[before, 1] = along
        kept_u = np.empty(points_l + points_r)
        for step in range(points_l + points_r):
            kept_u[step] = u[around(start_l + step, n)]
        spread_parameters(q, u, start_l, points_l + points_r)
        s_count = min(3, size if closed else size - 1)
        s0 = before - 1
        if not closed:
            s0 = min(max(0, s0), size - 1 - s_count)
        from_k, wide = widen(
            around(s0, size) if closed else s0, s_count, closed, s_line[:size], s_corner[:size]
        )
        fewer = up_to(trial, size)
        refine_window(fewer, from_k, wide, _ROUNDS, _NOT_CALM)
        fine = _near_by(s_node, before, node, left, s_corner, tolerance) and _near_by(
            s_node, j, node, around(k + 1, m), s_corner, tolerance
        )
        count = size if closed else size - 1
        for i in range(wide if fine else 0):
            worst, _, _ = misfit(fewer, around(from_k + i, count))
            if worst > tolerance:
                fine = False
                break
        if fine:
            m = size
            for i in range(m):
                first[i], line[i], corner[i], pinned[i] = s_first[i], s_line[i], s_corner[i], trial.pinned[i]
                for end in range(2):
                    node[i, end], angle[i, end], handle[i, end] = (
                        s_node[i, end],
                        s_angle[i, end],
                        s_handle[i, end],
                    )
            if k == 0:
                continue
        else:
            for step in range(points_l + points_r):
                u[around(start_l + step, n)] = kept_u[step]
            k += 1
    return m


@counted
def _copied(spline: SplineArrays) -> SplineArrays:
    """Return a spline of the same points whose nodes and segments are its own."""
    points, weight, at, node, first, line, corner, pinned, angle, handle, closed = spline
    return SplineArrays(
        points,
        weight,
        at,
        node.copy(),
        first.copy(),
        line.copy(),
        corner.copy(),
        pinned.copy(),
        angle.copy(),
        handle.copy(),
        closed,
    )


@uncounted
def _near_by(
    moved: FloatArray, i: int, node: FloatArray, k: int, corner: BoolArray, tolerance: float
) -> bool:
    """Return whether a node is no corner, or still near where it was: its points have no say and let it run off."""
    moved_by = norm(moved[i, 0] - node[k, 0], moved[i, 1] - node[k, 1])
    return bool(not corner[i] or moved_by < _MOST_DRIFT_PX + 2.0 * tolerance)


@counted
def _hopeless(spline: SplineArrays, left: int, k: int, m: int, tolerance: float) -> bool:
    """Return whether one cubic in place of segments left and k misses their points by far, with its ends as they are.

    The refinement, which moves the ends too, would bring it nearer, but not by that much.
    """
    q, w, _, node, first, line, corner, _, angle, _, closed = spline
    n = len(q)
    after = around(k + 1, m)
    if (line[around(left - 1, m)] and not corner[left]) or (line[after] and not corner[after]):
        # A node between a line and a curve slides along the line as far as the curve asks.
        return False
    start, before = span(first[:m], left, n, closed)
    _, behind = span(first[:m], k, n, closed)
    points = before + behind
    sample = np.empty((2, _GLANCED_AT))
    count = NONE
    stride = max(1, points // _GLANCED_AT)
    for step in range(stride // 2, points, stride):
        j = around(start + step, n)
        if w[j] >= 0.5 and count < _GLANCED_AT:
            sample[0, count], sample[1, count] = q[j, 0], q[j, 1]
            count += 1
    if count < 4:
        return False
    directions = np.empty((2, 2))
    directions[0, 0], directions[0, 1] = math.cos(angle[left, 0]), math.sin(angle[left, 0])
    directions[1, 0], directions[1, 1] = -math.cos(angle[k, 1]), -math.sin(angle[k, 1])
    room, limit, sharp_l, sharp_r = room_for(count), _FAR_OFF * tolerance, corner[left], corner[after]
    ends = Ends(node[left], node[after], directions[0], directions[1], sharp_l, sharp_r)
    worst, _ = fit_cubic(sample, count, ends, _ROUNDS_OF_ONE, room, limit)
    return bool(worst > limit)


@uncounted
def _rotate(spline: SplineArrays, m: int) -> None:
    """Let a closed spline start one node later."""
    _, _, _, node, first, line, corner, pinned, angle, handle, _ = spline
    n = len(spline.points)
    x, y, start = node[0, 0], node[0, 1], first[0]
    flags = line[0], corner[0], pinned[0]
    ends = angle[0, 0], angle[0, 1], handle[0, 0], handle[0, 1]
    drop_node(spline, NONE, m)
    node[m - 1, 0], node[m - 1, 1] = x, y
    first[m - 1] = start + n
    line[m - 1], corner[m - 1], pinned[m - 1] = flags
    angle[m - 1, 0], angle[m - 1, 1], handle[m - 1, 0], handle[m - 1, 1] = ends
