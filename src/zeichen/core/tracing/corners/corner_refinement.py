"""Corners put where the picture's ink says they are.

Near a corner the boundary is rounded by the pixels, so curves are fitted without it and meet by
extrapolation, which at a slender tip can be off by pixels. But the ink tells more: however it is
blurred, its amount stays. So each tip is moved until the drawing, rendered, has its grey in the same
places as the picture. Where a small round fits the grey better than any sharp tip, the corner is
rounded: it was drawn so.
"""

import math
from collections.abc import Callable
from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np

from zeichen.core.compiled import common, counted
from zeichen.core.fitting.spline import Spline
from zeichen.core.geometry.meeting import pieces_along
from zeichen.core.raster.coverage import coverage
from zeichen.core.raster.ink import Ink
from zeichen.core.tracing.corners.corner_fit import fit_corner
from zeichen.core.tracing.corners.rendered_patches import drawn_around, repeat_rim, sort_into_bands
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# How much of the picture around a tip is compared, to either side, and how long its own sides are drawn for it: longer
# ones meet what else is drawn (our own rules).
_HALF_PATCH_PX = 5
_SIDE_PX = 14.0
# Beside other colours only as far as the tip's own two go on together, mostly.
_LOCAL_SIDE_PX = 9.0
# Either side is a polyline of this many pieces.
_SIDE_POINTS = common(18)
_SHORTEST_SIDE_PX = 1.5
_FURTHEST_PX = 4.0
_LEAST_TURN = math.radians(15.0)
_FLATTEN_PX = 0.02
# So many patches of the picture are looked at in one go.
_TIPS_AT_ONCE = 4096
# Edges of the drawing are looked up by bands of rows this high.
_BAND_PX = 16.0


def refine_corners(
    splines: list[Spline], ink: Ink, *, pixel_px: float, blur_px: float, tolerance_px: float
) -> list[int]:
    """Move the corners of closed splines to where the picture's ink wants them, and round those that were.

    Returns which splines were changed.

    Parameters
    ----------
    splines : list of Spline, px
    ink : Ink
    pixel_px, blur_px : float
        Side of the picture's own pixels, and the blur beside them.
    tolerance_px : float
        How far curves may be from their points.
    """
    own = [spline.curves() / pixel_px for spline in splines]
    tips = [_tips(spline) for spline in splines]
    moves = corner_moves(own, tips, ink, blur=blur_px / pixel_px, flatten=_FLATTEN_PX / pixel_px)
    return [number for number, found in moves.items() if _put(splines[number], found, pixel_px, tolerance_px)]


def corner_moves(
    own: list[FloatArray], tips: list[AnyArray], ink: Ink, *, blur: float, flatten: float
) -> dict[int, dict[int, tuple[float, float, float]]]:
    """Return for each of some closed outlines how its tips move (x, y) and the radius that rounds them, by number.

    All in own pixels. own: each outline's curves, (n, 4, 2); tips: which of them begin at a tip; flatten: how far the
    drawing looked at is from them.
    """
    owner = np.repeat(np.arange(len(own)), [len(each) for each in tips])
    if not len(owner):
        return {}
    starts = np.concatenate([[0], np.cumsum([len(curve) for curve in own])])
    curves = np.concatenate(own)
    corners = np.concatenate(tips)
    after = starts[owner] + corners
    before = np.where(corners == 0, starts[owner + 1], after) - 1
    height, width = ink.grey.shape
    place = curves[after, 0]
    inside = ((place >= 0) & (place < (width, height))).all(axis=1)
    kernel, half = _kernel(blur)
    moves: dict[int, dict[int, tuple[float, float, float]]] = {}
    for some in np.array_split(np.nonzero(inside)[0], math.ceil(len(owner) / _TIPS_AT_ONCE)):
        column, row = np.floor(place[some]).astype(np.int64).T
        own_tips = _Tips(curves, starts, before[some], after[some])
        seen = ink.around(row, column, half)
        fits, found = _settle_each(seen, (height, width), own_tips, kernel, _FURTHEST_PX, flatten)
        for tip, move in zip(some[fits].tolist(), found[fits].tolist(), strict=True):
            moves.setdefault(int(owner[tip]), {})[int(corners[tip])] = tuple(move)
    return moves


