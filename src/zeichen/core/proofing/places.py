"""Areas around a measured place: what is added to or taken from a drawing just there."""

import numpy as np
import shapely
from scipy.sparse.csgraph import minimum_spanning_tree
from scipy.spatial import cKDTree

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path, Shape
from zeichen.core.geometry.offsetting import stroked
from zeichen.core.geometry.overlay import Region, united
from zeichen.core.geometry.polygons import as_multipolygon, path_from_ring, shape_area
from zeichen.core.proofing.narrow import Trail, TrailPoint
from zeichen.core.values import FloatArray

# Measured middles end a little before the place does: a line along them goes on by this share of its width.
_BEYOND = 0.6


def swollen(trail: Trail, width: float, tolerance: float) -> tuple[Path, ...]:
    """Return the outlines of a line of some width along the middles of a narrow place.

    Parameters
    ----------
    trail : its measured middles
    width : float
        Of the line, in the unit of the trail.
    tolerance : float
        How exact the outline is.
    """
    lines = middle_lines(trail, width)
    return stroked(lines, width, tolerance=tolerance)


def middle_lines(trail: Trail, reach: float) -> tuple[Path, ...]:
    """Return open paths along the middles: the branches of the shortest tree that joins them."""
    points = np.array([(point.x, point.y) for point in trail])
    if len(points) == 1:
        # A place of no length: a stub that the pen makes a disc.
        stub = 0.01 * reach
        line = bezier.line_segments(np.stack([points[0] - (stub, 0.0), points[0] + (stub, 0.0)]))
        return (Path(line, closed=False),)
    # Middles further apart than this do not belong together.
    near_by = cKDTree(points)
    tree = minimum_spanning_tree(near_by.sparse_distance_matrix(near_by, 1.5 * reach).tocsr()).tocoo()
    neighbours: dict[int, list[int]] = {k: [] for k in range(len(points))}
    for a, b in zip(tree.row.tolist(), tree.col.tolist(), strict=True):
        neighbours[a].append(b)
        neighbours[b].append(a)
    lines: list[Path] = []
    seen: set[tuple[int, int]] = set()
    for start, near in neighbours.items():
        if len(near) == 2:
            continue
        if not near:
            lines.extend(
                middle_lines((TrailPoint(float(points[start, 0]), float(points[start, 1]), 0.0),), reach)
            )
        for following in near:
            chain = [start]
            before, at = start, following
            while (min(before, at), max(before, at)) not in seen:
                seen.add((min(before, at), max(before, at)))
                chain.append(at)
                if len(neighbours[at]) != 2:
                    break
                before, at = at, next(k for k in neighbours[at] if k != before)
            if len(chain) > 1:
                plain = shapely.simplify(shapely.LineString(points[chain]), 0.02 * reach)
                line = shapely.get_coordinates(plain)
                if len(near) == 1:
                    line = _longer(line, _BEYOND * reach)
                if len(neighbours[chain[-1]]) == 1:
                    line = _longer(line[::-1], _BEYOND * reach)[::-1]
                lines.append(Path(bezier.line_segments(line), closed=False))
    return tuple(lines)


def _longer(line: FloatArray, length: float) -> FloatArray:
    """Return a polyline that begins so much earlier."""
    way = line[0] - line[1]
    return np.vstack([line[0] + way * (length / max(float(np.hypot(*way)), 1e-12)), line[1:]])


def tip_cut(trail: Trail, width: float) -> tuple[Region, Region]:
    """Return what to cut off a pointed tip so that no part of it is thinner than a width, and its new round end.

    The tip is left where it is as wide as that; a disc of that width closes it.
    """
    middles = np.array([(point.x, point.y) for point in trail])
    widths = np.array([point.width for point in trail])
    base, end = middles[int(widths.argmax())], middles[int(widths.argmin())]
    way = end - base
    size = float(np.hypot(*way))
    unit = way / size if size > 1e-9 else np.array([1.0, 0.0])
    across = np.array([-unit[1], unit[0]])
    length = float(((middles - base) @ unit).max()) + 4.0 * width
    sideways = float(np.abs((middles - base) @ across).max()) + width
    # The disc sits on the base and reaches no further into the shape than it is wide.
    corners = [
        base + sideways * across,
        base + length * unit + sideways * across,
        base + length * unit - sideways * across,
        base - sideways * across,
    ]
    cut = path_from_ring(np.array([*corners, corners[0]]))
    disc = Path(bezier.circle_segments((float(base[0]), float(base[1])), radius=width / 2.0))
    return Region((cut,)), Region((disc,))


def sliver_between(one: Shape, other: Shape, *, width: float, tolerance: float) -> Region | None:
    """Return the hairline of ground between two shapes, a little larger than it is, or None if there is none."""
    fine = max(tolerance, 1e-6)
    first, second = shape_area(one, tolerance=fine), shape_area(other, tolerance=fine)
    both = shapely.union_all([first, second])
    reach = width / 2.0
    closed = both.buffer(reach, join_style="mitre").buffer(-reach, join_style="mitre")
    parts = [
        part
        for part in as_multipolygon(closed.difference(both)).geoms
        if part.area > fine * part.length / 4.0
        and part.distance(first) <= fine
        and part.distance(second) <= fine
    ]
    if not parts:
        return None
    grown = as_multipolygon(
        shapely.union_all(parts).buffer(4.0 * fine, join_style="mitre").intersection(closed)
    )
    paths = [path_from_ring(shapely.get_coordinates(part.exterior)) for part in grown.geoms]
    return Region(united([Region(tuple(paths), "nonzero")]))
