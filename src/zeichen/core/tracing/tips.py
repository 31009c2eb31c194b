"""Corners put where the picture's ink says they are.

Near a corner the boundary is rounded by the pixels, so curves are fitted without it and meet by
extrapolation, which at a slender tip can be off by pixels. But the ink tells more: however it is
blurred, its amount stays. So each tip is moved until the drawing, rendered, has its grey in the same
places as the picture. Where a small round fits the grey better than any sharp tip, the corner is
rounded: it was drawn so.
"""

import math
from collections.abc import Callable

import cv2
import numpy as np
from numba import njit

from zeichen.core.geometry import bezier
from zeichen.core.raster.coverage import add_edge, coverage
from zeichen.core.tracing.chain import Chain
from zeichen.core.tracing.tip_patches import Ink, drawn_around, repeat_rim, sort_into_bands
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Radii tried for a rounded corner, px.
_RADII_PX = (0.6, 0.8, 1.0, 1.25, 1.5, 1.8, 2.2, 2.7, 3.3, 4.0, 5.0)
_ROUNDS = 4
# A rounded corner must explain the grey this much better than a sharp one.
_CLEARLY = 0.6
# Less grey than this (squared, over the patch) leaves nothing to explain.
_EXPLAINED = 0.004
_HALF_PATCH_PX = 5
_SIDE_PX = 14.0
# Beside other colours only as far as the tip's own two go on together, mostly.
_LOCAL_SIDE_PX = 9.0
# Either side is a polyline of this many pieces.
_SIDE_POINTS = 18
_SHORTEST_SIDE_PX = 1.5
_FURTHEST_PX = 4.0
_LEAST_TURN = math.radians(15.0)
# Edges of the drawing are looked up by bands of rows this high.
_BAND_PX = 16.0


def settle_tips(chains: list[Chain], ink: Ink, *, pixel_px: float, blur_px: float) -> list[int]:
    """Move the corners of closed chains to where the picture's ink wants them, and round those that were.

    Returns which chains were changed.

    Parameters
    ----------
    chains : list of Chain, px
    ink : Ink
    pixel_px, blur_px : float
        Side of the picture's own pixels, and the blur beside them.
    """
    tips = [_tips(chain) for chain in chains]
    if not any(len(each) for each in tips):
        return []
    curves = [chain.curves() for chain in chains]
    runs = [bezier.flatten(curve, tolerance=0.02) / pixel_px for curve in curves]
    edges = np.concatenate([np.hstack([run[:-1], run[1:]]) for run in runs])
    kernel, half = _kernel(blur_px / pixel_px)
    height, width = ink.grey.shape
    numbers, starts = sort_into_bands(edges, _BAND_PX, math.ceil(height / _BAND_PX))
    changed = []
    for number, (chain, curve, corners) in enumerate(zip(chains, curves, tips, strict=True)):
        own = curve / pixel_px
        place = np.floor(own[corners, 0]).astype(np.int64)
        column, row = place[:, 0], place[:, 1]
        inside = (column >= 0) & (row >= 0) & (column < width) & (row < height)
        corners, column, row = corners[inside], column[inside], row[inside]
        if not len(corners):
            continue
        seen = ink.around(row, column, half)
        fits, found = _settle_each(
            seen, own, corners, height, width, edges, numbers, starts, kernel, _FURTHEST_PX
        )
        moves = {int(corners[k]): tuple(found[k].tolist()) for k in np.nonzero(fits)[0]}
        if _put(chain, moves, pixel_px):
            changed.append(number)
    return changed


def _put(chain: Chain, found: dict[int, tuple[float, float, float]], pixel_px: float) -> bool:
    """Move corners (x, y) or round them by a radius, in own pixels; returns whether there were any."""
    for k, (dx, dy, radius) in found.items():
        if radius == 0.0:
            chain.node[k] += np.array([dx, dy]) * pixel_px
            chain.pinned[k] = True
    # From the last on: rounding a corner adds a node after it.
    for k in sorted((k for k, (_, _, radius) in found.items() if radius > 0.0), reverse=True):
        chain.round_off(k, found[k][2] * pixel_px)
    if found:
        chain.refine()
    return bool(found)


