"""How well a line that is followed into shared ink arrives at another line's end."""

import math

import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.geometry.norm import norm
from zeichen.core.values import BoolArray, FloatArray

# A line that is followed into a knot lands on another if it comes this near to its end (of a width) ...
LANDING = 0.45
# ... and runs the same way within this.
_LANDING_DEG = 40.0
# So many last points tell how a line bends.
_BENDING = 24


@counted(cache=True)
def landing(
    run: FloatArray,
    at_start: bool,
    width: float,
    track: FloatArray,
    seen: BoolArray,
    goal: FloatArray,
    goal_at_start: bool,
    goal_width: float,
    back: FloatArray,
    goal_is_stub: bool,
) -> tuple[float, FloatArray]:
    """Return how well the track of one end arrives at another, infinite if it does not, and the points between.

    The cost counts, each about 1 where it becomes doubtful: the turn and the offset at the landing,
    the way without sight of a rim, and bending more than both lines do before and after.

    Parameters
    ----------
    run, goal : (n, 2) arrays, px
        The two lines, with which end of each is meant and their widths, px.
    track, seen : (k, 2) array, px, and (k,) array
        How the first goes on, a point a pixel, and where its rim was seen.
    back : (j, 2) array, px
        How the second goes on as far as its rim is seen; a stub's is not believed.
    """
    nothing = np.empty((0, 2))
    if len(track) < 2:
        return math.inf, nothing
    own, its = _last_points(run, at_start, _BENDING), _last_points(goal, goal_at_start, _BENDING)
    narrow = min(width, goal_width)
    end_x, end_y = its[-1, 0], its[-1, 1]
    k, gap = nearest(track, end_x, end_y)
    if gap > LANDING * narrow + 0.5:
        return math.inf, nothing
    # The landing may be anywhere on the other run's end, not just at its last point.
    before, after = max(0, k - 3), min(len(track) - 1, k + 3)
    way_x, way_y = track[after, 0] - track[before, 0], track[after, 1] - track[before, 1]
    arriving_x, arriving_y = its[max(0, len(its) - 8), 0] - end_x, its[max(0, len(its) - 8), 1] - end_y
    size = norm(arriving_x, arriving_y)
    both = max(size * norm(way_x, way_y), 1e-12)
    cosine = (way_x * arriving_x + way_y * arriving_y) / both
    turn = math.degrees(math.acos(max(-1.0, min(1.0, cosine))))
    if turn > _LANDING_DEG:
        return math.inf, nothing
    off_x, off_y = track[k, 0] - end_x, track[k, 1] - end_y
    offset = abs(off_x * arriving_y - off_y * arriving_x) / max(size, 1e-9)
    unseen = k - np.sum(seen[:k])
    expected = 0.5 * (_own_bend(own) - _own_bend(its)) * (k + 1)
    cost = (
        turn / 25.0
        + offset / (0.35 * narrow)
        + 0.3 * unseen / narrow
        + abs(_turning(_all_along(own, track, k, its)) - expected) / 40.0
    )
    first = min(leading(seen), k)
    if first == k or goal_is_stub:
        return cost, track[:first].copy()
    heading_x, heading_y = way_x, way_y
    if first > 2:
        heading_x, heading_y = (
            track[first - 1, 0] - track[first - 3, 0],
            track[first - 1, 1] - track[first - 3, 1],
        )
    size = max(norm(heading_x, heading_y), 1e-9)
    ahead = track[first - 1] if first else own[-1]
    # From the other side, what lies beyond; the other's track may have gone on along a third line.
    middle = np.empty((first + len(back), 2))
    for i in range(first):
        middle[i, 0], middle[i, 1] = track[i, 0], track[i, 1]
    count = first
    for j in range(len(back) - 1, -1, -1):
        x, y = back[j, 0], back[j, 1]
        if ((x - ahead[0]) * heading_x + (y - ahead[1]) * heading_y) / size > 1.0 and nearest(
            track[: k + 1], x, y
        )[1] < LANDING * narrow + 0.5:
            middle[count, 0], middle[count, 1] = x, y
            count += 1
    return cost, middle[:count].copy()


@uncounted(cache=True)
def leading(seen: BoolArray) -> int:
    """Return how many points come before the first without sight of a rim."""
    for k in range(len(seen)):
        if not seen[k]:
            return k
    return len(seen)


@counted
def _all_along(own: FloatArray, track: FloatArray, k: int, its: FloatArray) -> FloatArray:
    """Return the last four points of a run, its track up to point k, and the last four of another, backwards."""
    before, after = min(4, len(own)), min(4, len(its))
    out = np.empty((before + k + 1 + after, 2))
    for axis in range(2):
        for i in range(before):
            out[i, axis] = own[len(own) - before + i, axis]
        for i in range(k + 1):
            out[before + i, axis] = track[i, axis]
        for i in range(after):
            out[before + k + 1 + i, axis] = its[len(its) - 1 - i, axis]
    return out


@counted
def _last_points(points: FloatArray, at_start: bool, most: int) -> FloatArray:
    """Return the last points of those that lead to one end of a line."""
    count = min(most, len(points))
    out = np.empty((count, 2))
    for k in range(count):
        j = count - 1 - k if at_start else len(points) - count + k
        out[k, 0], out[k, 1] = points[j, 0], points[j, 1]
    return out


@uncounted
def _own_bend(near: FloatArray) -> float:
    """Return by how many degrees a pixel a line turns over its last stretch."""
    n = len(near)
    if n < 6:
        return 0.0
    third = max(2, n // 3)
    cx, cy = near[third, 0] - near[0, 0], near[third, 1] - near[0, 1]
    gx, gy = near[n - 1, 0] - near[n - third, 0], near[n - 1, 1] - near[n - third, 1]
    return math.degrees(math.atan2(cx * gy - cy * gx, cx * gx + cy * gy)) / max(1.0, float(n - third))


@uncounted(cache=True)
def _turning(points: FloatArray) -> float:
    """Return the signed sum of a polyline's turns, degrees."""
    pace = max(1, len(points) // 12)
    total, before = 0.0, math.nan
    for k in range(0, len(points) - pace, pace):
        dx, dy = points[k + pace, 0] - points[k, 0], points[k + pace, 1] - points[k, 1]
        if abs(dx) + abs(dy) > 1e-6:
            angle = math.atan2(dy, dx)
            if not math.isnan(before):
                turns = (angle - before) / (2 * math.pi)
                total += 360.0 * (turns - math.floor(turns + 0.5))
            before = angle
    return total


@uncounted(cache=True)
def nearest(points: FloatArray, x: float, y: float) -> tuple[int, float]:
    """Return which of some points is nearest to a place, and how far it is."""
    best, least = -1, math.inf
    for k in range(len(points)):
        away = norm(points[k, 0] - x, points[k, 1] - y)
        if away < least:
            best, least = k, away
    return best, least
