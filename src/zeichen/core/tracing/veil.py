"""The veil: how far the drawing lies off the picture, place by place, with its sign."""

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.values import FloatArray

_SAMPLE_PX = 0.5


@dataclass(frozen=True, slots=True)
class Veil:
    """Signed distances of picture boundary points from the drawing, px: positive where the drawing is fuller.

    places_px: (n, 2); off_px: (n,).
    """

    places_px: FloatArray
    off_px: FloatArray

    def thinned(self, most: int) -> "Veil":
        """Return at most so many points, evenly picked, the furthest always among them."""
        if len(self.off_px) <= most:
            return self
        picked = np.linspace(0, len(self.off_px) - 1, most).astype(int)
        picked = np.unique(np.append(picked, int(np.abs(self.off_px).argmax())))
        return Veil(self.places_px[picked], self.off_px[picked])


def measure_veil(paths: list[Path], points: list[FloatArray]) -> Veil:
    """Return how far each boundary point lies off the nearest curve.

    Parameters
    ----------
    paths : list of Path, px
        Running with the ink on their right, as traced.
    points : list of (n, 2) float arrays, px
        The picture's own boundary.
    """
    runs = [bezier.flatten(path.segments, tolerance=0.01, longest=_SAMPLE_PX) for path in paths]
    runs = [run for run in runs if len(run) > 1]
    if not runs or not points:
        return Veil(np.zeros((0, 2)), np.zeros(0))
    start = np.vstack([run[:-1] for run in runs])
    way = np.vstack([np.diff(run, axis=0) for run in runs])
    places = np.vstack(points)
    _, nearest = cKDTree(start + way / 2).query(places, k=min(2, len(start)))
    best = np.full(len(places), np.inf)
    signed = np.zeros(len(places))
    for column in np.atleast_2d(np.asarray(nearest).T):
        a, d = start[column], way[column]
        square = np.maximum((d**2).sum(axis=1), 1e-18)
        t = np.clip(((places - a) * d).sum(axis=1) / square, 0, 1)
        off = places - a - t[:, None] * d
        size = np.hypot(off[:, 0], off[:, 1])
        # A point on the right of the run lies in the drawing's ink: there the drawing is fuller.
        side = np.sign(d[:, 0] * off[:, 1] - d[:, 1] * off[:, 0])
        closer = size < best
        best = np.where(closer, size, best)
        signed = np.where(closer, size * side, signed)
    return Veil(places, signed)
