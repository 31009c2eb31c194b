"""Corners of a polyline: where its two sides, looked at from beyond the blur, run different ways.

Distances are arc lengths in px.
"""

import math

import numpy as np

from zeichen.core.compiled import ONE, counted, uncounted
from zeichen.core.fitting.circle_fit import circle_along
from zeichen.core.fitting.local_polynomial import (
    AHEAD,
    BACK,
    BENT,
    STRAIGHT,
    Polyline,
    Stretch,
    side_estimate,
)
from zeichen.core.geometry.loops import around
from zeichen.core.geometry.norm import norm
from zeichen.core.values import BoolArray, FloatArray

# A turn sharper than this is a corner whatever the arc fit says.
_SURE_DEG = 60.0
# And whatever it looks like from nearer by.
_CLEAR_DEG = 75.0
# The nearer window takes this share of the points.
_NEARER = 0.55
# What is left of the angle at the point itself, at least, as a share of what is seen from afar.
_FADED = 0.42
# A turn no sharper than this that loses more than this, and looks milder by so much where its sides may bend, is a
# small round (common practice, no source: of 5000 corners of two open sets one in 500 looks so, of rounds half do).
_ROUND_DEG = 120.0
_ROUND_FADED = 0.8
_ROUND_BENT = 0.85
# Beside a corner its sides turn by this already, seen from the middle one of so many points.
_HINT_DEG = 12.0
_ONE_IN = 3
# Chords that turn by less than this tangent have no corner between them.
_AGREE = math.tan(math.radians(6.0))
# Points at a corner whose angles differ by less are equally good places for it; so many on either side at most.
_AS_GOOD_DEG = 0.25
_WIDEST_PEAK = 6
# Sides at less than this sine of an angle run side by side.
_SIDE_BY_SIDE = 0.2
# Those at less than this one may as well be the two sides of a drawn line.
_NEARING = 0.1
# A side of a corner whose points are no further off a straight line is straight.
_STRAIGHT_PX = 0.08


