"""From Bézier shapes to exact polygon areas (shapely), by the shape's own fill rule.

Shapely does booleans and offsets on polygons; curves are flattened first, within a tolerance that
the caller gives in the drawing's unit.
"""

import numpy as np
import shapely
from shapely.geometry import LinearRing, LineString, MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.tangle import require_untangled
from zeichen.core.values import FloatArray


def ring_points(path: Path, *, tolerance: float) -> FloatArray:
    """Return the closed polyline of a path, first point repeated at the end, shape (m, 2)."""
    points = bezier.flatten(path.segments, tolerance=tolerance)
    if len(points) and not np.array_equal(points[0], points[-1]):
        points = np.vstack([points, points[0]])
    return points


def is_simple(path: Path, *, tolerance: float) -> bool:
    """Return whether a path neither crosses nor touches itself."""
    points = bezier.flatten(path.segments, tolerance=tolerance)
    if path.closed:
        if len(points) < 4:
            return True
        if not np.array_equal(points[0], points[-1]):
            points = np.vstack([points, points[0]])
        return bool(LinearRing(points).is_simple)
    return len(points) < 2 or bool(LineString(points).is_simple)


def shape_area(shape: Shape, *, tolerance: float) -> MultiPolygon:
    """Return the area a shape covers, by its fill rule; a stroked shape covers its stroke.

    Crossing paths are resolved: all edges are noded, and every face is kept or dropped by the
    winding number of a point inside it (SVG 2, section 13.4.1, fill-rule). TooMuchError if there are too many.
    """
    if shape.stroke_width is not None:
        lines = [bezier.flatten(p.segments, tolerance=tolerance) for p in shape.paths if len(p.segments)]
        require_untangled(lines)
        closed = [path.closed for path in shape.paths if len(path.segments)]
        pens = [_pen(shape, line, shut) for line, shut in zip(lines, closed, strict=True)]
        return as_multipolygon(shapely.union_all(pens))
    rings = [ring_points(path, tolerance=tolerance) for path in shape.paths]
    return area_of_rings(rings, even_odd=shape.fill_rule == "evenodd")


def _pen(shape: Shape, line: FloatArray, closed: bool) -> BaseGeometry:
    """Return what a shape's pen covers along one of its lines."""
    assert shape.stroke_width is not None
    # Only a closed line of three places or more has a corner where it began.
    ring = closed and len(line) > 3 and np.array_equal(line[0], line[-1])
    pen: BaseGeometry = (LinearRing if ring else LineString)(line).buffer(
        shape.stroke_width / 2,
        cap_style={"butt": "flat"}.get(shape.cap, shape.cap),
        join_style=shape.join,
        mitre_limit=shape.mitre_limit,
    )
    return pen


def area_of_rings(rings: list[FloatArray], *, even_odd: bool) -> MultiPolygon:
    """Return the area that closed polylines, the first point repeated at the end, cover together."""
    rings = [points for points in rings if len(points) >= 4]
    if not rings:
        return MultiPolygon()
    polygons = [Polygon(points) for points in rings]
    if all(polygon.is_valid for polygon in polygons):
        if len(polygons) == 1:
            return MultiPolygon(polygons)
        outer, *rest = sorted(polygons, key=lambda p: -p.area)
        simple = Polygon(outer.exterior.coords, [hole.exterior.coords for hole in rest])
        windings = [LinearRing(p.exterior.coords).is_ccw for p in (outer, *rest)]
        if simple.is_valid and all(w != windings[0] for w in windings[1:]):
            return MultiPolygon([simple])
    return _by_winding(rings, even_odd=even_odd)


def drawing_area(drawing: Drawing, *, tolerance: float) -> MultiPolygon:
    """Return the dark area of a drawing: all shapes together, light ones wiping out what lies below them."""
    return painted_area([(shape, shape_area(shape, tolerance=tolerance)) for shape in drawing.shapes])


def painted_area(parts: list[tuple[Shape, MultiPolygon]]) -> MultiPolygon:
    """Return the dark area of shapes painted in order, from each shape's own area."""
    area: BaseGeometry = MultiPolygon()
    dark: list[MultiPolygon] = []
    for shape, part in parts:
        if is_light(shape.fill):
            area = shapely.union_all([area, *dark]).difference(part)
            dark = []
        else:
            dark.append(part)
    return as_multipolygon(shapely.union_all([area, *dark]))


def is_light(colour: str) -> bool:
    """Return whether a #rrggbb colour is paper rather than ink: white or all but white.

    Examples
    --------
    >>> is_light("#ffffff"), is_light("#e0c080")
    (True, False)
    """
    digits = colour.lstrip("#")
    return len(digits) == 6 and min(int(digits[k : k + 2], 16) for k in (0, 2, 4)) >= 245


def as_multipolygon(geometry: BaseGeometry) -> MultiPolygon:
    """Return only the areas of a geometry, as one multipolygon."""
    if isinstance(geometry, MultiPolygon):
        return geometry
    pieces = list(shapely.get_parts(geometry, return_index=False))
    if isinstance(geometry, Polygon):
        pieces = [geometry]
    areas: list[Polygon] = []
    for piece in pieces:
        if isinstance(piece, Polygon) and not piece.is_empty:
            areas.append(piece)
        elif hasattr(piece, "geoms"):
            areas.extend(as_multipolygon(piece).geoms)
    return MultiPolygon(areas)


def path_from_ring(points: FloatArray) -> Path:
    """Return a closed path of straight segments from a ring whose last point repeats the first."""
    return Path(bezier.line_segments(np.asarray(points, dtype=np.float64)))


def _by_winding(rings: list[FloatArray], *, even_odd: bool) -> MultiPolygon:
    require_untangled(rings)
    edges = shapely.union_all([LineString(points) for points in rings])
    faces = shapely.get_parts(shapely.polygonize(list(shapely.get_parts(edges))))
    kept = []
    starts, ends = np.concatenate([ring[:-1] for ring in rings]), np.concatenate([ring[1:] for ring in rings])
    for face, inside in zip(faces, shapely.get_coordinates(shapely.point_on_surface(faces)), strict=True):
        winding = _winding(starts, ends, *inside.tolist())
        if (winding % 2) if even_odd else winding:
            kept.append(face)
    return as_multipolygon(shapely.union_all(kept)) if kept else MultiPolygon()


def _winding(start: FloatArray, end: FloatArray, x: float, y: float) -> int:
    """Return how often closed outlines, the lines of all of them together, go round a place."""
    up = (start[:, 1] <= y) & (end[:, 1] > y)
    down = (start[:, 1] > y) & (end[:, 1] <= y)
    side = (end[:, 0] - start[:, 0]) * (y - start[:, 1]) - (x - start[:, 0]) * (end[:, 1] - start[:, 1])
    return int((up & (side > 0)).sum() - (down & (side < 0)).sum())
