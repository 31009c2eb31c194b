"""The path along a stroke: fitted between its corners, straight over meetings where nothing tells its way."""

import math
from itertools import pairwise

import numpy as np

from zeichen.core.fitting.chain import Chain
from zeichen.core.fitting.curve_fit import fit_chain, fit_open
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.fitting.local import AHEAD, BACK, STRAIGHT, cumulative_length, side_estimate
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.lines import where_lines_meet
from zeichen.core.tracing.outlines.sound_fit import following_points
from zeichen.core.tracing.strokes.meetings import Stroke
from zeichen.core.tracing.strokes.pen_room import rooms
from zeichen.core.tracing.strokes.round_corners import with_round_corners
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Points further apart than this (px, widths) have a gap between them ...
_LEAST_GAP_PX = 2.5
_LEAST_GAP = 0.25
# ... which the pen crossed straight if a curve through the points would be longer by this share of it.
_DETOUR = 0.06
# Or if it ran over paper: where curves are looked at, and what is no ink, px.
_SEEN_AT = np.linspace(0.0, 1.0, 17)
_OUTSIDE_PX = 0.5
# Up to where a corner's ink moves a line's middle, and up to where its sides are looked at, widths.
_BESIDE, _SIDE = 0.5, 1.5
# Sides are straight whose points are no further off a line, RMS; they turn by more than this sine and meet no further
# off than so many widths. Where those of a slender tip (cosine between them) meet they hardly tell.
_STRAIGHT_PX, _LEAST_TURN, _AS_FAR, _SLENDER = 0.15, 0.3, 0.4, 0.8
# A segment this much longer than the way along its points (times, px) went astray between two of them.
_OVERLONG, _OVERLONG_PX = 1.15, 2.0


def fitted_stroke(stroke: Stroke, fit: FitSettings, half: FloatArray, ink: FloatArray) -> Path:
    """Return the path along a stroke; between its corners each part is fitted alone.

    half, ink: (height, width), how far each pixel is from the nearest paper, px, and how much ink it holds.
    """
    return with_round_corners(_fitted(stroke, fit, half), stroke.corners, stroke.width, ink)


def _fitted(stroke: Stroke, fit: FitSettings, half: FloatArray) -> Path:
    points = _spaced(stroke.points, stroke.closed).copy()
    closed = stroke.closed
    at = sorted(set(stroke.corners_at(points)))
    plain = _put_where_sides_meet(points, at, closed, stroke.width)
    if closed and at:
        points = np.vstack([points[at[0] :], points[: at[0] + 1]])
        plain = {k - at[0] for k in plain}
        if 0 in plain:
            plain.add(len(points) - 1)
        at = [k - at[0] for k in at]
    elif closed and len(points) >= 6:
        return Path(fit_chain(points, fit).curves())
    cuts = [0, *(k for k in at if 0 < k < len(points) - 1), len(points) - 1]
    parts = []
    for a, b in pairwise(cuts):
        if b > a:
            corners = (a in plain, b in plain)
            parts.append(_open_part(points[a : b + 1], corners, fit, half, stroke.width))
    if not parts:
        parts = [_open_part(points, (False, False), fit, half, stroke.width)]
    return Path(np.concatenate(parts), closed=closed and len(points) > 2)


def _put_where_sides_meet(points: FloatArray, at: list[int], closed: bool, width: float) -> set[int]:
    """Put points at corners between straight sides where those meet; returns which those are.

    at: the numbers of those at corners. The sides are seen from beyond where the corner's ink moves the middle.
    """
    plain: set[int] = set()
    length = cumulative_length(points) if at else np.zeros(0)
    come, go = np.zeros((2, 5))
    for k in at:
        if not closed and not width < length[k] < length[len(points) - 1] - width:
            continue
        # A side that ends at another corner is not seen so far.
        if any(abs(length[k] - length[other]) < _SIDE * width for other in at if other != k):
            continue
        if not (
            side_estimate(points, length, k, BACK, _BESIDE * width, _SIDE * width, STRAIGHT, closed, come)
            and side_estimate(points, length, k, AHEAD, _BESIDE * width, _SIDE * width, STRAIGHT, closed, go)
        ):
            continue
        cross = float(come[2] * go[3] - come[3] * go[2])
        slender = float(come[2:4] @ go[2:4]) > _SLENDER
        if max(come[4], go[4]) > _STRAIGHT_PX or abs(cross) < _LEAST_TURN or slender:
            continue
        place = where_lines_meet(come[:2], come[2:4], go[:2], go[2:4])
        if math.dist(place, points[k]) < _AS_FAR * width:
            points[k] = place
            plain.add(k)
    return plain


def _say_beside_corners(
    points: FloatArray, corners: tuple[bool, bool], fit: FitSettings, width: float
) -> FloatArray | None:
    """Return what say a part's points have: little beside plain corners, whose ink moves the middle of the line."""
    if not any(corners):
        return None
    along = bezier.lengths_along(points)
    beside = min(_BESIDE * width, 0.3 * float(along[-1]))
    near = np.zeros(len(points), np.bool_)
    if corners[0]:
        near |= along < beside
    if corners[1]:
        near |= along[-1] - along < beside
    return np.where(near, fit.whisper, 1.0)


