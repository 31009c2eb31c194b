"""From one closed contour to a closed run of few cubics: corners, then the best breaks between them.

Between two corners the breaks are chosen together by dynamic programming over evenly spaced
candidates: every candidate pair that one line or one cubic joins within the tolerance is an edge,
and the cheapest spline wins (about one unit a segment, less for a straight line, a little more the
worse it fits). Joints that are not corners share one tangent.
"""

import numpy as np

from zeichen.core.fitting.arcs import make_arcs
from zeichen.core.fitting.conics import make_circle, make_ellipse
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.fitting.initial_spline import initial_spline
from zeichen.core.fitting.spline import Spline
from zeichen.core.geometry.drawing import Path
from zeichen.core.values import FloatArray

# Of the tolerance, how much a curve may move to become a true arc.
_ARC_SHARE = 0.25


def fit_contour(points: FloatArray, settings: FitSettings) -> Path:
    """Return the closed Bézier path along a closed contour; see fit_chain."""
    return Path(fit_spline(points, settings).curves())


def fit_spline(points: FloatArray, settings: FitSettings, weight: FloatArray | None = None) -> Spline:
    """Return a closed spline of lines and cubics along a closed contour.

    Parameters
    ----------
    points : (n, 2) float array, px
        At least three points, the last not repeating the first.
    settings : FitSettings
    weight : (n,) float array, optional
        What say each point has.
    """
    spline, smooth = _initial(points, settings, weight, closed=True, down_weighted=True)
    _finish(spline, settings)
    if smooth:
        within = max(0.05, 3.0 * settings.noise_px, 0.25 * settings.allowed_px)
        spline.exact = make_circle(spline, within) or make_ellipse(spline, within)
    return spline


def fit_open(
    points: FloatArray,
    settings: FitSettings,
    *,
    pinned: tuple[bool, bool] = (True, True),
    down_weighted: bool = True,
    weight: FloatArray | None = None,
) -> Spline:
    """Return an open spline along an open polyline, from its first to its last point.

    Parameters
    ----------
    points : (n, 2) float array, px
        The ends are where the spline starts and ends.
    settings : FitSettings
    pinned : (bool, bool)
        Whether the spline must keep its start and its end.
    down_weighted : bool
        Points near the ends are moved by what meets there and have little say.
    weight : (n,) float array, optional
        What say each point has.
    """
    spline, _ = _initial(points, settings, weight, closed=False, down_weighted=down_weighted)
    spline.pinned[0], spline.pinned[spline.count - 1] = pinned
    _finish(spline, settings)
    return spline


def _initial(
    points: FloatArray, settings: FitSettings, weight: FloatArray | None, *, closed: bool, down_weighted: bool
) -> tuple[Spline, bool]:
    """Return a spline as its corners and the best breaks between them make it, and whether it is all smooth."""
    points = np.ascontiguousarray(points, dtype=np.float64)
    n = len(points)
    weights = np.ones(n) if weight is None else weight.copy()
    spline = Spline(points, weights, closed=closed, room=n + 8, aligned=closed and settings.aligned)
    spline.count, smooth = initial_spline(spline.arrays(), down_weighted, settings.spans)
    return spline, smooth


def _finish(spline: Spline, settings: FitSettings) -> None:
    """Fit all joints of a spline together and make true arcs of what nearly are some."""
    tolerance = settings.allowed_px
    spline.polish(tolerance)
    make_arcs(spline, 0.5 * tolerance, _ARC_SHARE * tolerance)
