"""How far a drawing departs from its sketch or from an earlier state, wherever it was edited."""

import numpy as np
import shapely
from shapely.geometry import MultiPolygon

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing
from zeichen.core.geometry.nearest import nearest_on_lines
from zeichen.core.geometry.polygons import drawing_area
from zeichen.core.tracing.veil import Veil
from zeichen.core.values import FloatArray

_SAMPLE_PX = 0.5
# Which side of an area a place lies on is told this finely.
_AREA_PX = 0.02


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
    way, _, _ = nearest_on_lines(places, lines)
    shapely.prepare(area)
    inside = shapely.contains_xy(area, places[:, 0], places[:, 1])
    return np.asarray(np.hypot(way[:, 0], way[:, 1]) * np.where(inside, 1.0, -1.0))
