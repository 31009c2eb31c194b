"""Narrow places of an area: where two walls face each other closer than a limit.

The walls are sampled; the Delaunay triangulation of the samples joins each to those it faces (the
dual of the medial axis, so the joining edges are the axis's widths). An edge counts when it leaves
both walls roughly at right angles and its ends are far apart along the wall: an ordinary corner or
the round end of a stroke is not a narrow place. The width is then measured exactly, from sample to
wall segment.
"""

import math
from dataclasses import dataclass

import numpy as np
import shapely
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import Delaunay, QhullError, cKDTree
from shapely.geometry import MultiPolygon

from zeichen.core.values import AnyArray, BoolArray, FloatArray

# How squarely an edge must meet its walls, as the cosine of the angle off the normal (37 degrees).
_SQUARENESS = 0.8
_MOST_SAMPLES = 80_000
# What narrows to less than this share of its width runs out into a point.
_TAPERS = 0.6
# Every so many samples are looked at when deciding what to triangulate.
_COARSE_STEP = 4


@dataclass(frozen=True, slots=True)
class TrailPoint:
    """A middle between two walls, and how far they are apart there."""

    x: float
    y: float
    width: float


Trail = tuple[TrailPoint, ...]


@dataclass(frozen=True, slots=True)
class NarrowPlace:
    """One narrow place: the middle of its narrowest spot, the width there, how long it stays narrow.

    trail: middles between the walls along it, each with the width there. tip: it runs out into a point.
    """

    x: float
    y: float
    width: float
    length: float
    trail: Trail
    tip: bool


@dataclass(frozen=True, slots=True)
class Narrowness:
    """All places under the limit, and the narrowest width found at all (inf if over three limits)."""

    places: tuple[NarrowPlace, ...]
    narrowest: float


@dataclass(frozen=True, slots=True)
class Walls:
    """Samples along all rings: points, unit normals into the area, ring number, place along it, ring length."""

    points: FloatArray
    normals: FloatArray
    before: AnyArray
    after: AnyArray
    ring: AnyArray
    along: FloatArray
    around: FloatArray
    spacing: float


def narrow_places(area: MultiPolygon, *, limit: float, inside: bool) -> Narrowness:
    """Return where an area (or, outside it, a gap) is narrower than a limit.

    Parameters
    ----------
    area : MultiPolygon
    limit : float, same unit as the area
    inside : bool
        True measures the area's own parts, False the gaps between and into them.

    Source
    ------
    Delaunay triangulation as the dual of the Voronoi diagram, whose edges approach the medial axis
    as samples grow dense: Attali, Boissonnat and Edelsbrunner, "Stability and computation of medial
    axes" (2009), from memory.
    """
    return measure_narrowness(
        sample_walls(area, sample_spacing(limit, area.length)), limit=limit, inside=inside
    )


def sample_spacing(limit: float, length: float) -> float:
    """Return how far apart walls of some total length are sampled for a limit.

    Where there would be too many samples, in steps of two, so that a small edit does not change it.
    """
    usual = limit / 5
    needed = length / _MOST_SAMPLES
    return usual * 2.0 ** max(0, math.ceil(math.log2(needed / usual))) if needed > usual else usual


def measure_narrowness(walls: "Walls | None", *, limit: float, inside: bool) -> Narrowness:
    """Return where the area between sampled walls, or outside them, is narrower than a limit; see narrow_places."""
    nothing = Narrowness((), math.inf)
    if walls is None:
        return nothing
    sign = 1.0 if inside else -1.0
    edges = _joining_edges(walls, np.nonzero(_near_another(walls, limit, sign))[0], 3 * limit)
    i, j, width, apart = _facing(walls, edges, limit, sign)
    if not len(i):
        return nothing
    seen = width[apart >= 4.5 * width]
    narrow = width < limit
    i, j, width, apart = i[narrow], j[narrow], width[narrow], apart[narrow]
    places = _group(walls, i, j, width, apart, limit)
    candidates = [place.width for place in places]
    # What is narrower than the limit but was no place is a pointed tip; the rest of such a part still counts.
    wide = seen[seen >= limit]
    if len(wide):
        candidates.append(float(wide.min()))
    return Narrowness(tuple(places), min(candidates, default=math.inf))


