"""Where a tip must lie, and how round it must be, for a drawing to have its grey where the picture has it."""

import math

import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.geometry.norm import norm
from zeichen.core.geometry.parabola import lowest_between
from zeichen.core.raster.coverage import add_edge
from zeichen.core.values import FloatArray

# Radii tried for a rounded corner, px: every third, and those on either side of the best of them.
_RADII_PX = (0.6, 0.8, 1.0, 1.25, 1.5, 1.8, 2.2, 2.7, 3.3, 4.0, 5.0, 6.2)
_ROUNDS = 4
# A rounded corner must explain the grey this much better than a sharp one.
_CLEARLY = 0.6
# One as small as this may as well be a sharp one a little off: it must explain more.
_HARDLY_ROUND_PX = 0.9
_CLEARLY_ROUND = 0.35
# Less grey than this (squared, over the patch) leaves nothing to explain.
_EXPLAINED = 0.004
# A tip changes the same pixels when moved from places no further apart than this.
_SAME_CHANGE_PX = 0.25


@uncounted
def _loop_into(acc: FloatArray, old: FloatArray, new: FloatArray) -> None:
    """Add the area between two polylines that share their ends."""
    # Where both run the same way there is nothing between them.
    least = min(len(old), len(new)) - 1
    begin = 0
    while begin < least and old[begin + 1, 0] == new[begin + 1, 0] and old[begin + 1, 1] == new[begin + 1, 1]:
        begin += 1
    after, before = len(new) - 1, len(old) - 1
    while (
        min(after, before) > begin
        and old[before - 1, 0] == new[after - 1, 0]
        and old[before - 1, 1] == new[after - 1, 1]
    ):
        after -= 1
        before -= 1
    for k in range(begin, after):
        add_edge(acc, new[k, 0], new[k, 1], new[k + 1, 0], new[k + 1, 1])
    for k in range(before, begin, -1):
        add_edge(acc, old[k, 0], old[k, 1], old[k - 1, 0], old[k - 1, 1])


@counted
def _change(old: FloatArray, new: FloatArray, size: int, kernel: FloatArray) -> FloatArray:
    """Return by how much the ink of each pixel of a square patch changes, blurred."""
    acc = np.zeros((size, size + 1))
    _loop_into(acc, old, new)
    for row in range(size):
        total = 0.0
        for c in range(size):
            total += acc[row, c]
            acc[row, c] = total
    if len(kernel) == 1:
        return acc[:, :size].copy()
    blurred: FloatArray = _blurred_across(_blurred_across(acc, size, kernel), size, kernel)
    return blurred


@counted(cache=True)
def _blurred_across(values: FloatArray, size: int, kernel: FloatArray) -> FloatArray:
    """Return a square patch blurred along its rows and turned over its diagonal: twice is both ways, upright again."""
    half = len(kernel) // 2
    out = np.empty((size, size))
    for row in range(size):
        for c in range(size):
            total = 0.0
            for k in range(-half, half + 1):
                if 0 <= c + k < size:
                    total += kernel[k + half] * values[row, c + k]
            out[c, row] = total
    return out


@counted
def _moved(old: FloatArray, tip: int, dx: float, dy: float, reach: float) -> FloatArray:
    """Return a polyline with its tip moved, its sides bent along less and less."""
    new = old.copy()
    for side in (-1, 1):
        away = 0.0
        k = tip
        while 0 <= k < len(old):
            if k != tip or side == 1:
                fade = max(0.0, 1.0 - away / reach)
                new[k, 0] = old[k, 0] + dx * fade
                new[k, 1] = old[k, 1] + dy * fade
            j = k + side
            if j < 0 or j >= len(old):
                break
            away += norm(old[j, 0] - old[k, 0], old[j, 1] - old[k, 1])
            k = j
    for end in (0, len(old) - 1):
        new[end, 0], new[end, 1] = old[end, 0], old[end, 1]
    return new


@counted(cache=True)
def _rounded(old: FloatArray, tip: int, radius: float) -> FloatArray:
    """Return a polyline whose tip is an arc that touches both (straight) sides."""
    ax, ay = old[tip, 0] - old[tip - 1, 0], old[tip, 1] - old[tip - 1, 1]
    bx, by = old[tip + 1, 0] - old[tip, 0], old[tip + 1, 1] - old[tip, 1]
    turn = math.atan2(ax * by - ay * bx, ax * bx + ay * by)
    back = radius * math.tan(abs(turn) / 2)
    out = np.empty((len(old) + 8, 2))
    filled = 0
    sa, sb = norm(ax, ay), norm(bx, by)
    ax, ay, bx, by = ax / sa, ay / sa, bx / sb, by / sb
    for k in range(tip):
        if (old[tip, 0] - old[k, 0]) * ax + (old[tip, 1] - old[k, 1]) * ay > back:
            out[filled, 0], out[filled, 1] = old[k, 0], old[k, 1]
            filled += 1
    sx, sy = old[tip, 0] - back * ax, old[tip, 1] - back * ay
    sign = 1.0 if turn > 0 else -1.0
    cx, cy = sx - sign * radius * ay, sy + sign * radius * ax
    for k in range(9):
        angle = turn * k / 8
        vx, vy = sx - cx, sy - cy
        out[filled, 0] = cx + vx * math.cos(angle) - vy * math.sin(angle)
        out[filled, 1] = cy + vx * math.sin(angle) + vy * math.cos(angle)
        filled += 1
    for k in range(tip + 1, len(old)):
        if (old[k, 0] - old[tip, 0]) * bx + (old[k, 1] - old[tip, 1]) * by > back:
            out[filled, 0], out[filled, 1] = old[k, 0], old[k, 1]
            filled += 1
    return out[:filled]


