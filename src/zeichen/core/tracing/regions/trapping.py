"""Areas carried on under their neighbours, so that a press or a printer that is a little off shows no gap."""

import numpy as np
import shapely
from shapely.geometry import MultiPolygon

from zeichen.core.geometry.drawing import Shape
from zeichen.core.geometry.polygons import path_from_ring, shape_area
from zeichen.core.values import FloatArray

# Strips are cut from polylines this near to the curves (our own rule: far below what a printer shows).
_FLATTEN_PX = 0.05
# Strips are drawn this roughly, and stay that much inside the figure: nothing of them shows.
_ROUGH_PX = 0.35


def underlaid(shapes: tuple[Shape, ...], margin_px: float) -> tuple[Shape, ...]:
    """Return the shapes with, below them all, strips that carry each colour on under its neighbours.

    The shapes themselves stay as they are. A strip lies inside the union of all shapes, so nothing
    of it shows: only the hairline between two neighbours is filled.

    Parameters
    ----------
    shapes : tuple of Shape, px
        Side by side.
    margin_px : float
        How far a colour reaches under its neighbours.
    """
    areas = [shape_area(shape, tolerance=_FLATTEN_PX) for shape in shapes]
    tree = shapely.STRtree(areas)
    strips: list[Shape] = []
    for k, area in enumerate(areas):
        around = [int(j) for j in tree.query(area.buffer(margin_px)) if int(j) != k]
        beside = [areas[j] for j in around if areas[j].distance(area) < _FLATTEN_PX]
        if not beside:
            continue
        room = shapely.union_all([*beside, area]).buffer(_FLATTEN_PX).buffer(-_FLATTEN_PX - 1.2 * _ROUGH_PX)
        wide = area.buffer(margin_px, join_style="round").intersection(room)
        strip = wide.difference(area.buffer(-margin_px))
        rings: list[FloatArray] = []
        for part in shapely.get_parts(strip if isinstance(strip, MultiPolygon) else MultiPolygon([strip])):
            if part.area > 0.5:
                tidy = shapely.orient_polygons(part.simplify(_ROUGH_PX), exterior_cw=False)
                rings += [np.asarray(ring.coords) for ring in (tidy.exterior, *tidy.interiors)]
        if rings:
            strips.append(Shape(f"u{k + 1}", tuple(path_from_ring(ring) for ring in rings), shapes[k].fill))
    return (*strips, *shapes)
