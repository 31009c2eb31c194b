"""The best breaks between two corners: few segments, each within the tolerance, chosen together.

Candidates are spaced evenly and lie where straight runs end; every pair that one line or one cubic joins
within the tolerance is an edge, and dynamic programming finds the cheapest spline (about one unit a segment,
less for a straight line, a little more the worse it fits).
"""

import math
from typing import NamedTuple

import numpy as np

from zeichen.core.compiled import common, counted, uncounted
from zeichen.core.fitting.cubic_fit import Ends, Room, fit_cubic, line_error, room_for, sample_run
from zeichen.core.fitting.fit_settings import Spans
from zeichen.core.fitting.local_polynomial import Polyline, gap_between, widened_estimate
from zeichen.core.fitting.spline_arrays import SplineArrays
from zeichen.core.fitting.spline_geometry import draw_line
from zeichen.core.fitting.straight_runs import relevant_points, with_straight_ends
from zeichen.core.geometry.loops import around
from zeichen.core.geometry.norm import norm
from zeichen.core.values import AnyArray, FloatArray

# A candidate for every so much of a turn and of length; more than so many cost time, and fewer leave out breaks that
# are wanted (our own rules).
_MOST_CANDIDATES = 240
_TURN_DEG = 18.0
_STRETCH_PX = 40.0
# Points looked at and rounds of a fit, while breaks are chosen and once they are (measured: more change nothing).
_ROUGH_SAMPLES, _ROUGH_ROUNDS = 12, common(3)
_FINE_SAMPLES, _FINE_ROUNDS = 28, common(12)
# What a line and a curve cost at least: a line less than a curve, and nothing less than a line.
_LINE_PRICE, _CURVE_PRICE = 0.75, 1.0
# After so many candidates that no curve leads to there are none further on.
_MOST_MISSES = 3


class Between(NamedTuple):
    """A section of a polyline: from one point to another, which may lie past the end of a loop, and where it ends.

    start, end: (2,) px. smooth: it is a whole loop without corners.
    """

    first: int
    last: int
    start: FloatArray
    end: FloatArray
    smooth: bool


class Section(NamedTuple):
    """What lies between two corners, and where it may be broken.

    polyline, weight: all of it, and its points' say. nodes, place, tangent, back: the candidates for breaks,
    by point; where they are, the directions onwards and back.
    pieces: how many candidates there are, less one. smooth: the section is a whole loop without corners.
    """

    polyline: Polyline
    weight: FloatArray
    nodes: AnyArray
    place: FloatArray
    tangent: FloatArray
    back: FloatArray
    pieces: int
    smooth: bool
    skip: float
    tolerance: float


@counted
def _candidates(
    polyline: Polyline, weight: FloatArray, between: Between, run: float, closest: float
) -> tuple[AnyArray, int]:
    """Return where breaks may lie: evenly by turning angle, with some length thrown in.

    Breaks closer than a few pixels describe noise; more than a few hundred cost time for nothing.
    """
    points, length, _ = polyline
    first, last, _, _, smooth = between
    least = 4 if smooth else 1
    n = len(points)
    pace = 3
    load = np.zeros(last - first + 1)
    for k in range(1, last - first + 1):
        i = around(first + k, n)
        ax, ay = points[i, 0] - points[around(i - pace, n), 0], points[i, 1] - points[around(i - pace, n), 1]
        bx, by = points[around(i + pace, n), 0] - points[i, 0], points[around(i + pace, n), 1] - points[i, 1]
        load[k] = (
            load[k - 1]
            + _about_deg(abs(ax * by - ay * bx), ax * bx + ay * by) / (pace * _TURN_DEG)
            + gap_between(length, first + k - 1, first + k, n) / _STRETCH_PX
        )
    pieces = max(least, min(_MOST_CANDIDATES, int(load[-1]) + 1, int(run / closest)))
    # A piece of nothing but a corner's blur would hang in the air.
    first_relevant, last_relevant = relevant_points(weight, first, last)
    nodes = np.empty(pieces + 1, np.int64)
    nodes[0] = first
    used = 0
    k = 0
    for piece in range(1, pieces):
        while k < last - first and load[k] < load[-1] * piece / pieces:
            k += 1
        if (
            first + k > nodes[used]
            and first + k < last
            and (least > 1 or first + k > first_relevant)
            and (least > 1 or first + k < last_relevant)
            and (least > 1 or gap_between(length, first_relevant, first + k, n) >= closest)
            and (least > 1 or gap_between(length, first + k, last_relevant, n) >= closest)
            and (gap_between(length, nodes[used], first + k, n) >= closest or pieces == least)
        ):
            used += 1
            nodes[used] = first + k
    used += 1
    nodes[used] = last
    return nodes, used


