"""From one closed contour to a closed run of few cubics: corners, then the best breaks between them.

Between two corners the breaks are chosen together by dynamic programming over evenly spaced
candidates: every candidate pair that one line or one cubic joins within the tolerance is an edge,
and the cheapest chain wins (about one unit a segment, less for a straight line, a little more the
worse it fits). Joints that are not corners share one tangent.
"""

import numpy as np

from zeichen.core.fitting.chain import Chain
from zeichen.core.fitting.draft import draft
from zeichen.core.fitting.fillets import make_arcs
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.fitting.true_shapes import make_circle, make_ellipse
from zeichen.core.geometry.drawing import Path
from zeichen.core.values import FloatArray

# Of the tolerance, how much a curve may move to become a true arc.
_ARC_SHARE = 0.25


def fit_contour(points: FloatArray, settings: FitSettings) -> Path:
    """Return the closed Bézier path along a closed contour; see fit_chain."""
    return Path(fit_chain(points, settings).curves())


def fit_chain(points: FloatArray, settings: FitSettings, weight: FloatArray | None = None) -> Chain:
    """Return a closed chain of lines and cubics along a closed contour.

    Parameters
    ----------
    points : (n, 2) float array, px
        At least three points, the last not repeating the first.
    settings : FitSettings
    weight : (n,) float array, optional
        What say each point has.
    """
    chain, smooth = _drafted(points, settings, weight, closed=True, hushed=True)
    _finish(chain, settings)
    if smooth:
        within = max(0.05, 3.0 * settings.noise_px, 0.25 * settings.allowed_px)
        chain.exact = make_circle(chain, within) or make_ellipse(chain, within)
    return chain


def fit_open(
    points: FloatArray,
    settings: FitSettings,
    *,
    pinned: tuple[bool, bool] = (True, True),
    hushed: bool = True,
    weight: FloatArray | None = None,
) -> Chain:
    """Return an open chain along an open polyline, from its first to its last point.

    Parameters
    ----------
    points : (n, 2) float array, px
        The ends are where the chain starts and ends.
    settings : FitSettings
    pinned : (bool, bool)
        Whether the chain must keep its start and its end.
    hushed : bool
        Points near the ends are moved by what meets there and have little say.
    weight : (n,) float array, optional
        What say each point has.
    """
    chain, _ = _drafted(points, settings, weight, closed=False, hushed=hushed)
    chain.pinned[0], chain.pinned[chain.count - 1] = pinned
    _finish(chain, settings)
    return chain


def _drafted(
    points: FloatArray, settings: FitSettings, weight: FloatArray | None, *, closed: bool, hushed: bool
) -> tuple[Chain, bool]:
    """Return a chain as its corners and the best breaks between them make it, and whether it is all smooth."""
    points = np.ascontiguousarray(points, dtype=np.float64)
    n = len(points)
    say = np.ones(n) if weight is None else weight.copy()
    chain = Chain(points, say, closed=closed, room=n + 8, calm=closed and settings.calm)
    chain.count, smooth = draft(chain.arrays(), hushed, settings.spans)
    return chain, smooth


def _finish(chain: Chain, settings: FitSettings) -> None:
    """Fit all joints of a chain together and make true arcs of what nearly are some."""
    tolerance = settings.allowed_px
    chain.polish(tolerance)
    make_arcs(chain, 0.5 * tolerance, _ARC_SHARE * tolerance)
