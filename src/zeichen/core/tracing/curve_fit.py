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
from zeichen.core.tracing.chain import Chain
from zeichen.core.tracing.cubic_fit import fit_cubic, line_error, sample_run
from zeichen.core.tracing.local import (
    central_estimate,
    corner_angles,
    cumulative_length,
    pick_corners,
    sharpen,
)
from zeichen.core.tracing.true_shapes import make_circle, make_ellipse, make_fillets, round_arcs
from zeichen.core.values import AnyArray, BoolArray, FloatArray, require_number

_MOST_CANDIDATES = 240
_TURN_DEG = 14.0
_STRETCH_PX = 40.0
_ROUGH_SAMPLES = 16
_FINE_SAMPLES = 40
_WHISPER = 0.02
# Of the tolerance, how much a curve may move to become a true arc.
_ARC_SHARE = 0.25


@dataclass(frozen=True, slots=True)
class FitSettings:
    """How closely curves follow the boundary and what counts as a corner.

    tolerance_px: largest distance of a curve from the measured boundary.
    corner_deg: a turn sharper than this stays a corner.
    pixel_px: side of the pixels the picture truly has.
    blur_px: how soft it is, standard deviation beside those pixels' squares.
    noise_px: typical error of a single point.
    stroke_px: for the middle of a drawn line, how wide it is: its corners are felt that much further off.
    """

    tolerance_px: float = 0.2
    corner_deg: float = 20.0
    pixel_px: float = 1.0
    blur_px: float = 0.0
    noise_px: float = 0.0
    stroke_px: float = 0.0

    def __post_init__(self) -> None:
        require_number(self.tolerance_px, "Tolerance", least=0.02, most=50, unit="px", advice="Try 0.1 px.")
        require_number(self.corner_deg, "Corner angle", least=10, most=170, unit="degrees")
        require_number(self.pixel_px, "Pixel size", least=0.5, most=40, unit="px")
        require_number(self.blur_px, "Blur", least=0, most=20, unit="px")
        require_number(self.noise_px, "Noise", least=0, most=20, unit="px")

    @property
    def skip_px(self) -> float:
        """Up to where a corner's blur moves the boundary."""
        return 1.2 * self.pixel_px + 1.2 * self.blur_px + 0.42 * self.stroke_px

    @property
    def quiet_px(self) -> float:
        """Up to where a point's surroundings, and so its place, feel a right-angled corner."""
        return 2.2 * self.pixel_px + 1.5 * self.blur_px + 0.5 * self.stroke_px

    @property
    def reach_px(self) -> float:
        """How far to look on either side of a corner."""
        return (
            5.4 * self.pixel_px + 4.0 * self.blur_px + 20.0 * min(self.noise_px, 0.12) + 0.9 * self.stroke_px
        )

    def tip_share(self, turn_deg: float, skip: float, reach: float) -> float:
        """Return how many times as far a corner's blur moves the boundary as at a right angle.

        The sides of a tip see each other for as long as they are near each other.
        """
        inner = math.radians(max(180.0 - turn_deg, 20.0))
        return min(max(1.0, 1.0 / (math.sqrt(2.0) * math.sin(inner / 2))), max(1.0, 0.6 * reach / skip))

    @property
    def allowed_px(self) -> float:
        """The tolerance, or what the noise alone makes of a perfect fit if that is more."""
        return max(self.tolerance_px, 4.0 * self.noise_px)


def fit_contour(points: FloatArray, settings: FitSettings) -> Path:
    """Return the closed Bézier path along a closed contour; see fit_chain."""
    return Path(fit_chain(points, settings).curves())


def fit_chain(points: FloatArray, settings: FitSettings) -> Chain:
    """Return a closed chain of lines and cubics along a closed contour.

    Parameters
    ----------
    points : (n, 2) float array, px
        At least three points, the last not repeating the first.
    settings : FitSettings
    """
    points = np.ascontiguousarray(points, dtype=np.float64)
    tolerance = settings.allowed_px
    n = len(points)
    length = cumulative_length(points)
    # On outlines hardly longer than the window, both sides would see the same points.
    reach = min(settings.reach_px, max(2.2, length[-1] / 6))
    skip = min(settings.skip_px, reach / 3)
    angles = corner_angles(points, length, skip, reach, max(0.08, 1.5 * settings.noise_px), True)
    at = np.nonzero(pick_corners(angles, length, settings.corner_deg, reach * 0.7, True))[0]
    smooth = len(at) == 0
    chain = Chain(points, np.ones(n), closed=True, room=n + 8)
    if smooth:
        at = np.array([np.argmin(points[:, 1])])
    vertices = np.empty((len(at), 2))
    scratch = np.zeros(4)
    for k, i in enumerate(at.tolist()):
        if smooth:
            central_estimate(points, length, i, reach, True, scratch)
            vertices[k] = scratch[:2]
        else:
            wide = skip * settings.tip_share(angles[i], skip, reach)
            vertices[k] = sharpen(points, length, i, wide, reach + wide - skip, 2.0 * wide + 0.5, True)
    if not smooth:
        for begin, end in zip(at, [*at[1:], at[0] + n], strict=True):
            hush(points, length, begin, end, settings.quiet_px, angles[begin], angles[end % n], chain.weight)
    arrays = (chain.node, chain.first, chain.line, chain.angle, chain.handle)
    for k in range(len(at)):
        first, last = int(at[k]), int(at[(k + 1) % len(at)])
        if last <= first:
            last += n
        chain.corner[chain.count] = not smooth
        chain.count = fit_section(
            points,
            chain.weight,
            length,
            first,
            last,
            vertices[k],
            vertices[(k + 1) % len(at)],
            smooth,
            skip,
            reach,
            tolerance,
            True,
            *arrays,
            chain.count,
        )
    chain.polish(tolerance)
    make_fillets(chain, 0.5 * tolerance)
    round_arcs(chain, _ARC_SHARE * tolerance)
    if smooth:
        within = max(0.05, 3.0 * settings.noise_px, 0.25 * tolerance)
        _ = make_circle(chain, within) or make_ellipse(chain, within)
    return chain