@counted
def _left_by_round(rest: FloatArray, line: FloatArray, tip: int, radius: float, kernel: FloatArray) -> float:
    """Return the grey, squared, that a tip rounded by a radius leaves; infinite if its sides are too short."""
    trial = _rounded(line, tip, radius)
    if len(trial) < 11:
        return np.inf
    size = len(rest)
    ink = _change(line, trial, size, kernel)
    total = 0.0
    for r in range(size):
        for c in range(size):
            off = rest[r, c] - ink[r, c]
            total += off * off
    return total


@counted
def _between_radii(
    rest: FloatArray, line: FloatArray, tip: int, found: int, left: FloatArray, kernel: FloatArray
) -> tuple[float, float]:
    """Return what the best radius leaves, and that radius: of those tried, or between them.

    A parabola through the best one and its neighbours tells, over their squares: the ink a rounding takes away is
    proportional to those. left: what each radius leaves, infinite if not tried.
    """
    best = _RADII_PX[found]
    if found == 0 or found == len(_RADII_PX) - 1:
        return left[found], best
    for k in (found - 1, found + 1):
        if left[k] == np.inf:
            left[k] = _left_by_round(rest, line, tip, _RADII_PX[k], kernel)
    a, b, c = _RADII_PX[found - 1] ** 2, best * best, _RADII_PX[found + 1] ** 2
    between = math.sqrt(lowest_between(a, b, c, left[found - 1], left[found], left[found + 1]))
    rest_there = _left_by_round(rest, line, tip, between, kernel)
    return (rest_there, between) if rest_there < left[found] else (left[found], best)


@counted(cache=True)
def fit_corner(
    rest: FloatArray, line: FloatArray, tip: int, reach: float, kernel: FloatArray, most: float
) -> tuple[float, float, float]:
    """Return how far to move a tip (x, y) and the radius of its rounding, 0 for a sharp one; pixel units.

    rest: (size, size) ink of the picture less ink of the drawing around the tip; line: the drawing's
    outline there in the patch's coordinates, line[tip] its corner; most: the furthest move.
    """
    size = len(rest)
    dx = dy = 0.0
    now = rest.copy()
    sharp = 0.0
    for r in range(size):
        for c in range(size):
            sharp += rest[r, c] * rest[r, c]
    first = sharp
    step = 0.05
    seen_x = seen_y = np.inf
    jx, jy = now, now
    for _ in range(_ROUNDS):
        # What a move changes hardly depends on where the tip is, unless it is far from where that was seen.
        if not norm(dx - seen_x, dy - seen_y) < _SAME_CHANGE_PX:
            here = _moved(line, tip, dx, dy, reach)
            jx = _change(here, _moved(line, tip, dx + step, dy, reach), size, kernel)
            jy = _change(here, _moved(line, tip, dx, dy + step, reach), size, kernel)
            seen_x, seen_y = dx, dy
        xx = yy = xy = xr = yr = 0.0
        for r in range(size):
            for c in range(size):
                gx, gy = jx[r, c] / step, jy[r, c] / step
                xx += gx * gx
                yy += gy * gy
                xy += gx * gy
                xr += gx * now[r, c]
                yr += gy * now[r, c]
        xx += 1e-3
        yy += 1e-3
        det = xx * yy - xy * xy
        if det < 1e-9:
            break
        sx, sy = (xr * yy - yr * xy) / det, (yr * xx - xr * xy) / det
        length = norm(sx, sy)
        if length > 0.7:
            sx, sy = sx * 0.7 / length, sy * 0.7 / length
        gone = norm(dx + sx, dy + sy)
        if gone > most:
            break
        moved = _moved(line, tip, dx + sx, dy + sy, reach)
        ink = _change(line, moved, size, kernel)
        total = 0.0
        for r in range(size):
            for c in range(size):
                now[r, c] = rest[r, c] - ink[r, c]
                total += now[r, c] * now[r, c]
        if total >= sharp:
            break
        sharp = total
        dx, dy = dx + sx, dy + sy
        if length < 0.01:
            break
    best, radius = np.inf, 0.0
    if sharp >= _EXPLAINED:
        left = np.full(len(_RADII_PX), np.inf)
        found = 1
        for k in range(1, len(_RADII_PX), 3):
            left[k] = _left_by_round(rest, line, tip, _RADII_PX[k], kernel)
            if left[k] < left[found]:
                found = k
        for k in (found - 1, found + 1):
            if k < len(_RADII_PX):
                left[k] = _left_by_round(rest, line, tip, _RADII_PX[k], kernel)
        found = int(left.argmin())
        best, radius = left[found], _RADII_PX[found]
        if best < sharp:
            best, radius = _between_radii(rest, line, tip, found, left, kernel)
    if best > (_CLEARLY if radius > _HARDLY_ROUND_PX else _CLEARLY_ROUND) * sharp:
        radius = 0.0
    if first < sharp:
        return 0.0, 0.0, radius
    return dx, dy, radius