def _near_another(walls: Walls, limit: float, sign: float) -> BoolArray:
    """Return which samples lie near a wall that faces theirs, judged coarsely and generously.

    Only these are triangulated: most of a figure's outline is nowhere near another wall, and what is
    left out could neither be joined by a short edge nor stand between two samples that are.
    """
    marked = np.zeros(len(walls.points), dtype=bool)
    coarse = np.arange(0, len(walls.points), _COARSE_STEP)
    reach = 3 * limit + 2 * _COARSE_STEP * walls.spacing
    pairs = cKDTree(walls.points[coarse]).query_pairs(reach, output_type="ndarray")
    i, j = coarse[pairs[:, 0]], coarse[pairs[:, 1]]
    across = walls.points[j] - walls.points[i]
    length = np.hypot(across[:, 0], across[:, 1])
    # A bend of one wall faces itself too, but no wall of a narrow place is that near to itself along the wall.
    apart = _apart(walls, i, j)
    far = apart >= 1.5 * length
    i, j, across, length, apart = i[far], j[far], across[far], length[far], apart[far]
    across = _unit(across)
    leaving = (across * walls.normals[i]).sum(1) * sign
    meeting = -(across * walls.normals[j]).sum(1) * sign
    facing = (leaving > _SQUARENESS / 2) & (meeting > _SQUARENESS / 2) & (apart >= 2.0 * length)
    # Very near walls are marked whichever way their coarse samples happen to lie.
    folded = apart >= 3 * limit
    facing |= (length < 2 * _COARSE_STEP * walls.spacing) & folded
    marked[i[facing]] = marked[j[facing]] = True
    for _ in range(2 * _COARSE_STEP):
        marked |= marked[walls.before] | marked[walls.after]
    return marked