def fit_open(
    points: FloatArray,
    settings: FitSettings,
    *,
    pinned: tuple[bool, bool] = (True, True),
    hushed: bool = True,
) -> Chain:
    """Return an open chain along an open polyline, from its first to its last point.

    Parameters
    ----------
    points : (n, 2) float array, px
        The ends are where the chain starts and ends.
    settings : FitSettings
    pinned : (bool, bool)
        Whether the chain must keep its start and its end.
    hushed : bool
        Points near the ends are moved by what meets there and have little say.
    """
    points = np.ascontiguousarray(points, dtype=np.float64)
    tolerance = settings.allowed_px
    n = len(points)
    length = cumulative_length(points)
    length[n] = length[n - 1]
    chain = Chain(points, np.ones(n), closed=False, room=n + 8)
    reach = min(settings.reach_px, max(2.2, length[-1] / 4))
    skip = min(settings.skip_px, reach / 3)
    angles = corner_angles(points, length, skip, reach, max(0.08, 1.5 * settings.noise_px), False)
    inside = (length[:n] > reach * 0.7) & (length[:n] < length[-1] - reach * 0.7)
    angles[~inside] = 0.0
    at = np.nonzero(pick_corners(angles, length, settings.corner_deg, reach * 0.7, False))[0]
    at = np.concatenate([[0], at, [n - 1]])
    # The ends are as sharp as right angles: other edges meet there.
    angles[0] = angles[-1] = 90.0 if hushed else 180.0
    vertices = points[at].copy()
    for k, i in enumerate(at[1:-1].tolist(), 1):
        wide = skip * settings.tip_share(angles[i], skip, reach)
        vertices[k] = sharpen(points, length, i, wide, reach + wide - skip, 2.0 * wide + 0.5, False)
    for k in range(len(at) - 1):
        ends = (hushed or k > 0, hushed or k < len(at) - 2)
        if any(ends):
            hush(
                points,
                length,
                at[k],
                at[k + 1],
                settings.quiet_px,
                angles[at[k]],
                angles[at[k + 1]],
                chain.weight,
            )
    arrays = (chain.node, chain.first, chain.line, chain.angle, chain.handle)
    for k in range(len(at) - 1):
        chain.corner[chain.count] = True
        chain.count = fit_section(
            points,
            chain.weight,
            length,
            int(at[k]),
            int(at[k + 1]),
            vertices[k],
            vertices[k + 1],
            False,
            skip,
            reach,
            tolerance,
            False,
            *arrays,
            chain.count,
        )
    m = chain.count
    chain.node[m] = vertices[-1]
    chain.first[m] = n
    chain.corner[m] = True
    chain.pinned[0], chain.pinned[m] = pinned
    chain.count = m + 1
    chain.polish(tolerance)
    make_fillets(chain, 0.5 * tolerance)
    round_arcs(chain, _ARC_SHARE * tolerance)
    return chain


@njit(cache=True, error_model="numpy")
def hush(
    points: FloatArray,
    length: FloatArray,
    first: int,
    last: int,
    quiet: float,
    turn_first_deg: float,
    turn_last_deg: float,
    weight: FloatArray,
) -> None:
    """Take most of their say from the points of a run between two corners which the corners' blur has moved.

    What is left keeps a curve from leaving them altogether on its way to the corner. At a sharp tip
    both edges see each other for longer. A short run keeps its middle.
    """
    n = len(points)
    run = _gap(length, first, last, n) if last - first < n else length[n]
    for end in range(2):
        turn = turn_first_deg if end == 0 else turn_last_deg
        inner = math.radians(180.0 - min(turn, 165.0))
        near = min(quiet / max(math.sin(min(inner, math.pi / 2)), 0.3), 0.3 * run)
        for k in range(last - first + 1):
            i = first + k if end == 0 else last - k
            away = _gap(length, first, i, n) if end == 0 else _gap(length, i, last, n)
            if k and away > near:
                break
            weight[i % n] = min(weight[i % n], 0.0 if away < 0.4 * near else _WHISPER)


