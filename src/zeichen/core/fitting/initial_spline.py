"""The first draft of a spline: its corners, where they truly are, and the best breaks between them."""

import math

import numpy as np

from zeichen.core.compiled import NONE, counted, uncounted
from zeichen.core.fitting.corner_search import corner_angles, pick_corners, sharpen
from zeichen.core.fitting.fit_settings import Spans, with_stretch
from zeichen.core.fitting.local_polynomial import (
    Polyline,
    Stretch,
    central_estimate,
    gap_between,
    polyline_of,
)
from zeichen.core.fitting.segmentation import Between, fit_section
from zeichen.core.fitting.spline_arrays import SplineArrays
from zeichen.core.geometry.loops import around
from zeichen.core.geometry.norm import norm
from zeichen.core.values import AnyArray, FloatArray

# How many times as far as blur explains a corner's sides may meet beyond the boundary before it is taken for
# round, and pixels added to that. Sides of true corners (open sets) meet at up to four fifths of this, sides
# of small rounds at slender ends at one and a half times and more.
_BLUNTED, _BLUNTED_PX = 4.2, 1.05
_SLENDER_DEG = 150.0
# A line as long as this is found again from either of its halves, px.
_SHORTEST_HALVED_PX = 24.0


@counted(cache=True)
def initial_spline(spline: SplineArrays, down_weighted: bool, spans: Spans) -> tuple[int, bool]:
    """Lay a spline along its measured points; returns how many nodes it has and whether it is all smooth.

    down_weighted: points near the ends of an open one are moved by what meets there and have little say.
    """
    points, weight, closed = spline.points, spline.weight, spline.closed
    n = len(points)
    polyline = polyline_of(points, closed)
    length = polyline.length
    # On outlines hardly longer than the window, both sides would see the same points.
    reach = min(spans.reach, max(2.2, length[n] / (6.0 if closed else 4.0)))
    spans = with_stretch(spans, min(spans.skip, reach / 3.0), reach)
    angles = corner_angles(polyline, Stretch(spans.skip, reach), max(0.08, 1.5 * spans.noise))
    if not closed:
        for i in range(n):
            if not reach * 0.7 < length[i] < length[n] - reach * 0.7:
                angles[i] = 0.0
    at, vertices = _corners(polyline, angles, spans)
    smooth = len(at) == 0
    if smooth:
        at, vertices = np.array([_most_bent(points, reach)]), np.empty((1, 2))
        estimate = np.zeros(4)
        central_estimate(polyline, at[0], reach, estimate)
        vertices[0, 0], vertices[0, 1] = estimate[0], estimate[1]
    elif not closed:
        # The ends are as sharp as right angles: other edges meet there.
        angles[0] = angles[n - 1] = 90.0 if down_weighted else 180.0
    sections = len(at) if closed else len(at) - 1
    if not smooth:
        for k in range(sections):
            begin, end = at[k], at[around(k + 1, len(at))] + (n if k + 1 == len(at) else 0)
            if closed or down_weighted or k > 0 or k < sections - 1:
                at_start, at_end = not closed and k == 0, not closed and k == sections - 1
                moved = _moved(spans, down_weighted, at_start), _moved(spans, down_weighted, at_end)
                _down_weight(
                    polyline,
                    begin,
                    end,
                    moved,
                    (angles[begin], angles[around(end, n)]),
                    spans.least_weight,
                    weight,
                )
    filled, most_bent, there = NONE, at[0], vertices[0].copy()
    for trial in range(3 if smooth else 1):
        if trial == 1:
            # Cut open on a line rather than in a bend, which then need not have a node in its middle.
            at[0] = _middle_of_longest_line(spline, length, filled, vertices[0])
            if at[0] < 0:
                break
        elif trial == 2:
            at[0], vertices[0] = most_bent, there
        filled = NONE
        for k in range(sections):
            begin, end = at[k], at[around(k + 1, len(at))]
            if end <= begin:
                end += n
            spline.corner[filled] = not smooth
            between = Between(begin, end, vertices[k], vertices[around(k + 1, len(at))], smooth)
            filled = fit_section(polyline, weight, between, spans, spline, filled)
        if trial == 1 and filled > 2 and spline.line[0] and spline.line[filled - 1]:
            filled -= 1
            _join_cut_line(spline, filled)
            break
    if not closed:
        spline.node[filled, 0], spline.node[filled, 1] = vertices[-1, 0], vertices[-1, 1]
        spline.first[filled] = n
        spline.corner[filled] = True
        filled += 1
    return filled, smooth


@uncounted
def _middle_of_longest_line(spline: SplineArrays, length: FloatArray, count: int, place: FloatArray) -> int:
    """Return the point half-way along the longest line of a closed run, and put the middle of it into place.

    Negative if none is long enough to be found again by either half.
    """
    points, _, _, node, first_point, line, _, _, _, _, _ = spline
    n = len(points)
    longest, found = _SHORTEST_HALVED_PX, -1
    for k in range(count):
        if not line[k]:
            continue
        j = around(k + 1, count)
        size = norm(node[j, 0] - node[k, 0], node[j, 1] - node[k, 1])
        if size > longest:
            longest, found = size, k
    if found < 0:
        return -1
    j = around(found + 1, count)
    for axis in range(2):
        place[axis] = 0.5 * (node[found, axis] + node[j, axis])
    at, stop = first_point[found], first_point[j] + (n if j <= found else 0)
    while at < stop and gap_between(length, first_point[found], at, n) < 0.5 * longest:
        at += 1
    return int(around(at, n))


