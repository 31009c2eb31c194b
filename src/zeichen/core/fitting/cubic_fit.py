"""Least-squares fit of one cubic to a run of points, with free or fixed end directions.

Source: P. J. Schneider, "An algorithm for automatically fitting digitized curves", Graphics Gems
(1990), for the normal equations and the Newton step; free ends are added by treating each inner
control point as unknown in both coordinates.
"""

import math
from typing import NamedTuple

import numpy as np

from zeichen.core.compiled import FAST_SUMS, NONE, counted, uncounted
from zeichen.core.fitting.projection import plain_step_to_feet, power_form, square_distances
from zeichen.core.geometry.norm import norm
from zeichen.core.values import FloatArray

# A fit is good enough at this share of the tolerance, and given up where two rounds leave this many times as much.
_WELL_WITHIN = 0.35
_HOPELESS = 4.0


@uncounted(cache=True)
def line_error(q: FloatArray, count: int, p0: FloatArray, p3: FloatArray) -> float:
    """Return the largest distance of points, in rows of x and y, from a chord."""
    dx, dy = p3[0] - p0[0], p3[1] - p0[1]
    size = math.sqrt(dx * dx + dy * dy)
    worst = 0.0
    for k in range(count):
        ex, ey = q[0, k] - p0[0], q[1, k] - p0[1]
        worst = max(worst, abs(ex * dy - ey * dx) if size > 1e-9 else ex * ex + ey * ey)
    return worst / size if size > 1e-9 else math.sqrt(worst)


class Room(NamedTuple):
    """What a fit of one cubic works in, for so many points, and leaves its control points in.

    state: (2, points); trial, out: (4, 2).
    """

    state: FloatArray
    trial: FloatArray
    out: FloatArray


class Ends(NamedTuple):
    """Where a cubic begins and ends, and how: start, end: (2,) px.

    start_direction, end_direction: (2,), unit, into the curve from either end. is_start_free, is_end_free: whether
    that direction does not count.
    """

    start: FloatArray
    end: FloatArray
    start_direction: FloatArray
    end_direction: FloatArray
    is_start_free: bool
    is_end_free: bool


@counted(cache=True)
def room_for(count: int) -> Room:
    """Return room for fits to so many points or fewer."""
    return Room(np.empty((2, count)), np.empty((4, 2)), np.empty((4, 2)))


@uncounted(cache=True)
def fit_cubic(
    q: FloatArray, count: int, ends: Ends, rounds: int, room: Room, tolerance: float = 0.0
) -> tuple[float, float]:
    """Fit one cubic between two ends; returns (largest, RMS) distance of the points, the control points in room.out.

    q: rows of x and y, (2, at least count). With a tolerance the search ends when the fit is well within it, or will
    never be. Infinite errors mean that no usable cubic was found.
    """
    p0, p3, t0, t3, free0, free3 = ends
    state, trial, out = room
    chord = norm(p3[0] - p0[0], p3[1] - p0[1])
    u = state[0]
    run = 0.0
    px, py = p0[0], p0[1]
    for k in range(count):
        dx, dy = q[0, k] - px, q[1, k] - py
        run += math.sqrt(dx * dx + dy * dy)
        u[k] = run
        px, py = q[0, k], q[1, k]
    run += norm(p3[0] - px, p3[1] - py)
    if run < 1e-9:
        return np.inf, np.inf
    for k in range(count):
        u[k] /= run
    best, best_rms = np.inf, np.inf
    trial[0, 0], trial[0, 1], trial[3, 0], trial[3, 1] = p0[0], p0[1], p3[0], p3[1]
    for attempt in range(rounds):
        _place_inner(q, u, count, ends, trial)
        for end in range(2):
            free = free0 if end == 0 else free3
            ray = t0 if end == 0 else t3
            base = p0 if end == 0 else p3
            dx, dy = trial[1 + end, 0] - base[0], trial[1 + end, 1] - base[1]
            backwards = not free and dx * ray[0] + dy * ray[1] <= 0.02 * run
            if not backwards and dx * dx + dy * dy <= 1.44 * run * run:
                continue
            if free:
                other = p3 if end == 0 else p0
                trial[1 + end, 0] = base[0] + (other[0] - base[0]) / 3.0
                trial[1 + end, 1] = base[1] + (other[1] - base[1]) / 3.0
            else:
                trial[1 + end, 0] = base[0] + ray[0] * (run / 3.0)
                trial[1 + end, 1] = base[1] + ray[1] * (run / 3.0)
        curve = power_form(trial)
        plain_step_to_feet(curve, q, state, NONE, count)
        plain_step_to_feet(curve, q, state, NONE, count)
        square_distances(curve, q, state, NONE, count)
        worst = total = 0.0
        for k in range(count):
            total += state[1, k]
            worst = max(worst, state[1, k])
        worst = math.sqrt(worst)
        if worst < best:
            best, best_rms = worst, math.sqrt(total / max(count, 1))
            for r in range(4):
                out[r, 0] = trial[r, 0]
                out[r, 1] = trial[r, 1]
        elif attempt > 1:
            break
        if best < _WELL_WITHIN * tolerance or (attempt > 0 and best > _HOPELESS * tolerance > 0.0):
            break
    if chord < 1e-9 and count < 3:
        return np.inf, np.inf
    return best, best_rms


