"""The veil: how far the drawing lies off the picture, place by place, with its sign."""

from dataclasses import dataclass

import numpy as np

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.nearest import nearest_on_lines
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
    places = np.vstack(points)
    way, piece, pieces = nearest_on_lines(places, runs)
    along = (pieces[:, 1] - pieces[:, 0])[piece]
    # A point on the right of the run lies in the drawing's ink: there the drawing is fuller.
    side = np.sign(along[:, 1] * way[:, 0] - along[:, 0] * way[:, 1])
    return Veil(places, np.hypot(way[:, 0], way[:, 1]) * side)