@njit(cache=True, error_model="numpy")
def _candidates(
    points: FloatArray,
    weight: FloatArray,
    length: FloatArray,
    first: int,
    last: int,
    run: float,
    closest: float,
    least: int,
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
    # A piece of nothing but a corner's blur would hang in the air.
    heard_first, heard_last = first, last
    while heard_first < last and weight[heard_first % n] < 0.5:
        heard_first += 1
    while heard_last > first and weight[heard_last % n] < 0.5:
        heard_last -= 1
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
            and (least > 1 or first + k > heard_first)
            and (least > 1 or first + k < heard_last)
            and (least > 1 or _gap(length, heard_first, first + k, n) >= closest)
            and (least > 1 or _gap(length, first + k, heard_last, n) >= closest)
            and (_gap(length, nodes[used], first + k, n) >= closest or pieces == least)
        ):
            used += 1
            nodes[used] = first + k
    used += 1
    nodes[used] = last
    return nodes, used


@njit(cache=True, error_model="numpy")
def fit_section(
    points: FloatArray,
    weight: FloatArray,
    length: FloatArray,
    first: int,
    last: int,
    start: FloatArray,
    end: FloatArray,
    smooth: bool,
    skip: float,
    reach: float,
    tolerance: float,
    closed: bool,
    node: FloatArray,
    first_point: AnyArray,
    line: BoolArray,
    angle: FloatArray,
    handle: FloatArray,
    filled: int,
) -> int:
    n = len(points)
    total = length[n]
    run = length[last % n] + (total if last >= n else 0.0) - length[first]
    if last - first == n:
        run = total
    nodes, pieces = _candidates(
        points, weight, length, first, last, run, max(2.5, reach * 0.6), 4 if smooth else 1
    )
    place = np.empty((pieces + 1, 2))
    tangent = np.empty((pieces + 1, 2))
    scratch = np.zeros(4)
    for k in range(pieces + 1):
        i = nodes[k] % n
        from_start = length[i] + (total if nodes[k] >= n else 0.0) - length[first]
        room = run if smooth else min(from_start, run - from_start)
        best = reach * 0.6
        central_estimate(points, length, i, best, closed, scratch)
        for wide in (1.0, 1.7, 2.8):
            window = reach * wide
            if window > room - skip * 0.5 or window > run / 3:
                break
            trial = np.zeros(4)
            if central_estimate(points, length, i, window, closed, trial) > 0.35 * tolerance:
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
        points,
        weight,
        length,
        nodes,
        place,
        tangent,
        pieces,
        smooth,
        skip,
        tolerance,
        node,
        first_point,
        line,
        angle,
        handle,
        filled,
    )
    return filled_now


@njit(cache=True, error_model="numpy")
def _fit_between(
    points: FloatArray,
    weight: FloatArray,
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
    while first <= last and weight[first % n] < 0.5:
        first += 1
    while last >= first and weight[last % n] < 0.5:
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
    weight: FloatArray,
    length: FloatArray,
    nodes: FloatArray,
    place: FloatArray,
    tangent: FloatArray,
    pieces: int,
    smooth: bool,
    skip: float,
    tolerance: float,
    node: FloatArray,
    first_point: AnyArray,
    line: BoolArray,
    angle: FloatArray,
    handle: FloatArray,
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
                points,
                weight,
                length,
                nodes,
                place,
                tangent,
                i,
                j,
                pieces,
                smooth,
                skip,
                tolerance,
                rough,
                4,
                trial,
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
                points,
                weight,
                length,
                nodes,
                place,
                tangent,
                i,
                j,
                pieces,
                smooth,
                skip,
                tolerance,
                q,
                4,
                trial,
            )
            if cost[i] + price < cost[j] and (price <= 5.0 or j == i + 1):
                cost[j] = cost[i] + price
                came[j] = i
    picked = np.empty(pieces + 1, np.int64)
    size = 0
    k = pieces
    while k > 0:
        picked[size] = k
        size += 1
        k = came[k]
    picked[size] = 0
    for pos in range(size, 0, -1):
        i, j = picked[pos], picked[pos - 1]
        _, is_line = _fit_between(
            points, weight, length, nodes, place, tangent, i, j, pieces, smooth, skip, tolerance, q, 12, trial
        )
        node[filled, 0], node[filled, 1] = place[i, 0], place[i, 1]
        first_point[filled] = nodes[i]
        line[filled] = is_line
        angle[filled, 0] = math.atan2(trial[1, 1] - trial[0, 1], trial[1, 0] - trial[0, 0])
        angle[filled, 1] = math.atan2(trial[3, 1] - trial[2, 1], trial[3, 0] - trial[2, 0])
        handle[filled, 0] = math.hypot(trial[1, 0] - trial[0, 0], trial[1, 1] - trial[0, 1])
        handle[filled, 1] = math.hypot(trial[3, 0] - trial[2, 0], trial[3, 1] - trial[2, 1])
        filled += 1
    return filled