@uncounted
def _about_deg(cross: float, dot: float) -> float:
    """Return an angle by what is across and along, in degrees, to 0.3 for less than 45: more than breaks need."""
    if cross < dot:
        slant = cross / dot
        return math.degrees(slant / (1.0 + 0.28 * slant * slant))
    return math.degrees(math.atan2(cross, dot))


@counted(cache=True)
def fit_section(
    polyline: Polyline, weight: FloatArray, between: Between, spans: Spans, spline: SplineArrays, filled: int
) -> int:
    """Fit a section of a polyline, and write the curves after the first `filled` nodes of a spline.

    weight: (n,), of its points. Returns how many nodes are filled then.
    """
    points, length, _ = polyline
    first, last, start, end, smooth = between
    skip, reach, tolerance = spans.skip, spans.reach, spans.tolerance
    n = len(points)
    total = length[n]
    run = length[around(last, n)] + (total if last >= n else 0.0) - length[first]
    if last - first == n:
        run = total
    closest = max(2.5, reach * 0.6)
    nodes, pieces = _candidates(polyline, weight, between, run, closest)
    nodes, pieces, lines = with_straight_ends(polyline, weight, nodes, pieces, closest, spans.straight)
    place = np.empty((pieces + 1, 2))
    # Directions into the curve after each candidate and, the other way, into the one before it.
    directions = np.empty((2, pieces + 1, 2))
    tangent, back = directions[0], directions[1]
    both = np.zeros((2, 4))
    scratch, trial = both[0], both[1]
    steps, sums = np.zeros(2, np.int64), np.zeros(11)
    for k in range(pieces + 1):
        i = around(nodes[k], n)
        from_start = length[i] + (total if nodes[k] >= n else 0.0) - length[first]
        room = run if smooth else min(from_start, run - from_start)
        steps[:] = 0
        sums[:] = 0.0
        widened_estimate(polyline, i, reach * 0.6, steps, sums, scratch)
        for wide in (1.0, 1.7, 2.8):
            window = reach * wide
            if window > room - skip * 0.5 or window > run / 3:
                break
            if widened_estimate(polyline, i, window, steps, sums, trial) > 0.35 * tolerance:
                break
            for axis in range(4):
                scratch[axis] = trial[axis]
        if lines[k, 0] == lines[k, 0]:
            # A run's end lies on its line and goes its way.
            along = (scratch[0] - lines[k, 0]) * lines[k, 2] + (scratch[1] - lines[k, 1]) * lines[k, 3]
            scratch[0], scratch[1] = lines[k, 0] + along * lines[k, 2], lines[k, 1] + along * lines[k, 3]
            scratch[2], scratch[3] = lines[k, 2], lines[k, 3]
        for axis in range(2):
            place[k, axis] = scratch[axis]
            tangent[k, axis] = scratch[2 + axis]
            back[k, axis] = -scratch[2 + axis]
        if _is_angle(lines[k]):
            place[k, 0], place[k, 1] = lines[k, 0], lines[k, 1]
            tangent[k, 0], tangent[k, 1] = lines[k, 4], lines[k, 5]
    for axis in range(2):
        place[0, axis] = start[axis]
        place[pieces, axis] = end[axis]
        if smooth:
            tangent[pieces, axis] = tangent[0, axis]
            back[pieces, axis] = -tangent[0, axis]
    section = Section(polyline, weight, nodes, place, tangent, back, pieces, smooth, skip, tolerance)
    filled_now: int = _best_chain(section, spline, filled)
    # Angles of lines are corners, however slight.
    for at in range(filled + 1, filled_now):
        spline.corner[at] = False
        for k in range(1, pieces):
            if nodes[k] == spline.first[at]:
                spline.corner[at] = _is_angle(lines[k])
    return filled_now


@uncounted
def _is_angle(line: FloatArray) -> bool:
    """Return whether a candidate is where two lines meet, rather than where one ends (or none, then it is nan)."""
    return bool(line[0] == line[0] and (line[2] != line[4] or line[3] != line[5]))