def _put(
    spline: Spline,
    found: dict[int, tuple[float, float, float]],
    pixel_px: float,
    tolerance_px: float,
    *,
    all_over: bool = False,
) -> bool:
    """Move corners (x, y) or round them by a radius, in own pixels; returns whether there were any.

    What is near them is fitted anew, or all of the spline: borders between colours lie better then.
    """
    for k, (dx, dy, radius) in found.items():
        if radius == 0.0:
            spline.node[k, 0] += dx * pixel_px
            spline.node[k, 1] += dy * pixel_px
            spline.pinned[k] = True
    moved: list[int] = []
    rounded = False
    # From the last on: rounding a corner adds a node after it.
    for k, (_, _, radius) in sorted(found.items(), reverse=True):
        if radius > 0.0 and spline.round_off(k, radius * pixel_px):
            moved = [k + 1, *(each + 1 for each in moved)]
            rounded = True
        moved.append(k)
    near = None if all_over else moved
    if rounded:
        # Sides that bent towards a corner that was none need not do so any longer.
        spline.straighten(tolerance_px, near=near)
    elif moved:
        spline.refine(near=near)
    return bool(found)


def refine_corners_between(
    spline: Spline, seen: Callable[[int, int, int], FloatArray], *, blur_px: float, tolerance_px: float
) -> bool:
    """Move the corners of one spline to where the two colours beside it want them; returns whether any moved.

    Parameters
    ----------
    spline : Spline, px
        Runs with one colour on its right.
    seen : function of a row, a column and a half size
        Returns the share of the right-hand colour in the square of pixels around, nan where neither is.
    blur_px : float
        The picture's blur beside its pixels.
    tolerance_px : float
        How far curves may be from their points.
    """
    kernel, half = _kernel(blur_px)
    curve = spline.curves()
    found: dict[int, tuple[float, float, float]] = {}
    for k in _tips(spline).tolist():
        if spline.pinned[k]:
            continue
        tip = spline.node[k]
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
        found[k] = fit_corner(np.ascontiguousarray(rest), line, _SIDE_POINTS, reach, kernel, _FURTHEST_PX)
    return _put(spline, found, 1.0, tolerance_px, all_over=True)


def _tips(spline: Spline) -> AnyArray:
    """Return the corners of a spline that turn enough for their place to be seen in the ink."""
    return np.nonzero(spline.corner[: spline.count] & (spline.turns() > _LEAST_TURN))[0]


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


@lru_cache(maxsize=16)
def _kernel(sigma: float) -> tuple[FloatArray, int]:
    """Return a Gaussian kernel (one tap for next to no blur) and half the size of the patch it needs."""
    kernel = np.ones(1)
    if sigma > 0.1:
        half = max(1, math.ceil(3 * sigma))
        kernel = np.exp(-0.5 * (np.arange(-half, half + 1) / sigma) ** 2)
        kernel /= kernel.sum()
    return kernel, _HALF_PATCH_PX + len(kernel) // 2


@counted(cache=True)
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


class _Tips(NamedTuple):
    """Tips of a drawing in own pixels: before, after: which of its curves (n, 4, 2) lead there and away.

    first: where each spline's curves start.
    """

    curves: FloatArray
    first: AnyArray
    before: AnyArray
    after: AnyArray


@counted(cache=True)
def _settle_each(
    seen: FloatArray,
    picture: tuple[int, int],
    tips: _Tips,
    kernel: FloatArray,
    most: float,
    tolerance: float,
) -> tuple[BoolArray, FloatArray]:
    """Return which of some tips can be fitted, and the move (x, y) and radius of each.

    All in own pixels. seen: the ink around each, (tips, size, size), in a picture of some height and width; tolerance:
    how far the drawing looked at is from its curves.
    """
    curves, first, before, after = tips
    height, width = picture
    start, end, _, _ = pieces_along(curves, first, np.ones(len(first) - 1, np.bool_), tolerance)
    edges = np.empty((len(start), 4))
    for k in range(len(start)):
        edges[k, 0], edges[k, 1], edges[k, 2], edges[k, 3] = start[k, 0], start[k, 1], end[k, 0], end[k, 1]
    drawn = sort_into_bands(edges, _BAND_PX, height, width)
    size = seen.shape[1]
    half = size // 2
    fits = np.zeros(len(after), np.bool_)
    found = np.zeros((len(after), 3))
    for i in range(len(after)):
        tip = curves[after[i], 0]
        column, row = math.floor(tip[0]), math.floor(tip[1])
        line, reach = _round_tip(curves[before[i]], curves[after[i]], column - half, row - half, _SIDE_PX)
        if reach < _SHORTEST_SIDE_PX:
            continue
        rest = seen[i] - drawn_around(drawn, row, column, half, kernel)
        repeat_rim(rest, size, row - half, column - half, height, width)
        dx, dy, radius = fit_corner(rest, line, _SIDE_POINTS, reach, kernel, most)
        fits[i] = True
        found[i, 0], found[i, 1], found[i, 2] = dx, dy, radius
    return fits, found
