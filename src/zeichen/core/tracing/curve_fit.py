"""From one closed contour to a closed run of few cubics: corners, then the best breaks between them.

Between two corners the breaks are chosen together by dynamic programming over evenly spaced
candidates: every candidate pair that one line or one cubic joins within the tolerance is an edge,
and the cheapest chain wins (about one unit a segment, less for a straight line, a little more the
worse it fits). Joints that are not corners share one tangent.
"""

import math
from dataclasses import dataclass

import numpy as np
from numba import njit

from zeichen.core.geometry.drawing import Path
from zeichen.core.tracing.cubic_fit import fit_cubic, line_error, sample_run
from zeichen.core.tracing.local import (
    central_estimate,
    corner_angles,
    cumulative_length,
    pick_corners,
    sharpen,
)
from zeichen.core.values import AnyArray, BoolArray, FloatArray, require_number

_MOST_CANDIDATES = 240
_TURN_DEG = 14.0
_STRETCH_PX = 40.0
_ROUGH_SAMPLES = 16
_FINE_SAMPLES = 40


@dataclass(frozen=True, slots=True)
class FitSettings:
    """How closely curves follow the boundary and what counts as a corner.

    tolerance_px: largest distance of a curve from the measured boundary.
    corner_deg: a turn sharper than this stays a corner.
    blur_px: how far the picture's own softness reaches from a corner.
    """

    tolerance_px: float = 0.25
    corner_deg: float = 32.0
    blur_px: float = 1.2

    def __post_init__(self) -> None:
        require_number(self.tolerance_px, "Tolerance", least=0.02, most=50, unit="px", advice="Try 0.25 px.")
        require_number(self.corner_deg, "Corner angle", least=10, most=170, unit="degrees")
        require_number(self.blur_px, "Blur", least=0.2, most=20, unit="px")


def fit_contour(points: FloatArray, settings: FitSettings) -> Path:
    """Return the closed Bézier path along a closed contour.

    Parameters
    ----------
    points : (n, 2) float array, px
        At least three points, the last not repeating the first.
    settings : FitSettings
    """
    points = np.ascontiguousarray(points, dtype=np.float64)
    length = cumulative_length(points)
    skip, reach = settings.blur_px, settings.blur_px * 4.5
    # On outlines hardly longer than the window, both sides would see the same points.
    reach = min(reach, max(2.2, length[-1] / 6))
    skip = min(skip, reach / 3)
    angles = corner_angles(points, length, skip, reach)
    corners = pick_corners(angles, length, settings.corner_deg, reach * 0.7)
    segments = _fit_loop(points, length, corners, skip, reach, settings.tolerance_px)
    return Path(segments)


@njit(cache=True, error_model="numpy")
def _fit_loop(
    points: FloatArray, length: FloatArray, corners: BoolArray, skip: float, reach: float, tolerance: float
) -> FloatArray:
    n = len(points)
    at = np.nonzero(corners)[0]
    smooth = len(at) == 0
    if smooth:
        at = np.array([np.argmin(points[:, 1])])
    vertices = np.empty((len(at), 2))
    scratch = np.zeros(4)
    for k in range(len(at)):
        if smooth:
            central_estimate(points, length, at[k], reach, scratch)
            vertices[k] = scratch[:2]
        else:
            vertices[k] = sharpen(points, length, at[k], skip, reach, 2.0 * skip + 0.5)
    out = np.empty((n + 8, 4, 2))
    count = 0
    for k in range(len(at)):
        first = at[k]
        last = at[(k + 1) % len(at)]
        if last <= first:
            last += n
        count = _fit_section(
            points,
            length,
            first,
            last,
            vertices[k],
            vertices[(k + 1) % len(at)],
            smooth,
            skip,
            reach,
            tolerance,
            out,
            count,
        )
    return out[:count].copy()


