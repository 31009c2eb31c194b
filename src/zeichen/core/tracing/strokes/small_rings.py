"""Small rings of thin lines, such as eyes: too few pixels to tell their middle, so they are looked at enlarged."""

import math
from collections.abc import Callable
from dataclasses import replace

import cv2
import numpy as np

from zeichen.core.tracing.strokes.meetings import Stroke
from zeichen.core.tracing.strokes.pen_turn import Corner
from zeichen.core.tracing.strokes.skeleton import Branch, Skeleton, half_widths, skeleton_of
from zeichen.core.values import FloatArray

# Rings of lines this thin, px, and no longer all round than this, widths, are enlarged to lines so wide, px.
_THIN_PX, _LONGEST, _WIDE_PX = 9.0, 10.0, 13.0
# So much around a ring's middle is cut out, widths and px.
_AROUND, _AROUND_PX = 1.0, 2


def enlarged_rings(
    ink: FloatArray, skeleton: Skeleton, strokes_of: Callable[[FloatArray, Skeleton], list[Stroke]]
) -> tuple[list[Stroke], Skeleton]:
    """Return the strokes of a drawing's small rings, and its skeleton without them.

    Parameters
    ----------
    ink : (height, width) float array
        How much ink each pixel holds.
    skeleton : Skeleton
        Of the drawing.
    strokes_of : function
        Returns the strokes of a picture's ink with some skeleton.
    """
    width = skeleton.width_px
    if width >= _THIN_PX:
        return [], skeleton
    left: list[Branch] = []
    found: list[Stroke] = []
    for piece in _pieces(skeleton):
        strokes = _ring(ink, piece, width, strokes_of) if _is_small_ring(piece, width) else []
        found += strokes
        left += [] if strokes else piece
    return found, replace(skeleton, branches=left)


def _pieces(skeleton: Skeleton) -> list[list[Branch]]:
    """Return the branches of a skeleton that hang together."""
    at: dict[int, int] = {}
    pieces: dict[int, list[Branch]] = {}
    for number, branch in enumerate(skeleton.branches):
        joined = [branch]
        met = {at[knot] for knot in (branch.start, branch.end) if knot in at}
        for other in met:
            joined += pieces.pop(other)
        pieces[number] = joined
        for knot in {knot for b in joined for knot in (b.start, b.end) if knot >= 0}:
            at[knot] = number
    return list(pieces.values())


def _is_small_ring(piece: list[Branch], width: float) -> bool:
    """Return whether branches are short and go round about."""
    knots = {knot for branch in piece for knot in (branch.start, branch.end) if knot >= 0}
    free = sum((branch.start < 0) + (branch.end < 0) for branch in piece)
    round_about = piece[0].loop or len(piece) >= len(knots) + free
    return round_about and sum(len(branch.points) for branch in piece) < _LONGEST * width


def _ring(
    ink: FloatArray,
    piece: list[Branch],
    width: float,
    strokes_of: Callable[[FloatArray, Skeleton], list[Stroke]],
) -> list[Stroke]:
    """Return the strokes of one ring."""
    around = _AROUND * width + _AROUND_PX
    points = np.concatenate([branch.points for branch in piece])
    left, top = np.maximum(np.floor(points.min(axis=0) - around), 0).astype(int).tolist()
    right, bottom = np.ceil(points.max(axis=0) + around).astype(int).tolist()
    part = ink[top:bottom, left:right]
    _, labels = cv2.connectedComponents((part > 0.5).astype(np.uint8), connectivity=8)
    x, y = (points[0] - (left, top)).astype(int).tolist()
    own = cv2.dilate((labels == labels[y, x]).astype(np.uint8), np.ones((3, 3), np.uint8))
    times = math.ceil(_WIDE_PX / width)
    large = cv2.resize(np.where(own, part, 0.0), None, fx=times, fy=times, interpolation=cv2.INTER_CUBIC)
    large = np.clip(large, 0.0, 1.0)
    mask = large > 0.5
    strokes = strokes_of(large, skeleton_of(mask, half_widths(mask), width_px=times * width))
    shift = np.array([left, top])
    return [
        replace(
            stroke,
            points=stroke.points / times + shift,
            width=stroke.width / times,
            corners=[Corner(c.place / times + shift, c.radius / times) for c in stroke.corners],
        )
        for stroke in strokes
    ]
