"""Drawn lines cut to an area: what lies outside it goes, what stays is the very curve it was."""

import numpy as np
import shapely

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path, Shape
from zeichen.core.geometry.overlay import Region
from zeichen.core.geometry.polygons import shape_area
from zeichen.core.values import BoolArray, FloatArray

# Places looked at on each segment: a line that leaves an area and is back before the next one is not cut.
_LOOKS = 256
# How finely the area's outline is followed, as a share of its size.
_AREA_SHARE = 1e-6
_HALVINGS = 40


def clipped_line(path: Path, area: Region) -> tuple[Path, ...]:
    """Return the parts of a path that lie in an area, open where they were cut.

    Parameters
    ----------
    path : Path
        Its run of segments; of a closed one the end is the start.
    area : Region
    """
    count = len(path.segments)
    if not count or not area.paths:
        return ()
    size = float(np.ptp(np.concatenate([each.segments.reshape(-1, 2) for each in area.paths]), axis=0).max())
    covered = shape_area(Shape("", area.paths, fill_rule=area.fill_rule), tolerance=_AREA_SHARE * size)
    shapely.prepare(covered)

    def inside(places: FloatArray) -> BoolArray:
        """Return whether places along the path, segment number plus parameter, lie in the area."""
        k = np.minimum(places.astype(np.int64), count - 1)
        points = bezier.point_of_each(path.segments[k], places - k)
        return np.asarray(shapely.contains_xy(covered, points[:, 0], points[:, 1]))

    looks = (np.arange(count * _LOOKS) + 0.5) / _LOOKS
    held = inside(looks)
    if held.all():
        return (path,)
    change = np.nonzero(held[1:] != held[:-1])[0]
    before, after = looks[change], looks[change + 1]
    for _ in range(_HALVINGS):
        middle = (before + after) / 2
        same = inside(middle) == held[change]
        before, after = np.where(same, middle, before), np.where(same, after, middle)
    bounds = np.concatenate([[0.0], (before + after) / 2, [float(count)]])
    first = 0 if held[0] else 1
    kept = list(zip(bounds[first:-1:2].tolist(), bounds[first + 1 :: 2].tolist(), strict=True))
    if path.closed and held[0] and held[-1]:
        # The part that holds the start is one.
        kept = [*kept[1:-1], (kept[-1][0], count + kept[0][1])]
    return tuple(Path(bezier.piece(path.segments, one, other), closed=False) for one, other in kept)