@uncounted
def _fit_between(
    section: Section, i: int, j: int, q: FloatArray, rounds: int, room: Room, most: float
) -> tuple[float, bool]:
    """Fit candidate i to candidate j; returns (cost, is a line), the control points in room.out.

    A cubic that could not cost less than `most` is not fitted: its cost is infinite.
    """
    polyline, weight, nodes, place, tangent, back, pieces, smooth, skip, tolerance = section
    points, length, _ = polyline
    n = len(points)
    first, last = nodes[i] + 1, nodes[j] - 1
    free0 = (not smooth) and i == 0
    free3 = (not smooth) and j == pieces
    # Near a corner the boundary is rounded by blur: those points say nothing about the curve.
    while first <= last and weight[around(first, n)] < 0.5:
        first += 1
    while last >= first and weight[around(last, n)] < 0.5:
        last -= 1
    count = sample_run(points, first, last, q)
    p0, p3 = place[i], place[j]
    off_line = line_error(q, count, p0, p3)
    chord = norm(p3[0] - p0[0], p3[1] - p0[1])
    straight_run = gap_between(length, nodes[i], nodes[j], n)
    along = chord > 0.97 * straight_run - 2 * skip
    if along and chord > 1e-9 and (off_line < 0.55 * tolerance or count == 0):
        # A line between two smooth joints must also agree with their tangents.
        turn = 1.0
        if not free0:
            turn = min(turn, (tangent[i, 0] * (p3[0] - p0[0]) + tangent[i, 1] * (p3[1] - p0[1])) / chord)
        if not free3:
            turn = min(turn, -(back[j, 0] * (p3[0] - p0[0]) + back[j, 1] * (p3[1] - p0[1])) / chord)
        if turn > 0.998:
            draw_line(room.out, p0, p3)
            return _LINE_PRICE + 0.3 * (off_line / tolerance) ** 2, True
    if most <= _CURVE_PRICE:
        return np.inf, False
    worst, rms = fit_cubic(q, count, Ends(p0, p3, tangent[i], back[j], free0, free3), rounds, room, tolerance)
    if count == 0:
        worst, rms = 0.0, 0.0
        draw_line(room.out, p0, p3)
    ratio = worst / tolerance
    if ratio > 1.0:
        return _CURVE_PRICE + 4.0 * ratio * ratio, False
    return _CURVE_PRICE + 0.45 * (rms / tolerance) ** 2 + 0.15 * ratio * ratio, False


@counted
def _best_chain(section: Section, spline: SplineArrays, filled: int) -> int:
    """Write a section's cheapest spline after the first `filled` nodes of a spline; returns how many there are then."""
    _, _, _, node, first_point, line, _, _, angle, handle, _ = spline
    nodes, place, pieces = section.nodes, section.place, section.pieces
    cost = np.full(pieces + 1, np.inf)
    came, picked = np.zeros((2, pieces + 1), np.int64)
    # A choice is made with few samples; what was chosen is fitted with more of them.
    rough, q = np.empty((2, _ROUGH_SAMPLES)), np.empty((2, _FINE_SAMPLES))
    room = room_for(_FINE_SAMPLES)
    _choose(section, cost, came, rough, room)
    size = 0
    k = pieces
    while k > 0:
        picked[size] = k
        size += 1
        k = came[k]
    picked[size] = 0
    for pos in range(size, 0, -1):
        i, j = picked[pos], picked[pos - 1]
        _, is_line = _fit_between(section, i, j, q, _FINE_ROUNDS, room, np.inf)
        trial = room.out
        node[filled, 0], node[filled, 1] = place[i, 0], place[i, 1]
        first_point[filled] = nodes[i]
        line[filled] = is_line
        angle[filled, 0] = math.atan2(trial[1, 1] - trial[0, 1], trial[1, 0] - trial[0, 0])
        angle[filled, 1] = math.atan2(trial[3, 1] - trial[2, 1], trial[3, 0] - trial[2, 0])
        handle[filled, 0] = norm(trial[1, 0] - trial[0, 0], trial[1, 1] - trial[0, 1])
        handle[filled, 1] = norm(trial[3, 0] - trial[2, 0], trial[3, 1] - trial[2, 1])
        filled += 1
    return filled


@uncounted
def _choose(section: Section, cost: FloatArray, came: AnyArray, q: FloatArray, room: Room) -> None:
    """Find for each candidate the one before it on the cheapest way there, by dynamic programming."""
    pieces, smooth = section.pieces, section.smooth
    cost[0] = 0.0
    for i in range(pieces):
        if not np.isfinite(cost[i]):
            continue
        misses = 0
        for j in range(i + 1, pieces + 1):
            if smooth and i == 0 and j == pieces:
                break
            # Not even a perfect line would be an improvement.
            if cost[i] + _LINE_PRICE >= cost[j]:
                continue
            price, _ = _fit_between(section, i, j, q, _ROUGH_ROUNDS, room, cost[j] - cost[i])
            if price == np.inf:
                continue
            # Only neighbours may be joined by a bad fit, so that there always is a way through.
            if price > 5.0 and j > i + 1:
                misses += 1
                if misses >= _MOST_MISSES:
                    break
                continue
            misses = 0
            if cost[i] + price < cost[j] and (price <= 5.0 or j == i + 1):
                cost[j] = cost[i] + price
                came[j] = i
