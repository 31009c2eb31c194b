"""Short dashes: pieces of a drawing hardly longer than the pen is wide, whose skeleton says nothing."""

from dataclasses import replace

import cv2
import numpy as np

from zeichen.core.tracing.strokes.meetings import Stroke
from zeichen.core.tracing.strokes.skeleton import Skeleton
from zeichen.core.tracing.strokes.stroke_middle import rim_along
from zeichen.core.values import AnyArray, FloatArray

# Pieces that reach no further than so many line widths are looked at: the ends of longer ones can be told.
_SHORT = 2.4
# They are dashes if they are this wide, line widths, and at least so much longer than wide, their own widths.
_WIDTHS = (0.6, 1.4)
_LONGER = 0.3
# And no more than this share of their ink is further outside than this.
_OUTSIDE, _OUTSIDE_PX = 0.16, 0.5


def short_dashes(
    mask: AnyArray, ink: FloatArray, skeleton: Skeleton, smallest_px: int
) -> tuple[list[Stroke], AnyArray, Skeleton]:
    """Return the short dashes of a drawing, the mask of the rest, and its skeleton.

    Parameters
    ----------
    mask : (height, width) bool array
        True on the lines.
    ink : (height, width) float array
        How much ink each pixel holds.
    skeleton : Skeleton
        Of the mask.
    smallest_px : int
        How far the smallest piece of the mask reaches.
    """
    width = skeleton.width_px
    if smallest_px >= _SHORT * width:
        return [], mask, skeleton
    _, labels, stats, middles = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    strokes: list[Stroke] = []
    gone: list[int] = []
    for number in range(1, len(stats)):
        left, top, wide, high, _ = stats[number].tolist()
        if max(wide, high) >= _SHORT * width:
            continue
        piece = labels[top : top + high, left : left + wide] == number
        dash = _dash(piece, ink, left, top, middles[number] + 0.5, width)
        if dash is not None:
            strokes.append(dash)
            gone.append(number)
    if not gone:
        return [], mask, skeleton
    dashed = np.isin(labels, gone)
    branches = [
        branch
        for branch in skeleton.branches
        if not dashed[int(branch.points[0, 1]), int(branch.points[0, 0])]
    ]
    return strokes, mask & ~dashed, replace(skeleton, branches=branches)


def _dash(
    piece: AnyArray, ink: FloatArray, left: int, top: int, middle: FloatArray, width: float
) -> Stroke | None:
    """Return the stroke along a piece of a mask, if it is as wide as a line and longer than wide."""
    rows, columns = np.nonzero(piece)
    x, y = columns + left + 0.5 - middle[0], rows + top + 0.5 - middle[1]
    turn = 0.5 * np.arctan2(2.0 * float(x @ y), float(x @ x) - float(y @ y))
    way = np.array([np.cos(turn), np.sin(turn)])
    across = np.array([-way[1], way[0]])
    reach = [
        rim_along(ink, float(middle[0]), float(middle[1]), float(d[0]), float(d[1]), 2.0 * _SHORT * width)
        for d in (way, -way, across, -across)
    ]
    own = reach[2] + reach[3]
    length = reach[0] + reach[1] - own
    if min(reach) < 0.0 or not _WIDTHS[0] * width < own < _WIDTHS[1] * width or length < _LONGER * own:
        return None
    # A dash fills the round-ended bar of its length and width; what is much less or more has another form.
    bar = own * length + np.pi / 4 * own * own
    if not 0.85 * bar < len(rows) < 1.3 * bar:
        return None
    aside = (reach[2] - reach[3]) / 2
    start, end = -(reach[1] - own / 2), reach[0] - own / 2
    along = x * way[0] + y * way[1]
    off = np.hypot(x * across[0] + y * across[1] - aside, along - np.clip(along, start, end))
    # Cut square it has corners beside that bar. A bent one has far more.
    if np.count_nonzero(off > own / 2 + _OUTSIDE_PX) > _OUTSIDE * len(rows):
        return None
    ends = middle + across * aside + np.outer([start, end], way)
    return Stroke(ends, False, float(own))
