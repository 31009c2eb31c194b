"""Bridges: bars that hold a loose piece, put where they are short and meet something thick."""

import math

import numpy as np
import shapely
from shapely.geometry import LineString, MultiPolygon, Point, Polygon

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path
from zeichen.core.geometry.offsetting import stroked
from zeichen.core.geometry.polygons import as_multipolygon, drawing_area
from zeichen.core.values import FloatArray

_TRIED = 96
# A second bridge of an island points at least this far from the first one (degrees).
_APART_DEG = 110.0
# An island wider than this many bridges gets two.
_LARGE = 3.0


def bridge_bars(
    drawing: Drawing, place: tuple[float, float], *, width: float, islands: bool, tolerance: float
) -> tuple[Path, ...]:
    """Return the outlines of bars that join the loose piece at a place to the rest; none if there is no rest.

    Parameters
    ----------
    place : (x, y) inside the piece, px
    width : float, px
        Of a bar.
    islands : bool
        True for a stencil: the piece is an island of material in an opening.
    """
    area = drawing_area(drawing, tolerance=tolerance)
    point = Point(place)
    if islands:
        piece, rest = _island(area, point)
    else:
        pieces = sorted(area.geoms, key=lambda polygon: -polygon.area)
        piece = min(pieces, key=point.distance)
        rest = MultiPolygon([other for other in pieces if other is not piece])
    if piece is None or rest.is_empty:
        return ()
    lines = [_best(piece, rest, width, [])]
    if islands and lines[0] is not None and math.sqrt(piece.area) > _LARGE * width:
        lines.append(_best(piece, rest, width, [lines[0]]))
    bars = tuple(Path(bezier.line_segments(line), closed=False) for line in lines if line is not None)
    return stroked(bars, width, tolerance=tolerance) if bars else ()


def _island(area: MultiPolygon, point: Point) -> tuple[Polygon | None, MultiPolygon]:
    for opening in area.geoms:
        for hole in opening.interiors:
            island = Polygon(hole)
            if island.distance(point) < 1e-9:
                # The sheet begins at the opening's border; a band of it is all that a bar has to reach.
                whole = Polygon(opening.exterior)
                sheet = whole.buffer(0.5 * math.sqrt(whole.area)).difference(whole)
                return island, as_multipolygon(sheet)
    return None, MultiPolygon()


def _best(piece: Polygon, rest: MultiPolygon, width: float, taken: list[FloatArray]) -> FloatArray | None:
    """Return the ends of the best bar, or None: short, and where both sides are thick."""
    border = piece.exterior
    starts = shapely.line_interpolate_point(
        border, np.linspace(0, 1, _TRIED, endpoint=False), normalized=True
    )
    ways = shapely.get_coordinates(shapely.shortest_line(starts, rest)).reshape(-1, 2, 2)
    nearest = shapely.get_coordinates(shapely.shortest_line(piece, rest)).reshape(1, 2, 2)
    ways = np.concatenate([nearest, ways])
    length = np.hypot(*(ways[:, 1] - ways[:, 0]).T)
    middle = shapely.get_coordinates(piece.centroid)[0]
    outward = ways[:, 0] - middle
    bearing = np.degrees(np.arctan2(outward[:, 1], outward[:, 0]))
    best: tuple[float, FloatArray] | None = None
    for k in np.argsort(length).tolist():
        if best is not None and length[k] > best[0]:
            break
        if any(_turned(bearing[k], _bearing(line, middle)) < _APART_DEG for line in taken):
            continue
        line = _reaching(ways[k], width)
        if line is None:
            continue
        # What of the bar neither spans the gap nor lies in what it joins pokes out of something thin.
        bar = LineString(line).buffer(width / 2.0)
        span = LineString(ways[k]).buffer(width / 2.0, cap_style="flat")
        missing = bar.difference(piece).difference(rest).difference(span).area / width**2
        amid = float(np.hypot(*((ways[k, 0] + ways[k, 1]) / 2.0 - middle)))
        # Bars along the axes look meant.
        way = ways[k, 1] - ways[k, 0]
        slant = abs(math.sin(2.0 * math.atan2(float(way[1]), float(way[0]))))
        score = float(length[k]) + width * (2.0 * missing + 0.3 * slant) + 0.05 * amid
        if best is None or score < best[0]:
            best = score, line
    return None if best is None else best[1]


def _bearing(line: FloatArray, middle: FloatArray) -> float:
    way = line[0] - middle
    return math.degrees(math.atan2(float(way[1]), float(way[0])))


def _turned(a: float, b: float) -> float:
    return abs((a - b + 180.0) % 360.0 - 180.0)


def _reaching(way: FloatArray, width: float) -> FloatArray | None:
    """Return a bar's ends, each going on by its width into what it meets."""
    direction = way[1] - way[0]
    size = float(np.hypot(*direction))
    if size < 1e-9:
        return None
    unit = direction / size
    return np.stack([way[0] - width * unit, way[1] + width * unit])