@njit(cache=True, error_model="numpy")
def _candidates(
    points: FloatArray, length: FloatArray, first: int, last: int, run: float, closest: float, least: int
) -> tuple[AnyArray, int]:
    """Return where breaks may lie: evenly by turning angle, with some length thrown in.

    Breaks closer than a few pixels describe noise; more than a few hundred cost time for nothing.
    """
    n = len(points)
    pace = 3
    load = np.zeros(last - first + 1)
    for k in range(1, last - first + 1):
        i = (first + k) % n
        ax, ay = points[i, 0] - points[(i - pace) % n, 0], points[i, 1] - points[(i - pace) % n, 1]
        bx, by = points[(i + pace) % n, 0] - points[i, 0], points[(i + pace) % n, 1] - points[i, 1]
        turn = abs(math.atan2(ax * by - ay * bx, ax * bx + ay * by)) / pace
        load[k] = (
            load[k - 1]
            + math.degrees(turn) / _TURN_DEG
            + _gap(length, first + k - 1, first + k, n) / _STRETCH_PX
        )
    pieces = max(least, min(_MOST_CANDIDATES, int(load[-1]) + 1, int(run / closest)))
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
            and (_gap(length, nodes[used], first + k, n) >= closest or pieces == least)
        ):
            used += 1
            nodes[used] = first + k
    used += 1
    nodes[used] = last
    return nodes, used


@njit(cache=True, error_model="numpy")
def _fit_section(
    points: FloatArray,
    length: FloatArray,
    first: int,
    last: int,
    start: FloatArray,
    end: FloatArray,
    smooth: bool,
    skip: float,
    reach: float,
    tolerance: float,
    out: FloatArray,
    filled: int,
) -> int:
    n = len(points)
    total = length[n]
    run = length[last % n] + (total if last >= n else 0.0) - length[first]
    if last - first == n:
        run = total
    nodes, pieces = _candidates(points, length, first, last, run, max(2.5, reach * 0.6), 4 if smooth else 1)
    place = np.empty((pieces + 1, 2))
    tangent = np.empty((pieces + 1, 2))
    scratch = np.zeros(4)
    for k in range(pieces + 1):
        i = nodes[k] % n
        from_start = length[i] + (total if nodes[k] >= n else 0.0) - length[first]
        room = run if smooth else min(from_start, run - from_start)
        best = reach * 0.6
        central_estimate(points, length, i, best, scratch)
        for wide in (1.0, 1.7, 2.8):
            window = reach * wide
            if window > room - skip * 0.5 or window > run / 3:
                break
            trial = np.zeros(4)
            if central_estimate(points, length, i, window, trial) > 0.35 * tolerance:
                break
            for axis in range(4):
                scratch[axis] = trial[axis]
        for axis in range(2):
            place[k, axis] = scratch[axis]
            tangent[k, axis] = scratch[2 + axis]
    for axis in range(2):
        place[0, axis] = start[axis]
        place[pieces, axis] = end[axis]
        if smooth:
            tangent[pieces, axis] = tangent[0, axis]
    filled_now: int = _best_chain(
        points, length, nodes, place, tangent, pieces, smooth, skip, tolerance, out, filled
    )
    return filled_now


@njit(cache=True, error_model="numpy")
def _fit_between(
    points: FloatArray,
    length: FloatArray,
    nodes: FloatArray,
    place: FloatArray,
    tangent: FloatArray,
    i: int,
    j: int,
    pieces: int,
    smooth: bool,
    skip: float,
    tolerance: float,
    q: FloatArray,
    rounds: int,
    out: FloatArray,
) -> tuple[float, bool]:
    """Fit candidate i to candidate j; returns (cost, is a line), the control points in out."""
    n = len(points)
    first, last = nodes[i] + 1, nodes[j] - 1
    free0 = (not smooth) and i == 0
    free3 = (not smooth) and j == pieces
    # Near a corner the boundary is rounded by blur: those points say nothing about the curve.
    if free0:
        while first < last and _gap(length, nodes[i], first, n) < skip:
            first += 1
    if free3:
        while last > first and _gap(length, last, nodes[j], n) < skip:
            last -= 1
    count = sample_run(points, first, last, q)
    p0, p3 = place[i], place[j]
    off_line = line_error(q, count, p0, p3)
    chord = math.hypot(p3[0] - p0[0], p3[1] - p0[1])
    straight_run = _gap(length, nodes[i], nodes[j], n)
    along = chord > 0.97 * straight_run - 2 * skip
    if along and chord > 1e-9 and (off_line < 0.55 * tolerance or count == 0):
        # A line between two smooth joints must also agree with their tangents.
        turn = 1.0
        if not free0:
            turn = min(turn, (tangent[i, 0] * (p3[0] - p0[0]) + tangent[i, 1] * (p3[1] - p0[1])) / chord)
        if not free3:
            turn = min(turn, (tangent[j, 0] * (p3[0] - p0[0]) + tangent[j, 1] * (p3[1] - p0[1])) / chord)
        if turn > 0.998:
            _put_line(out, p0, p3)
            return 0.75 + 0.3 * (off_line / tolerance) ** 2, True
    worst, rms = fit_cubic(q, count, p0, p3, tangent[i], -tangent[j], free0, free3, rounds, out)
    if count == 0:
        worst, rms = 0.0, 0.0
        _put_line(out, p0, p3)
    ratio = worst / tolerance
    if ratio > 1.0:
        return 1.0 + 4.0 * ratio * ratio, False
    return 1.0 + 0.45 * (rms / tolerance) ** 2 + 0.15 * ratio * ratio, False