def _open_part(
    points: FloatArray, corners: tuple[bool, bool], fit: FitSettings, half: FloatArray, width: float
) -> FloatArray:
    """Return the curves along a part of a stroke; corners: whether it starts and ends at a plain one."""
    if len(points) < 4:
        ends = points if len(points) > 1 else np.vstack([points[0] - 0.05, points[0] + 0.05])
        return bezier.line_segments(ends[[0, -1]])
    step = _steps(points)
    say = _say_beside_corners(points, corners, fit, width)
    chain = fit_open(points, fit, hushed=False, weight=say)
    gaps = step > max(_LEAST_GAP_PX, _LEAST_GAP * width)
    curves = chain.curves()
    if say is not None and _turns_back(curves, points):
        chain = fit_open(points, fit, hushed=False)
        curves = chain.curves()
    if gaps.any():
        at, way = _ways(chain, step)
        passed = np.concatenate([[0], np.cumsum(gaps)])
        over = passed[at[1:]] > passed[at[:-1]]
        detour = float((bezier.arc_lengths(curves[over]) - way[over]).sum())
        winds = detour > _DETOUR * float(step[gaps].sum()) + 0.2
        if winds or _over_paper(curves, half):
            points, gaps = _bridged(points, gaps)
            # Bridges begin at corners: all points must speak, or nothing holds the curve there.
            chain, step = fit_open(points, fit, hushed=False), _steps(points)
            curves = chain.curves()
            if over_paper := _over_paper(curves, half):
                return following_points(curves, points, over_paper)
    if astray := _overlong(chain, curves, step, gaps):
        chain.start_over(astray, fit.allowed_px, keep_corners=True)
        curves = chain.curves()
        if astray := _overlong(chain, curves, step, gaps):
            return following_points(curves, points, set(astray))
    return curves


def _turns_back(curves: FloatArray, points: FloatArray) -> bool:
    """Return whether curves leave or reach the ends of some points the wrong way round."""
    leaving, reaching = bezier.end_directions(curves)
    there = points[2] - points[0], points[-1] - points[-3]
    return float(leaving[0] @ there[0]) < 0.0 or float(reaching[-1] @ there[1]) < 0.0


def _over_paper(curves: FloatArray, half: FloatArray) -> set[int]:
    """Return which curves run over paper somewhere."""
    places = bezier.evaluate(curves, _SEEN_AT).reshape(-1, 2)
    outside = rooms(half, np.ascontiguousarray(places)) < _OUTSIDE_PX
    return set(np.nonzero(outside.reshape(len(curves), -1).any(axis=1))[0].tolist())


def _ways(chain: Chain, step: FloatArray) -> tuple[AnyArray, FloatArray]:
    """Return at which point each segment of an open chain begins and the last ends, and how long its points' way is."""
    along = np.concatenate([[0.0], np.cumsum(step)])
    at = np.minimum(chain.first[: chain.count], len(step))
    at[0], at[-1] = 0, len(step)
    return at, along[at[1:]] - along[at[:-1]]


def _overlong(chain: Chain, curves: FloatArray, step: FloatArray, gaps: BoolArray) -> list[int]:
    """Return which segments of an open chain, gaps aside, are far longer than the steps between their points."""
    sides = curves[:, 1:] - curves[:, :-1]
    whole = curves[:, 3] - curves[:, 0]
    polygon, chord = np.hypot(sides[..., 0], sides[..., 1]).sum(axis=1), np.hypot(whole[:, 0], whole[:, 1])
    # About half-way between the two is a curve's length.
    if 0.5 * float(polygon.sum() + chord.sum()) < float(step.sum()) + 0.5 * _OVERLONG_PX:
        return []
    at, way = _ways(chain, step)
    # A corner may lie aside of the point where its segment begins.
    most = _OVERLONG * np.maximum(way, chord) + _OVERLONG_PX
    return [
        int(k)
        for k in np.nonzero(polygon > most)[0]
        if not gaps[at[k] : at[k + 1]].any()
        and not chain.line[k]
        and bezier.arc_lengths(curves[k : k + 1])[0] > most[k]
    ]


def _spaced(points: FloatArray, closed: bool) -> FloatArray:
    """Return points about one pixel apart: gaps over meetings are bridged, doubled points dropped."""
    ring = np.vstack([points, points[:1]]) if closed else points
    apart = _steps(ring) > 1e-6
    if not apart.all():
        ring = ring[np.concatenate([[True], apart])]
    return np.asarray(ring[:-1] if closed and len(ring) > 1 else ring)


def _steps(points: FloatArray) -> FloatArray:
    """Return how far each of some points but the first is from the one before it."""
    step = points[1:] - points[:-1]
    return np.asarray(np.hypot(step[:, 0], step[:, 1]))


def _bridged(points: FloatArray, gaps: BoolArray) -> tuple[FloatArray, BoolArray]:
    """Return points with others, a pixel apart, put in straight over gaps, and which steps are over gaps.

    gaps: after which points they are.
    """
    out: list[FloatArray] = []
    over: list[BoolArray] = []
    first = 0
    for gap in np.nonzero(gaps)[0]:
        a, b = points[gap], points[gap + 1]
        t = np.linspace(0.0, 1.0, max(2, round(math.hypot(*(b - a)))) + 1)[1:-1, None]
        out += [points[first : gap + 1], a + t * (b - a)]
        over += [np.zeros(gap - first, np.bool_), np.ones(len(t) + 1, np.bool_)]
        first = int(gap) + 1
    rest = points[first:]
    return np.vstack([*out, rest]), np.concatenate([*over, np.zeros(len(rest) - 1, np.bool_)])
