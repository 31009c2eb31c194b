"""By which of two ways a line ran into another: the one that bends less, if the ink is for it."""

import math

import numpy as np

from zeichen.core.compiled import uncounted
from zeichen.core.fitting.chain_edit import wrapped
from zeichen.core.tracing.strokes.pen_ink import InkWindow
from zeichen.core.values import FloatArray

# Of a run so much is looked at, and a piece of it at once; widths.
_KNOWN, _PIECE = 1.0, 0.25
# A way that bends by so much more is doubted.
_DOUBTFUL_DEG = 8.0
# Ink further than this from the ends belongs to something else; so much of the run is drawn, with few points; widths.
_AROUND, _DRAWN = 0.8, 3.0
_EVERY = 2


def bends_less(
    run: FloatArray,
    followed: FloatArray,
    onwards: FloatArray,
    others: FloatArray,
    ink: FloatArray,
    width: float,
) -> bool:
    """Return whether a line ran into another the way it was bending rather than as its rims were followed.

    Where another line's rim was followed instead of its own, a line seems to swerve just before it ends, and the ink
    of a pen that swerved is not there.

    Parameters
    ----------
    run : (n, 2) float array, px
        From the line's end on.
    followed, onwards : (n, 2) float arrays, px
        Either way from there, to a place on the other line.
    others : (m, 2) float array, px
        Points of the lines near there; nan between two of them.
    ink : (height, width) float array
        How much ink each pixel holds.
    width : float, px
        Of the line.
    """
    near = np.ascontiguousarray(run[: math.ceil(_KNOWN * width)])
    pace = max(1, round(_PIECE * width))
    bends = [_bending(near, np.ascontiguousarray(way), pace) for way in (followed, onwards)]
    if bends[0] < bends[1] + _DOUBTFUL_DEG:
        return False
    ends = np.stack([run[0], followed[-1], onwards[-1]])
    low, high = ends.min(axis=0) - _AROUND * width, ends.max(axis=0) + _AROUND * width
    window = InkWindow(ink, width, low, high, [others, run[: math.ceil(_DRAWN * width) : _EVERY]])
    off = [window.off(np.concatenate([run[:1], way])) for way in (followed, onwards)]
    return off[1] < off[0]


@uncounted(cache=True)
def _bending(run: FloatArray, way: FloatArray, pace: int) -> float:
    """Return by how many degrees a run, whose first point is its end, and its way on turn, left and right alike.

    pace: so many of their points make a piece.
    """
    total, before = 0.0, math.nan
    known = len(run)
    last = known + len(way) - 1
    x, y = run[known - 1, 0], run[known - 1, 1]
    k = 0
    while k < last:
        k = min(k + pace, last)
        place = run[known - 1 - k] if k < known else way[k - known]
        dx, dy = place[0] - x, place[1] - y
        x, y = place[0], place[1]
        if abs(dx) + abs(dy) < 0.3:
            continue
        angle = math.atan2(dy, dx)
        if not math.isnan(before):
            total += math.degrees(abs(wrapped(angle - before)))
        before = angle
    return total
