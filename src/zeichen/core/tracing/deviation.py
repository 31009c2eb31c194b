"""How far a drawing is from the boundary it was traced from, from its sketch, or from an earlier state of itself."""

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import MultiPolygon

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path
from zeichen.core.geometry.nearest import nearest_on_lines
from zeichen.core.geometry.polygons import drawing_area
from zeichen.core.values import FloatArray

# Curves are looked at this often along them, for figures and for what is shown, px.
_MEASURED_PX, _SAMPLE_PX = 1.0, 0.5
# Which side of an area a place lies on is told this finely.
_AREA_PX = 0.02


@dataclass(frozen=True, slots=True)
class Deviation:
    """Distances between drawing and picture boundary, both ways, in px."""

    mean_px: float
    p95_px: float
    largest_px: float
    place_px: tuple[float, float]


def measure_deviation(
    paths: list[Path], contours: list[FloatArray], *, closed: list[bool] | None = None
) -> Deviation:
    """Return mean, 95th percentile, largest distance and where that is; zeros when both are empty.

    Contours close unless closed says otherwise.
    """
    if not paths or not contours:
        return Deviation(0.0, 0.0, 0.0, (0.0, 0.0))
    curve = [bezier.flatten(path.segments, tolerance=0.01, longest=_MEASURED_PX) for path in paths]
    ring = closed or [True] * len(contours)
    loops = [np.vstack([c, c[:1]]) if r else c for c, r in zip(contours, ring, strict=True)]
    to_curve, to_contour = (
        np.hypot(*nearest_on_lines(np.vstack(places), lines)[0].T)
        for places, lines in ((contours, curve), (curve, loops))
    )
    places = np.vstack([*contours, *curve])
    both = np.concatenate([to_curve, to_contour])
    worst = int(both.argmax())
    return Deviation(
        mean_px=float((to_curve.mean() + to_contour.mean()) / 2),
        p95_px=float(max(np.percentile(to_curve, 95), np.percentile(to_contour, 95))),
        largest_px=float(both[worst]),
        place_px=(float(places[worst, 0]), float(places[worst, 1])),
    )


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
    offset, piece, pieces = nearest_on_lines(places, runs)
    along = (pieces[:, 1] - pieces[:, 0])[piece]
    # A point on the right of the run lies in the drawing's ink: there the drawing is fuller.
    side = np.sign(along[:, 1] * offset[:, 0] - along[:, 0] * offset[:, 1])
    return Veil(places, np.hypot(offset[:, 0], offset[:, 1]) * side)


def veil_between(drawing: Drawing, reference: Drawing, boundary: list[FloatArray] | None = None) -> Veil:
    """Return how far a drawing lies off another, both ways: what was added shows as well as what was taken away.

    Parameters
    ----------
    drawing, reference : Drawing, px of one picture
    boundary : list of (n, 2) float arrays, px, optional
        What the reference was traced from, if the picture itself is to be measured against.

    Notes
    -----
    Inside the painted area a border between two colours has no fuller side; its sign says nothing.
    """
    ours, theirs = _outlines(drawing), _outlines(reference)
    seen = theirs if boundary is None else [points for points in boundary if len(points)]
    if not ours or not theirs or not seen:
        return Veil(np.zeros((0, 2)), np.zeros(0))
    there = _signed(np.vstack(seen), ours, drawing_area(drawing, tolerance=_AREA_PX))
    back = _signed(np.vstack(ours), theirs, drawing_area(reference, tolerance=_AREA_PX))
    # What lies in the drawing's ink shows that it is fuller; its own outline within the other's ink, the contrary.
    return Veil(np.vstack([*seen, *ours]), np.concatenate([there, -back]))


def _outlines(drawing: Drawing) -> list[FloatArray]:
    runs = [bezier.flatten(path.segments, tolerance=0.01, longest=_SAMPLE_PX) for path in drawing.paths]
    return [run for run in runs if len(run) > 1]


def _signed(places: FloatArray, lines: list[FloatArray], area: MultiPolygon) -> FloatArray:
    """Return the distances of places from the nearest line, positive inside an area."""
    offset, _, _ = nearest_on_lines(places, lines)
    shapely.prepare(area)
    inside = shapely.contains_xy(area, places[:, 0], places[:, 1])
    return np.asarray(np.hypot(offset[:, 0], offset[:, 1]) * np.where(inside, 1.0, -1.0))