@njit(cache=True, error_model="numpy")
def _put_line(out: FloatArray, p0: FloatArray, p3: FloatArray) -> None:
    for axis in range(2):
        step = (p3[axis] - p0[axis]) / 3.0
        out[0, axis] = p0[axis]
        out[1, axis] = p0[axis] + step
        out[2, axis] = p3[axis] - step
        out[3, axis] = p3[axis]


@njit(cache=True, error_model="numpy")
def _gap(length: FloatArray, i: int, j: int, n: int) -> float:
    turns = j // n - i // n
    return float(length[j % n] - length[i % n] + turns * length[n])


@njit(cache=True, error_model="numpy")
def _best_chain(
    points: FloatArray,
    length: FloatArray,
    nodes: FloatArray,
    place: FloatArray,
    tangent: FloatArray,
    pieces: int,
    smooth: bool,
    skip: float,
    tolerance: float,
    out: FloatArray,
    filled: int,
) -> int:
    cost = np.full(pieces + 1, np.inf)
    came = np.zeros(pieces + 1, np.int64)
    cost[0] = 0.0
    # A look with few samples first; only what would be an improvement is fitted with all of them.
    rough, q = np.empty((_ROUGH_SAMPLES, 2)), np.empty((_FINE_SAMPLES, 2))
    trial = np.empty((4, 2))
    for i in range(pieces):
        if not np.isfinite(cost[i]):
            continue
        misses = 0
        for j in range(i + 1, pieces + 1):
            if smooth and i == 0 and j == pieces:
                break
            price, _ = _fit_between(
                points, length, nodes, place, tangent, i, j, pieces, smooth, skip, tolerance, rough, 4, trial
            )
            # Only neighbours may be joined by a bad fit, so that there always is a way through.
            if price > 5.0 and j > i + 1:
                misses += 1
                if misses >= 3:
                    break
                continue
            misses = 0
            if cost[i] + price >= cost[j]:
                continue
            price, _ = _fit_between(
                points, length, nodes, place, tangent, i, j, pieces, smooth, skip, tolerance, q, 4, trial
            )
            if cost[i] + price < cost[j] and (price <= 5.0 or j == i + 1):
                cost[j] = cost[i] + price
                came[j] = i
    chain = np.empty(pieces + 1, np.int64)
    size = 0
    k = pieces
    while k > 0:
        chain[size] = k
        size += 1
        k = came[k]
    chain[size] = 0
    # A joint between a line and a curve takes the line's own direction.
    for pos in range(size, 0, -1):
        i, j = chain[pos], chain[pos - 1]
        _, is_line = _fit_between(
            points, length, nodes, place, tangent, i, j, pieces, smooth, skip, tolerance, q, 4, trial
        )
        if is_line:
            ux, uy = place[j, 0] - place[i, 0], place[j, 1] - place[i, 1]
            size_px = max(1e-12, math.hypot(ux, uy))
            for axis in range(2):
                unit = (ux if axis == 0 else uy) / size_px
                if smooth or i > 0:
                    tangent[i, axis] = unit
                if smooth or j < pieces:
                    tangent[j, axis] = unit
                if smooth and (i == 0 or j == pieces):
                    tangent[0, axis] = unit
                    tangent[pieces, axis] = unit
    for pos in range(size, 0, -1):
        i, j = chain[pos], chain[pos - 1]
        _fit_between(
            points, length, nodes, place, tangent, i, j, pieces, smooth, skip, tolerance, q, 12, trial
        )
        for row in range(4):
            out[filled, row, 0] = trial[row, 0]
            out[filled, row, 1] = trial[row, 1]
        filled += 1
    return filled