def settle_local_tips(chain: Chain, seen: Callable[[int, int, int], FloatArray], *, blur_px: float) -> bool:
    """Move the corners of one chain to where the two colours beside it want them; returns whether any moved.

    Parameters
    ----------
    chain : Chain, px
        Runs with one colour on its right.
    seen : function of a row, a column and a half size
        Returns the share of the right-hand colour in the square of pixels around, nan where neither is.
    blur_px : float
        The picture's blur beside its pixels.
    """
    kernel, half = _kernel(blur_px)
    curve = chain.curves()
    found: dict[int, tuple[float, float, float]] = {}
    for k in _tips(chain).tolist():
        if chain.pinned[k]:
            continue
        tip = chain.node[k]
        column, row = math.floor(tip[0]), math.floor(tip[1])
        share = seen(row, column, half)
        line, reach = _round_tip(
            curve[(k - 1) % len(curve)], curve[k], column - half, row - half, _LOCAL_SIDE_PX
        )
        if reach < _SHORTEST_SIDE_PX or np.isnan(share).mean() > 0.4:
            continue
        drawn = _right_of(line, share.shape[0])
        if len(kernel) > 1:
            drawn = cv2.GaussianBlur(drawn, (0, 0), blur_px, borderType=cv2.BORDER_REPLICATE)
        rest = np.where(np.isnan(share), 0.0, share - drawn)
        found[k] = fit_tip(np.ascontiguousarray(rest), line, _SIDE_POINTS, reach, kernel, _FURTHEST_PX)
    return _put(chain, found, 1.0)


def _tips(chain: Chain) -> AnyArray:
    """Return the corners of a chain that turn enough for their place to be seen in the ink."""
    return np.nonzero(chain.corner[: chain.count] & (chain.turns() > _LEAST_TURN))[0]


def _right_of(line: FloatArray, size: int) -> FloatArray:
    """Return how much of each pixel of a patch lies right of a polyline that crosses it."""
    far = 4.0 * size
    first, last = line[0] - line[1], line[-1] - line[-2]
    start = line[0] + far * first / max(float(np.linalg.norm(first)), 1e-9)
    end = line[-1] + far * last / max(float(np.linalg.norm(last)), 1e-9)
    # Round the patch on the right-hand side: by the direction angles, clockwise on screen.
    middle = np.full(2, size / 2)
    a = math.atan2(*(end - middle)[::-1])
    b = math.atan2(*(start - middle)[::-1])
    while b <= a:
        b += 2 * math.pi
    turn = np.linspace(a, b, 9)[1:-1]
    around = middle + far * np.stack([np.cos(turn), np.sin(turn)], axis=1)
    ring = np.vstack([start[None], line, end[None], around])
    return np.clip(coverage([ring], size, size), 0.0, 1.0)


def _kernel(sigma: float) -> tuple[FloatArray, int]:
    """Return a Gaussian kernel (one tap for next to no blur) and half the size of the patch it needs."""
    kernel = np.ones(1)
    if sigma > 0.1:
        half = max(1, math.ceil(3 * sigma))
        kernel = np.exp(-0.5 * (np.arange(-half, half + 1) / sigma) ** 2)
        kernel /= kernel.sum()
    return kernel, _HALF_PATCH_PX + len(kernel) // 2


@njit(cache=True, error_model="numpy")
def _loop_into(acc: FloatArray, old: FloatArray, new: FloatArray) -> None:
    """Add the area between two polylines that share their ends."""
    for k in range(len(new) - 1):
        add_edge(acc, new[k, 0], new[k, 1], new[k + 1, 0], new[k + 1, 1])
    for k in range(len(old) - 1, 0, -1):
        add_edge(acc, old[k, 0], old[k, 1], old[k - 1, 0], old[k - 1, 1])


@njit(cache=True, error_model="numpy")
def _change(old: FloatArray, new: FloatArray, size: int, kernel: FloatArray) -> FloatArray:
    """Return by how much the ink of each pixel of a square patch changes, blurred."""
    acc = np.zeros((size, size + 1))
    _loop_into(acc, old, new)
    for row in range(size):
        total = 0.0
        for c in range(size):
            total += acc[row, c]
            acc[row, c] = total
    half = len(kernel) // 2
    if half == 0:
        return acc[:, :size].copy()
    across = np.zeros((size, size))
    for row in range(size):
        for c in range(size):
            value = 0.0
            for k in range(-half, half + 1):
                if 0 <= c + k < size:
                    value += kernel[k + half] * acc[row, c + k]
            across[row, c] = value
    out = np.zeros((size, size))
    for row in range(size):
        for c in range(size):
            value = 0.0
            for k in range(-half, half + 1):
                if 0 <= row + k < size:
                    value += kernel[k + half] * across[row + k, c]
            out[row, c] = value
    return out


@njit(cache=True, error_model="numpy")
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
            away += math.hypot(old[j, 0] - old[k, 0], old[j, 1] - old[k, 1])
            k = j
    new[0] = old[0]
    new[len(old) - 1] = old[len(old) - 1]
    return new


@njit(cache=True, error_model="numpy")
def _rounded(old: FloatArray, tip: int, radius: float) -> FloatArray:
    """Return a polyline whose tip is an arc that touches both (straight) sides."""
    ax, ay = old[tip, 0] - old[tip - 1, 0], old[tip, 1] - old[tip - 1, 1]
    bx, by = old[tip + 1, 0] - old[tip, 0], old[tip + 1, 1] - old[tip, 1]
    turn = math.atan2(ax * by - ay * bx, ax * bx + ay * by)
    back = radius * math.tan(abs(turn) / 2)
    out = np.empty((len(old) + 8, 2))
    filled = 0
    sa, sb = math.hypot(ax, ay), math.hypot(bx, by)
    ax, ay, bx, by = ax / sa, ay / sa, bx / sb, by / sb
    for k in range(tip):
        if (old[tip, 0] - old[k, 0]) * ax + (old[tip, 1] - old[k, 1]) * ay > back:
            out[filled] = old[k]
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
            out[filled] = old[k]
            filled += 1
    return out[:filled]