@counted(cache=True)
def arc_rms(polyline: Polyline, i: int, reach: float) -> float:
    """Return how far, RMS, the points within reach on either side lie from one circle along them."""
    points, length, closed = polyline
    n = len(points)
    q = np.empty((160, 2))
    q[0, 0] = 0.0
    q[0, 1] = 0.0
    count = 1
    for side in (-1, 1):
        for k in range(1, min((n - 1) // 2 + 1, 79) if closed else 79):
            j = i + side * k
            if j < 0 or j >= n:
                if not closed:
                    break
                j += n if j < 0 else -n
            away = (length[j] - length[i]) * side
            if away < 0:
                away += length[n]
            if away > reach:
                break
            q[count, 0] = points[j, 0] - points[i, 0]
            q[count, 1] = points[j, 1] - points[i, 1]
            count += 1
    if count < 4:
        return np.inf
    found, cx, cy, radius = circle_along(q, count, ONE)
    if not found:
        return 0.0  # All on one line: an arc of infinite radius.
    total = 0.0
    for k in range(count):
        off = norm(q[k, 0] - cx, q[k, 1] - cy) - radius
        total += off * off
    rms: float = math.sqrt(total / count)
    return rms


@counted(cache=True)
def corner_angles(polyline: Polyline, stretch: Stretch, arc_px: float) -> FloatArray:
    """Return, at each of n points, the angle in degrees between its two sides extrapolated to it, (n,).

    A curve that bends evenly extrapolates to the same direction from both sides whatever its radius,
    so its angle is near 0; a corner blurred over what is skipped keeps its full angle. The smaller of a
    straight and a parabolic extrapolation counts: the one is fooled by tight arcs, the other by noise.
    """
    points, length, closed = polyline
    skip, reach = stretch
    near = skip + _NEARER * (reach - skip)
    n = len(points)
    angles = np.zeros(n)
    back = np.zeros(4)
    ahead = np.zeros(4)
    # Points about as far off as the sides reach, where they lie as near to each other as at corners.
    pace = max(1, int(0.75 * reach / max(_usual_gap(length), 1e-9)))
    middle, turn_there = 0, 0.0
    for i in range(n):
        # Cheap looks first: most points lie on nearly straight runs, and none is far from one in three.
        if i % _ONE_IN == 0:
            middle = min(i + _ONE_IN // 2, n - 1)
            turn_there = 0.0
            if not _chords_agree(points, middle, pace, closed):
                turn_there = _straight_turn_deg(polyline, middle, stretch)
        if turn_there < _HINT_DEG or _chords_agree(points, i, pace, closed):
            continue
        straight = turn_there if i == middle else _straight_turn_deg(polyline, i, stretch)
        if straight < 15.0:
            continue
        side_estimate(polyline, i, BACK, stretch, BENT, back)
        side_estimate(polyline, i, AHEAD, stretch, BENT, ahead)
        angle = min(straight, _turn_deg(back, ahead))
        # Extrapolating a small round outline is shaky; where one arc fits both sides there is no corner.
        if angle < _SURE_DEG and arc_rms(polyline, i, reach) < arc_px:
            continue
        # A corner keeps its angle from nearer by; a bend loses it in proportion, down to nothing at the point.
        nearer = _straight_turn_deg(polyline, i, Stretch(skip, near))
        fading = (straight - nearer) * (skip + near) / (reach - near)
        left = (nearer - fading) / straight
        if angle < _CLEAR_DEG and left < _FADED:
            continue
        # A small round loses some of its angle from nearer by, and bends the sides already.
        if straight < _ROUND_DEG and left < _ROUND_FADED and angle < _ROUND_BENT * straight:
            continue
        angles[i] = angle
    return angles


@uncounted
def _usual_gap(length: FloatArray) -> float:
    """Return how far from each other points lie that are no further apart than the mean, on average."""
    n = len(length) - 1
    mean = length[n] / n
    total, count = 0.0, 0
    for k in range(n):
        gap = length[k + 1] - length[k]
        if gap <= mean:
            total += gap
            count += 1
    return total / count if count else mean


@uncounted
def _chords_agree(points: FloatArray, i: int, pace: int, closed: bool) -> bool:
    """Return whether the chords to the points so many before and after one run plainly the same way."""
    n = len(points)
    before, after = i - pace, i + pace
    if before < 0 or after >= n:
        if not closed:
            return False
        before, after = around(before, n), around(after, n)
    ax, ay = points[i, 0] - points[before, 0], points[i, 1] - points[before, 1]
    bx, by = points[after, 0] - points[i, 0], points[after, 1] - points[i, 1]
    return bool(abs(ax * by - ay * bx) < _AGREE * (ax * bx + ay * by))


@uncounted
def _straight_turn_deg(polyline: Polyline, i: int, stretch: Stretch) -> float:
    """Return the angle in degrees between straight lines through the points on either side; 0 if too few lie there."""
    points, length, closed = polyline
    skip, reach = stretch
    n = len(points)
    total = length[n]
    bx = by = ax = ay = 0.0
    for side in range(2):
        sign = 1 if side else -1
        count = 0
        d1 = d2 = x1 = y1 = xd = yd = 0.0
        for k in range(1, min(n // 2, 200) if closed else n):
            j = i + sign * k
            if j < 0 or j >= n:
                if not closed:
                    break
                j += n if j < 0 else -n
            away = (length[j] - length[i]) * sign
            if away < 0:
                away += total
            if away > reach or count == 64:
                break
            if away >= skip:
                x, y = points[j, 0] - points[i, 0], points[j, 1] - points[i, 1]
                count += 1
                d1 += away
                d2 += away * away
                x1 += x
                y1 += y
                xd += x * away
                yd += y * away
        spread = count * d2 - d1 * d1
        if count < 2 or spread <= 0.0:
            return 0.0
        bx, by = ax, ay
        ax, ay = (count * xd - d1 * x1) / spread, (count * yd - d1 * y1) / spread
    sizes = norm(ax, ay) * norm(bx, by)
    if sizes < 1e-18:
        return 0.0
    dot = -(ax * bx + ay * by) / sizes
    return math.degrees(math.acos(min(1.0, max(-1.0, dot))))


@uncounted
def _turn_deg(back: FloatArray, ahead: FloatArray) -> float:
    dot = -(back[2] * ahead[2] + back[3] * ahead[3])
    return math.degrees(math.acos(min(1.0, max(-1.0, dot))))


@counted(cache=True)
def pick_corners(polyline: Polyline, angles: FloatArray, least_deg: float, apart: float) -> BoolArray:
    """Return which of n points are corners, (n,): of an angle, and the largest within a distance on either side."""
    _, length, closed = polyline
    n = len(angles)
    total = length[n]
    chosen = np.zeros(n, np.bool_)
    for i in range(n):
        if angles[i] < least_deg:
            continue
        best = True
        for side in (-1, 1):
            for k in range(1, n):
                if not closed and not 0 <= i + side * k < n:
                    break
                j = around(i + side * k, n)
                away = (length[j] - length[i]) * side
                if away < 0:
                    away += total
                if away > apart or j == i:
                    break
                if angles[j] > angles[i] or (angles[j] == angles[i] and side < 0):
                    best = False
                    break
            if not best:
                break
        if best:
            chosen[_middle_of_peak(angles, i, closed)] = True
    return chosen


@counted
def _middle_of_peak(angles: FloatArray, i: int, closed: bool) -> int:
    """Return the middle one of the points around i whose angles are as good as equal.

    Which of them is the largest is down to the last digit, or to noise.
    """
    n = len(angles)
    reach = np.zeros(2, np.int64)
    for side in range(2):
        sign = 1 if side else -1
        for k in range(1, min(n // 2, _WIDEST_PEAK)):
            j = i + sign * k
            if (not closed and not 0 <= j < n) or angles[around(j, n)] < angles[i] - _AS_GOOD_DEG:
                break
            reach[side] = k
    return int(around(i + (reach[1] - reach[0]) // 2, n))


@counted(cache=True)
def sharpen(polyline: Polyline, i: int, stretch: Stretch, most: float) -> FloatArray:
    """Return where a blurred corner truly is, (4,): where its two sides, extended straight, meet.

    The better of two extrapolations counts that meets no further off than `most`; if neither does, the nearer
    one if both agree that the sides near each other, or else the contour's own point. The third number is how
    far off they meet, by the nearer of the two; the fourth the angle between them in degrees, 0 if they disagree.
    """
    points = polyline.points
    back = np.zeros(5)
    ahead = np.zeros(5)
    corner = np.zeros(4)
    corner[0], corner[1] = points[i, 0], points[i, 1]
    nearest = np.inf
    placed = False
    across_each = np.zeros(2)
    # What is straight needs no bend, which extrapolates the points' errors too.
    straight = (
        side_estimate(polyline, i, BACK, stretch, STRAIGHT, back)
        and side_estimate(polyline, i, AHEAD, stretch, STRAIGHT, ahead)
        and max(back[4], ahead[4]) < _STRAIGHT_PX
    )
    for number in range(2):
        degree = 1 + number if straight else 2 - number
        if not (
            side_estimate(polyline, i, BACK, stretch, degree, back)
            and side_estimate(polyline, i, AHEAD, stretch, degree, ahead)
        ):
            continue
        cross = back[2] * ahead[3] - back[3] * ahead[2]
        across_each[degree - 1] = cross
        corner[3] = max(corner[3], _turn_deg(back, ahead))
        across = abs((ahead[0] - back[0]) * ahead[3] - (ahead[1] - back[1]) * ahead[2])
        if abs(cross) < _SIDE_BY_SIDE:
            # Where sides that hardly near each other meet is a guess: no nearer than at this angle.
            away = across / _SIDE_BY_SIDE
            out_x, out_y = -(back[2] + ahead[2]), -(back[3] + ahead[3])
            size = norm(out_x, out_y)
            x = 0.5 * (back[0] + ahead[0]) + out_x / size * away
            y = 0.5 * (back[1] + ahead[1]) + out_y / size * away
        else:
            s = ((ahead[0] - back[0]) * ahead[3] - (ahead[1] - back[1]) * ahead[2]) / cross
            x, y = back[0] + s * back[2], back[1] + s * back[3]
            away = norm(x - points[i, 0], y - points[i, 1])
        met = abs(cross) >= _SIDE_BY_SIDE and away <= most
        if (met or away < nearest) and not placed:
            corner[0], corner[1] = x, y
            placed = met
        nearest = min(nearest, away)
    if across_each[0] * across_each[1] <= 0.0 or abs(across_each[0]) < _NEARING:
        corner[3] = 0.0
        if not placed:
            corner[0], corner[1] = points[i, 0], points[i, 1]
    corner[2] = 0.0 if nearest == np.inf else nearest
    return corner
