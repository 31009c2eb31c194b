"""The tones beside an edge where they are not the picture's two: a dark figure with light areas of its own."""

import numpy as np

from zeichen.core.compiled import counted
from zeichen.core.raster.ink import ink_at
from zeichen.core.values import AnyArray, FloatArray

# How far beyond the edge's own blur tones are looked at, px: in so many places, half a pixel apart.
_BESIDE_PX = 1.6
_PLACES = 3
# Less contrast than this share of the picture's own is no edge to be told from noise.
_LEAST_CONTRAST = 0.3
# Greys further apart than this share of the contrast are not one tone.
_UNEVEN = 0.1
# Tones of points so many further on are believed where there are none.
_FAR = 6
# And what is nearer than this to the picture's own tones is the same, compressed or blurred.
_OTHER = 0.12


def tones_beside(grey: AnyArray, points: FloatArray, normal: FloatArray, blur_px: float) -> FloatArray:
    """Return the grey inwards and outwards of boundary points, shape (n, 2); nan where it is none: no even area.

    Parameters
    ----------
    grey : (height, width) array
    points, normal : (n, 2) float arrays, px
        The normals point into the ink.
    blur_px : float
        Standard deviation of the blur beside the pixels' squares.
    """
    values = _beside(grey.astype(np.float64), points, normal, _BESIDE_PX + 2.0 * blur_px)
    tones = values.mean(axis=2)
    even = np.ptp(values, axis=2) < _UNEVEN * np.abs(tones[:, :1] - tones[:, 1:])
    return np.where(even.all(axis=1)[:, None], tones, np.nan)


def with_gaps_bridged(tones: FloatArray) -> FloatArray:
    """Return tones (n,) along contours with short runs of none taken from those around; long ones stay none."""
    known = np.nonzero(~np.isnan(tones[:, 0]))[0]
    if not len(known):
        return tones
    every = np.arange(len(tones))
    out = np.column_stack([np.interp(every, known, tones[known, side]) for side in (0, 1)])
    after = np.searchsorted(known, every)
    ahead = known[np.minimum(after, len(known) - 1)] - every
    behind = every - known[np.maximum(after - 1, 0)]
    out[np.minimum(np.abs(ahead), np.abs(behind)) > _FAR] = np.nan
    return out


def plainly_other(tones: FloatArray, ink: float, paper: float) -> AnyArray:
    """Return where tones are an edge the same way round as the picture's own, but plainly another."""
    share = (tones - paper) / (ink - paper)
    off = np.maximum(np.abs(share[:, 0] - 1.0), np.abs(share[:, 1]))
    return np.asarray((share[:, 0] - share[:, 1] > _LEAST_CONTRAST) & (off > _OTHER))


@counted(cache=True)
def _beside(grey: FloatArray, points: FloatArray, normal: FloatArray, first: float) -> FloatArray:
    height, width = grey.shape
    out = np.zeros((len(points), 2, _PLACES))
    for k in range(len(points)):
        for side in range(2):
            sign = 1.0 if side == 0 else -1.0
            for place in range(_PLACES):
                away = sign * (first + 0.5 * place)
                x = min(max(points[k, 0] + away * normal[k, 0], 0.5), width - 0.5)
                y = min(max(points[k, 1] + away * normal[k, 1], 0.5), height - 0.5)
                out[k, side, place] = ink_at(grey, x, y)
    return out