@njit(cache=True, error_model="numpy")
def fit_tip(
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
    for _ in range(_ROUNDS):
        here = _moved(line, tip, dx, dy, reach)
        step = 0.05
        jx = _change(here, _moved(line, tip, dx + step, dy, reach), size, kernel)
        jy = _change(here, _moved(line, tip, dx, dy + step, reach), size, kernel)
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
        length = math.hypot(sx, sy)
        if length > 0.7:
            sx, sy = sx * 0.7 / length, sy * 0.7 / length
        gone = math.hypot(dx + sx, dy + sy)
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
    middle = -1
    # Every third radius first, then those on either side of the best of them.
    for look in range(6 if sharp >= _EXPLAINED else 0):
        k = 1 + 3 * look if look < 4 else middle + 2 * look - 9
        if k < 0 or k >= len(_RADII_PX) or (look > 3 and middle < 0):
            continue
        trial = _rounded(line, tip, _RADII_PX[k])
        if len(trial) < 11:
            continue
        ink = _change(line, trial, size, kernel)
        total = 0.0
        for r in range(size):
            for c in range(size):
                off = rest[r, c] - ink[r, c]
                total += off * off
        if total < best:
            best, radius = total, _RADII_PX[k]
            middle = k if look < 4 else middle
    if best > _CLEARLY * sharp:
        radius = 0.0
    if first < sharp:
        return 0.0, 0.0, radius
    return dx, dy, radius


@njit(cache=True, error_model="numpy")
def _round_tip(
    before: FloatArray, after: FloatArray, left: float, top: float, longest: float
) -> tuple[FloatArray, float]:
    """Return the polyline round the tip between two segments, and how far it reaches on its shorter side.

    Its points are relative to (left, top); the middle one is the tip.
    """
    out = np.empty((2 * _SIDE_POINTS + 1, 2))
    reach = 6.0
    for side in range(2):
        p = after if side else before[::-1]
        size = 0.0
        for k in range(3):
            size += math.hypot(p[k + 1, 0] - p[k, 0], p[k + 1, 1] - p[k, 1])
        most = min(1.0, longest / max(size, 1e-9))
        for k in range(_SIDE_POINTS + 1):
            t = most * k / _SIDE_POINTS
            u = 1.0 - t
            w0, w1, w2, w3 = u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t
            place = _SIDE_POINTS + k if side else _SIDE_POINTS - k
            out[place, 0] = w0 * p[0, 0] + w1 * p[1, 0] + w2 * p[2, 0] + w3 * p[3, 0] - left
            out[place, 1] = w0 * p[0, 1] + w1 * p[1, 1] + w2 * p[2, 1] + w3 * p[3, 1] - top
        end = 2 * _SIDE_POINTS if side else 0
        reach = min(reach, math.hypot(out[end, 0] + left - p[0, 0], out[end, 1] + top - p[0, 1]))
    return out, reach


@njit(cache=True, error_model="numpy")
def _settle_each(
    seen: FloatArray,
    curve: FloatArray,
    tips: AnyArray,
    height: int,
    width: int,
    edges: FloatArray,
    numbers: AnyArray,
    starts: AnyArray,
    kernel: FloatArray,
    most: float,
) -> tuple[BoolArray, FloatArray]:
    """Return which of some tips of a closed curve can be fitted, and the move (x, y) and radius of each.

    All in own pixels. seen: the picture's ink around each, (tips, size, size); edges, numbers, starts: all
    that is drawn, see sort_into_bands.
    """
    size = seen.shape[1]
    half = size // 2
    fits = np.zeros(len(tips), np.bool_)
    found = np.zeros((len(tips), 3))
    for i in range(len(tips)):
        k = tips[i]
        column, row = math.floor(curve[k, 0, 0]), math.floor(curve[k, 0, 1])
        line, reach = _round_tip(curve[k - 1], curve[k], column - half, row - half, _SIDE_PX)
        if reach < _SHORTEST_SIDE_PX:
            continue
        rest = seen[i] - drawn_around(
            row, column, half, height, width, edges, numbers, starts, _BAND_PX, kernel
        )
        repeat_rim(rest, size, row - half, column - half, height, width)
        dx, dy, radius = fit_tip(rest, line, _SIDE_POINTS, reach, kernel, most)
        fits[i] = True
        found[i, 0], found[i, 1], found[i, 2] = dx, dy, radius
    return fits, found