@uncounted(fastmath=FAST_SUMS)
def _place_inner(q: FloatArray, u: FloatArray, count: int, ends: Ends, p: FloatArray) -> None:
    """Put the inner control points where the points at their parameters want them, by least squares.

    Far off (where the fit goes on with a third of the chord) if the points do not say.
    """
    _, _, t0, t3, free0, free3 = ends
    s11 = s12 = s22 = x1 = y1 = x2 = y2 = 0.0
    ax, ay, dx, dy = p[0, 0], p[0, 1], p[3, 0] - p[0, 0], p[3, 1] - p[0, 1]
    for k in range(count):
        t = u[k]
        s = 1.0 - t
        b1, b2 = 3.0 * s * s * t, 3.0 * s * t * t
        w3 = b2 + t * t * t
        rx, ry = q[0, k] - ax - w3 * dx, q[1, k] - ay - w3 * dy
        s11 += b1 * b1
        s12 += b1 * b2
        s22 += b2 * b2
        x1 += b1 * rx
        y1 += b1 * ry
        x2 += b2 * rx
        y2 += b2 * ry
    s11 += 1e-9
    s22 += 1e-9
    lost = s11 * s22 - s12 * s12 < 1e-12
    e1x = e1y = e2x = e2y = np.inf
    if free0 and free3 and not lost:
        det = s11 * s22 - s12 * s12
        e1x, e1y = (x1 * s22 - x2 * s12) / det, (y1 * s22 - y2 * s12) / det
        e2x, e2y = (x2 * s11 - x1 * s12) / det, (y2 * s11 - y1 * s12) / det
    elif free0 and not lost:
        along = (t3[0] * (x2 - x1 * s12 / s11) + t3[1] * (y2 - y1 * s12 / s11)) / (s22 - s12 * s12 / s11)
        e2x, e2y = along * t3[0], along * t3[1]
        e1x, e1y = (x1 - s12 * e2x) / s11, (y1 - s12 * e2y) / s11
    elif free3 and not lost:
        along = (t0[0] * (x1 - x2 * s12 / s22) + t0[1] * (y1 - y2 * s12 / s22)) / (s11 - s12 * s12 / s22)
        e1x, e1y = along * t0[0], along * t0[1]
        e2x, e2y = (x2 - s12 * e1x) / s22, (y2 - s12 * e1y) / s22
    elif not free0:
        cross = s12 * (t0[0] * t3[0] + t0[1] * t3[1])
        det = s11 * s22 - cross * cross
        if det > 1e-12:
            b1, b2 = t0[0] * x1 + t0[1] * y1, t3[0] * x2 + t3[1] * y2
            first, last = (b1 * s22 - b2 * cross) / det, (b2 * s11 - b1 * cross) / det
            e1x, e1y = first * t0[0], first * t0[1]
            e2x, e2y = last * t3[0], last * t3[1]
    p[1, 0], p[1, 1] = p[0, 0] + e1x, p[0, 1] + e1y
    p[2, 0], p[2, 1] = p[3, 0] + e2x, p[3, 1] + e2y


@uncounted
def sample_run(points: FloatArray, first: int, last: int, out: FloatArray) -> int:
    """Copy an even sample of points first..last (indices that may pass the end of the loop) into the rows of out."""
    n = len(points)
    have = last - first + 1
    if have <= 0:
        return 0
    count: int = min(have, out.shape[1])
    pace = (have - 1) / max(count - 1, 1)
    for k in range(count):
        j = first + int(k * pace + 1e-6)
        while j >= n:
            j -= n
        out[0, k] = points[j, 0]
        out[1, k] = points[j, 1]
    return count