def _joining_edges(walls: Walls, chosen: AnyArray, longest: float) -> AnyArray:
    """Return the Delaunay edges up to a length between chosen samples, as pairs of sample numbers."""
    none = np.zeros((0, 2), dtype=np.int64)
    if len(chosen) < 6:
        return none
    try:
        triangles = Delaunay(walls.points[chosen]).simplices
    except QhullError:
        return none
    ends = chosen[np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])]
    ends = ends[np.linalg.norm(walls.points[ends[:, 0]] - walls.points[ends[:, 1]], axis=1) < longest]
    count = len(walls.points)
    keys = np.unique(ends.min(axis=1).astype(np.int64) * count + ends.max(axis=1))
    return np.stack([keys // count, keys % count], axis=1)


def _facing(
    walls: Walls, edges: AnyArray, limit: float, sign: float
) -> tuple[AnyArray, AnyArray, FloatArray, FloatArray]:
    i, j = edges[:, 0], edges[:, 1]
    apart = _apart(walls, i, j)
    far = apart >= 3 * limit
    i, j, apart = i[far], j[far], apart[far]
    # From a sample straight across to the other wall, not to its nearest sample: where a part is thinner than
    # the samples are dense, the way to a sample would run askew and look longer than it is.
    there, width_there = _across(walls, i, j)
    back, width_back = _across(walls, j, i)
    width = np.minimum(width_there, width_back)
    shorter = (width_there <= width_back)[:, None]
    unit = np.where(shorter, there, -back)
    square = ((unit * walls.normals[i]).sum(1) * sign >= _SQUARENESS) & (
        -(unit * walls.normals[j]).sum(1) * sign >= _SQUARENESS
    )
    keep = square & (width > 0) & (width < 3 * limit)
    return i[keep], j[keep], width[keep], apart[keep]


def _apart(walls: Walls, i: AnyArray, j: AnyArray) -> FloatArray:
    """Return how far apart samples are along their common wall; infinitely far on different walls."""
    along = np.abs(walls.along[i] - walls.along[j])
    return np.where(walls.ring[i] == walls.ring[j], np.minimum(along, walls.around[i] - along), math.inf)


def _across(walls: Walls, one: AnyArray, other: AnyArray) -> tuple[FloatArray, FloatArray]:
    """Return unit direction and distance from samples to the wall beside other samples."""
    points = walls.points[one]
    ways = [
        _to_segment(points, walls.points[other], walls.points[beside[other]])
        for beside in (walls.before, walls.after)
    ]
    lengths = [np.linalg.norm(way, axis=1) for way in ways]
    first = lengths[0] <= lengths[1]
    way, length = np.where(first[:, None], ways[0], ways[1]), np.minimum(lengths[0], lengths[1])
    return _unit(way), length


def _group(
    walls: Walls, i: AnyArray, j: AnyArray, width: FloatArray, apart: FloatArray, limit: float
) -> list[NarrowPlace]:
    if not len(i):
        return []
    count = len(walls.points)
    touched = np.zeros(count, dtype=bool)
    touched[i] = touched[j] = True
    along = np.nonzero(touched & touched[walls.after])[0]
    rows = np.concatenate([i, along])
    columns = np.concatenate([j, walls.after[along]])
    graph = coo_matrix((np.ones(len(rows)), (rows, columns)), shape=(count, count))
    _, label = connected_components(graph, directed=False)
    step = np.linalg.norm(walls.points[walls.after] - walls.points, axis=1)
    places = []
    labels = label[i]
    order = np.lexsort((width, labels))
    firsts = np.unique(labels[order], return_index=True)[1]
    # Each stretch of wall is narrow on both sides, so the place is half as long as its walls.
    wall_length = np.bincount(label[along], weights=step[along], minlength=label.max() + 1) / 2
    nearest_end = np.full(label.max() + 1, math.inf)
    np.minimum.at(nearest_end, labels, apart)
    for first in order[firsts]:
        group = labels[first]
        length = float(wall_length[group])
        # A pointed tip is thin for a moment at its very end; only a long one is a thin part.
        if nearest_end[group] < 4.5 * limit and length < 2 * limit:
            continue
        middle = (walls.points[i[first]] + walls.points[j[first]]) / 2
        mine = np.nonzero(labels == group)[0]
        trail = _trail((walls.points[i[mine]] + walls.points[j[mine]]) / 2, width[mine], limit / 3)
        # A tip runs out into a point; a hair that ends is as wide there as anywhere.
        tapers = float(width[first]) < _TAPERS * max(point.width for point in trail)
        tip = bool(nearest_end[group] < 4.5 * limit) and tapers
        places.append(
            NarrowPlace(float(middle[0]), float(middle[1]), float(width[first]), length, trail, tip)
        )
    return sorted(places, key=lambda place: place.width)


def _trail(middles: FloatArray, width: FloatArray, spacing: float) -> Trail:
    """Return middles no nearer to each other than a spacing, the narrowest first."""
    order = np.argsort(width)
    cells = np.round(middles[order] / spacing).astype(np.int64)
    _, first = np.unique(cells, axis=0, return_index=True)
    chosen = order[np.sort(first)]
    return tuple(
        TrailPoint(float(x), float(y), float(w))
        for (x, y), w in zip(middles[chosen], width[chosen], strict=True)
    )


def sample_walls(area: MultiPolygon, spacing: float) -> Walls | None:
    """Return samples along all rings of an area; None if there is nothing to measure."""
    rings: list[FloatArray] = []
    for polygon in area.geoms:
        for number, ring in enumerate((polygon.exterior, *polygon.interiors)):
            plain = shapely.simplify(ring, spacing / 60, preserve_topology=False)
            if shapely.get_num_coordinates(plain) < 4:
                # A hairline that neighbours left between them: nothing to measure.
                continue
            dense = shapely.segmentize(plain, spacing)
            points = shapely.get_coordinates(dense)[:-1]
            if len(points) < 3:
                continue
            # Interior on the right-hand side of travel on screen (y down): exteriors one way, holes the other.
            if ring.is_ccw != (number == 0):
                points = points[::-1]
            rings.append(points)
    if not rings:
        return None
    sizes = np.array([len(r) for r in rings])
    starts = np.concatenate([[0], np.cumsum(sizes)[:-1]])
    points = np.vstack(rings)
    index = np.arange(len(points))
    ring = np.repeat(np.arange(len(rings)), sizes)
    first, last = starts[ring], starts[ring] + sizes[ring] - 1
    before = np.where(index == first, last, index - 1)
    after = np.where(index == last, first, index + 1)
    step = np.linalg.norm(points[after] - points, axis=1)
    run = np.concatenate([[0.0], np.cumsum(step)])
    around = np.add.reduceat(step, starts)
    direction = _unit(points - points[before]) + _unit(points[after] - points)
    direction = _unit(direction)
    # Exterior rings counter-clockwise by shapely's y-up rule have the area on their left: (-dy, dx).
    normals = np.stack([-direction[:, 1], direction[:, 0]], axis=1)
    return Walls(points, normals, before, after, ring, run[index] - run[first], around[ring], spacing)


def _unit(vectors: FloatArray) -> FloatArray:
    size = np.linalg.norm(vectors, axis=1, keepdims=True)
    return np.asarray(vectors / np.where(size > 0, size, 1.0))


def _to_segment(points: FloatArray, a: FloatArray, b: FloatArray) -> FloatArray:
    """Return the vectors from points to the nearest places on segments."""
    ab = b - a
    square = np.maximum((ab**2).sum(1), 1e-30)
    t = np.clip(((points - a) * ab).sum(1) / square, 0, 1)
    return np.asarray(a + t[:, None] * ab - points)
