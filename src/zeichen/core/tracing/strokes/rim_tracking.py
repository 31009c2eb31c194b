"""Following a drawn line into ink that it shares with others.

Where lines merge, ink is only ever added: the line's own rim stays visible on one side for as long as
nothing lies there, and its middle runs half a line's width inside that rim. Where both rims are
lost the line goes on as it was bending.
"""

import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.fitting.three_unknowns import solve_three
from zeichen.core.geometry.norm import norm
from zeichen.core.raster.ink import ink_at
from zeichen.core.values import FloatArray

# Rims further apart than the line is wide by this share, and this many pixels, are not both its own.
_SLACK_SHARE = 0.02
_SLACK_PX = 0.3
# Steps in which ink is summed: blur makes it smooth at this scale.
_STEP_PX = 0.5


@uncounted(cache=True)
def rim_along(ink: FloatArray, x: float, y: float, dx: float, dy: float, furthest: float) -> float:
    """Return how far from a place in a (unit) direction the ink ends, by its sum; -1 if it does not."""
    total = 0.0
    s = 0.5 * _STEP_PX
    inside = True
    last = 1.0
    while s < furthest:
        value = ink_at(ink, x + s * dx, y + s * dy)
        if inside and value < 0.5:
            inside = False
        if not inside and (value < 0.02 or value > last + 0.02):
            return total
        total += min(value, 1.0) * _STEP_PX
        last = value
        s += _STEP_PX
    return total if not inside else -1.0


@counted(cache=True)
def rims_along(ink: FloatArray, points: FloatArray, directions: FloatArray, furthest: float) -> FloatArray:
    """Return how far from each point (n, 2) in a unit direction (n, 2) the ink ends, px; nan where it does not.

    ink: (height, width), share of ink in each pixel; furthest: how far to look, px.
    """
    out = np.empty(len(points))
    for k in range(len(points)):
        found = rim_along(ink, points[k, 0], points[k, 1], directions[k, 0], directions[k, 1], furthest)
        out[k] = found if found > 0.0 else np.nan
    return out


@uncounted
def _rim(ink: FloatArray, x: float, y: float, dx: float, dy: float, furthest: float) -> float:
    """Return how far from a place in a direction the ink ends; further than any if it does not."""
    found: float = rim_along(ink, x, y, dx, dy, furthest)
    return found if found >= 0.0 else 1e9


@uncounted
def _bend(s: FloatArray, v: FloatArray, first: int, last: int, at: float) -> tuple[float, float, float]:
    """Return value, slope and curve at the end of a parabola through v(s), with s counted from `at`."""
    m0 = m1 = m2 = m3 = m4 = b0 = b1 = b2 = 0.0
    # From the first value on, so that places far from the origin lose no digits.
    origin = v[first]
    for k in range(first, last):
        t, off = s[k] - at, v[k] - origin
        square = t * t
        m0 += 1.0
        m1 += t
        m2 += square
        m3 += square * t
        m4 += square * square
        b0 += off
        b1 += off * t
        b2 += off * square
    # A straight line is preferred as far as the points do not tell.
    value, slope, curve, _ = solve_three((m0, m1, m2, m2 + 1e-6, m3, m4 + 20.0), (b0, b1, b2))
    return origin + value, slope, curve


@counted(cache=True)
def follow(ink: FloatArray, run: FloatArray, width: float, furthest: float, coast: float) -> FloatArray:
    """Return where a line goes on beyond the end of a run, (m, 2), one point a pixel.

    Parameters
    ----------
    ink : (height, width) array, share of ink in each pixel
    run : (n, 2) array, px
        Points along the line up to where it enters the shared ink, about a pixel apart; n >= 2.
    width : float
        The line's own width, px.
    furthest, coast : float
        How far to follow at most, and how far without seeing a rim, px.
    """
    half = 0.5 * width
    window = max(8.0, 1.6 * width)
    room = len(run) + int(furthest) + 4
    x, y, s = np.empty(room), np.empty(room), np.empty(room)
    n = 0
    total = 0.0
    for k in range(len(run)):
        if k:
            step = norm(run[k, 0] - run[k - 1, 0], run[k, 1] - run[k - 1, 1])
            if step < 1e-6:
                continue
            total += step
        x[n], y[n], s[n] = run[k, 0], run[k, 1], total
        n += 1
    out = np.empty((int(furthest) + 2, 2))
    count = 0
    unseen = 0.0
    place = total
    slack = _SLACK_SHARE * width + _SLACK_PX
    near = max(0.8, 0.12 * width)
    while count < len(out) - 1 and place - total < furthest:
        first = n - 1
        while first > 0 and (n - first < 4 or s[n - 1] - s[first - 1] < window):
            first -= 1
        ahead = place + 1.0 - s[n - 1]
        ax, bx, cx = _bend(s, x, first, n, s[n - 1])
        ay, by, cy = _bend(s, y, first, n, s[n - 1])
        # The bend fades out the further nothing is seen.
        fade = 1.0 / (1.0 + max(0.0, ahead - width) / (2.0 * width))
        px = ax + bx * ahead + cx * fade * ahead * ahead
        py = ay + by * ahead + cy * fade * ahead * ahead
        dx, dy = bx + 2 * cx * fade * ahead, by + 2 * cy * fade * ahead
        size = norm(dx, dy)
        if size < 1e-9:
            break
        dx, dy = dx / size, dy / size
        nx, ny = -dy, dx
        if ink_at(ink, px, py) < 0.5:
            break
        left = _rim(ink, px, py, nx, ny, 1.4 * width + 2.0)
        right = _rim(ink, px, py, -nx, -ny, 1.4 * width + 2.0)
        shift = 0.0
        found = False
        if left + right <= width + slack:
            if left + right < 0.6 * width:
                break
            shift = 0.5 * (left - right)
            found = abs(shift) < max(0.25 * width, 1.5)
        else:
            least = min(left, right)
            off = least - half
            # The rim must run along with the line.
            side = 1.0 if left <= right else -1.0
            back = 0.25 * width
            other = _rim(ink, px - back * dx, py - back * dy, side * nx, side * ny, 1.4 * width + 2.0)
            if abs(off) < near and abs(least - other) < 0.3 * back + 0.4:
                shift = side * off
                found = True
            elif off < -near:
                # Ink ends where this line's own should still be.
                break
        place += 1.0
        if found:
            px += shift * nx
            py += shift * ny
            x[n], y[n] = px, py
            s[n] = s[n - 1] + norm(px - x[n - 1], py - y[n - 1])
            place = s[n]
            n += 1
            unseen = 0.0
            if n >= room:
                break
        else:
            unseen += 1.0
            if unseen > coast:
                break
        out[count, 0], out[count, 1] = px, py
        count += 1
    return out[:count].copy()