@counted
def _join_cut_line(spline: SplineArrays, count: int) -> None:
    """Take out the first node of a closed spline, in the middle of a line; it begins at the next, so many are left."""
    points, _, _, node, first_point, line, corner, _, angle, handle, _ = spline
    n = len(points)
    for k in range(count):
        first_point[k], line[k], corner[k] = first_point[k + 1], line[k + 1], corner[k + 1]
        for axis in range(2):
            node[k, axis] = node[k + 1, axis]
            angle[k, axis], handle[k, axis] = angle[k + 1, axis], handle[k + 1, axis]
    if first_point[0] >= n:
        for k in range(count):
            first_point[k] -= n
    last = count - 1
    x, y = node[0, 0] - node[last, 0], node[0, 1] - node[last, 1]
    angle[last, 0] = angle[last, 1] = math.atan2(y, x)
    handle[last, 0] = handle[last, 1] = norm(x, y) / 3


@uncounted
def _moved(spans: Spans, down_weighted: bool, at_end: bool) -> float:
    """Return how far what meets at a corner, or at an end, has moved the points around; a free end has not."""
    if not at_end:
        return spans.moved
    return spans.moved_at_end if down_weighted else 0.0


@counted
def _corners(polyline: Polyline, angles: FloatArray, spans: Spans) -> tuple[AnyArray, FloatArray]:
    """Return which points are corners and where those truly are; both ends of an open polyline are.

    Of a closed one only those count that blur alone may have rounded: the others are round.
    """
    points, _, closed = polyline
    skip, reach = spans.skip, spans.reach
    n = len(points)
    picked = np.nonzero(pick_corners(polyline, angles, spans.corner_deg, reach * 0.7))[0]
    at = np.empty(len(picked) + 2, np.int64)
    vertices = np.empty((len(picked) + 2, 2))
    count = 0
    if not closed:
        at[0], vertices[0, 0], vertices[0, 1] = 0, points[0, 0], points[0, 1]
        count = 1
    for i in picked:
        if not closed and (i == 0 or i == n - 1):
            continue
        wide = skip * _tip_share(angles[i], skip, reach)
        furthest = 2.0 * wide + 0.5
        x, y, off, turn = sharpen(polyline, i, Stretch(wide, reach + wide - skip), furthest)
        if closed:
            # How slender a slender tip is, its sides tell better from further off.
            turn = max(angles[i], turn) if angles[i] > _SLENDER_DEG else angles[i]
            if off > _blunted(turn, spans):
                continue
        elif off > furthest:
            x, y = points[i]
        at[count], vertices[count, 0], vertices[count, 1] = i, x, y
        count += 1
    if not closed:
        at[count], vertices[count, 0], vertices[count, 1] = n - 1, points[n - 1, 0], points[n - 1, 1]
        count += 1
    return at[:count], vertices[:count]


@uncounted(cache=True)
def _tip_share(turn_deg: float, skip: float, reach: float) -> float:
    """Return how many times as far a corner's blur moves the boundary as at a right angle.

    The sides of a tip see each other for as long as they are near each other.
    """
    inner = math.radians(max(180.0 - turn_deg, 20.0))
    return min(max(1.0, 1.0 / (math.sqrt(2.0) * math.sin(inner / 2))), max(1.0, 0.6 * reach / skip))


@uncounted(cache=True)
def _blunted(turn_deg: float, spans: Spans) -> float:
    """Return the most by which blur alone can draw a sharp corner's boundary back from its tip, px.

    At half the grey, a right angle is drawn back by 0.77 and a slender one by 0.67 / tan(half its angle)
    standard deviations (derived for a Gaussian); several times as much is allowed for the fit of its sides.
    """
    sigma = math.sqrt(spans.blur**2 + (0.29 * spans.pixel) ** 2)
    half = math.radians(max(180.0 - turn_deg, 12.0)) / 2
    return _BLUNTED * max(0.77, 0.67 / math.tan(half)) * sigma + _BLUNTED_PX * spans.pixel


@uncounted(cache=True)
def _most_bent(points: FloatArray, reach: float) -> int:
    """Return the point of a closed contour where it turns most from so many px before to as many after."""
    n = len(points)
    pace = max(1, min(round(1.4 * reach), n // 4))
    best, most = 0, -1.0
    for i in range(n):
        before, after = points[around(i - pace, n)], points[around(i + pace, n)]
        ax, ay = points[i, 0] - before[0], points[i, 1] - before[1]
        bx, by = after[0] - points[i, 0], after[1] - points[i, 1]
        turn = abs(math.atan2(ax * by - ay * bx, ax * bx + ay * by))
        if turn > most:
            best, most = i, turn
    return best


@uncounted
def _down_weight(
    polyline: Polyline,
    first: int,
    last: int,
    moved: tuple[float, float],
    turn_deg: tuple[float, float],
    least_weight: float,
    weight: FloatArray,
) -> None:
    """Take most of their say from the points of a run between two corners which the corners' blur has moved.

    What is left keeps a curve from leaving them altogether on its way to the corner. At a sharp tip
    both edges see each other for longer. A short run keeps its middle.
    """
    points, length, _ = polyline
    n = len(points)
    run = gap_between(length, first, last, n) if last - first < n else length[n]
    for end in range(2):
        inner = math.radians(180.0 - min(turn_deg[end], 165.0))
        near = min(moved[end] / max(math.sin(min(inner, math.pi / 2)), 0.3), 0.3 * run)
        for k in range(last - first + 1):
            i = first + k if end == 0 else last - k
            away = gap_between(length, first, i, n) if end == 0 else gap_between(length, i, last, n)
            if k and away > near:
                break
            weight[around(i, n)] = min(weight[around(i, n)], 0.0 if away < 0.4 * near else least_weight)
