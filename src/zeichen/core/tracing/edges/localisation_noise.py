"""By how much the points of one border err, from how they lie among their neighbours."""

import math

import numpy as np

from zeichen.core.tracing.edges.contour_normals import from_bends, normals
from zeichen.core.values import FloatArray, value_below

# Errors that neighbours share weigh more than their size says.
_SHARED_ERROR = 2.0
_MOST_SHARED = 1.9
# A run bends where chords of so many points turn by more (tangent), and tells nothing so many points beside that.
_BEND_PACE, _BEND, _BESIDE_BEND = 4, math.tan(math.radians(20.0)), 8
# Points err by no more than so many times what those tell, and this, px: thin gaps beside a border move them so far.
_BEYOND_PLAIN, _BEYOND_PLAIN_PX = 2.5, 0.1
# At least so many points, and such a share of them, must tell.
_LEAST_PLAIN, _LEAST_SHARE = 10, 0.15
# Points further than this from the parabola through their neighbours lie at a corner.
_CORNER_OFF_PX = 0.35


def noise_along(points: FloatArray, *, closed: bool) -> float:
    """Return the typical error of a point of one run (n, 2), px: neighbours may share their error over some pixels.

    Lossy compression moves whole stretches of an edge alike. A window of twice the usual size sees that,
    but takes tight bends for noise; so no more than a few times the usual estimate is believed, nor than what points
    far from bends tell. Edges along the rows of pixels are often exact where slanted ones are not: the worse part
    counts, but corners do not.
    """
    starts, loop = np.array([0, len(points)]), np.array([closed])
    every = np.arange(len(points))
    near, far = (np.abs(normals(points, starts, loop, window, every)[2]) for window in (4.0, 8.0))
    plain = from_bends(points, closed, _BEND_PACE, _BEND) > _BESIDE_BEND
    if plain.sum() < max(_LEAST_PLAIN, _LEAST_SHARE * len(points)):
        # Bends all along: what is seen from close by is all there is.
        most = _SHARED_ERROR * 0.84 * value_below(near, 0.5)
    else:
        most = _BEYOND_PLAIN * _shared_error(near[plain], far[plain])
    return min(_shared_error(near, far), most + _BEYOND_PLAIN_PX)


def _shared_error(near: FloatArray, far: FloatArray) -> float:
    """Return the error of points that lie so far off what a narrow and a wide window see, px."""
    near, far = (off[off < _CORNER_OFF_PX] for off in (near, far))
    if not len(near) or not len(far):
        return 0.0
    typical, wide = (value_below(off, 0.8) for off in (near, far))
    shared = min(max(wide / max(typical, 1e-9), 1.0), _MOST_SHARED)
    return _SHARED_ERROR * shared * 0.84 * min(wide, 3.0 * typical)
