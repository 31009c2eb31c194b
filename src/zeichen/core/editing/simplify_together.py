"""Fewer nodes for shapes that lie side by side: a border that two of them share is simplified once, for both."""

from collections import defaultdict
from collections.abc import Collection, Sequence
from dataclasses import replace

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from zeichen.core.editing.runs import Key, Runs
from zeichen.core.fitting.simplify import corners, simplified_path, without_points
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path, Shape
from zeichen.core.values import AnyArray, FloatArray, require_number

# Nodes of neighbours no further apart than this share of the tolerance are one.
_SAME = 0.02


def simplified_together(
    shapes: Sequence[Shape], *, tolerance: float, ids: Collection[str] | None = None
) -> list[Shape]:
    """Return shapes whose outlines are within a distance of what they were, with as few nodes as that takes.

    Neighbours whose borders were one keep one border, without gap or overlap; a locked one keeps its own.

    Parameters
    ----------
    tolerance : float
        How far an outline may move, in the unit of the shapes.
    ids : ids of shapes, optional
        Only these, and of their neighbours what they share with them. None: all.

    Raises
    ------
    InvalidInputError
        If the tolerance is not above 0.
    """
    require_number(tolerance, "Tolerance", above=0)
    wanted = {shape.id for shape in shapes} if ids is None else set(ids)
    rings = [
        _Ring(shape.id in wanted, shape.locked, without_points(path.segments))
        for shape in shapes
        for path in shape.paths
        if _may_share(shape, path)
    ]
    _name(rings, _SAME * tolerance)
    done = iter(_simplified(rings, tolerance))
    out = []
    for shape in shapes:
        paths = []
        for path in shape.paths:
            less = next(done) if _may_share(shape, path) else None
            if less is not None and len(less) < len(path.segments):
                paths.append(Path(less, path.closed))
            elif shape.id in wanted and not _may_share(shape, path):
                paths.append(simplified_path(path, tolerance=tolerance))
            else:
                paths.append(path)
        out.append(replace(shape, paths=tuple(paths)))
    return out


def _may_share(shape: Shape, path: Path) -> bool:
    return shape.stroke_width is None and path.closed and len(without_points(path.segments)) > 0


class _Ring:
    """A closed path on the way: its segments, the numbers of their start nodes, the keys of their borders."""

    def __init__(self, wanted: bool, locked: bool, segments: FloatArray) -> None:
        self.wanted = wanted and not locked
        self.locked = locked
        self.segments = segments
        self.nodes: list[int] = []
        self.keys: list[Key] = []


def _name(rings: list[_Ring], same: float) -> None:
    """Give what lies at one place one number, and put it exactly there."""
    starts = np.concatenate([np.empty((0, 2)), *(ring.segments[:, 0] for ring in rings)])
    half = np.array([0.5])
    middles = np.concatenate(
        [np.empty((0, 2)), *(bezier.evaluate(ring.segments, half).reshape(-1, 2) for ring in rings)]
    )
    node, middle = _numbered(starts, same), _numbered(middles, same)
    first = {number: at for at, number in reversed(list(enumerate(node.tolist())))}
    at = 0
    for ring in rings:
        count = len(ring.segments)
        ring.nodes = node[at : at + count].tolist()
        ends = [*ring.nodes[1:], *ring.nodes[:1]]
        ring.keys = [
            (min(a, b), max(a, b), m)
            for a, b, m in zip(ring.nodes, ends, middle[at : at + count].tolist(), strict=True)
        ]
        ring.segments = ring.segments.copy()
        ring.segments[:, 0] = starts[[first[number] for number in ring.nodes]]
        ring.segments[:, 3] = np.roll(ring.segments[:, 0], -1, axis=0)
        at += count


def _numbered(points: FloatArray, same: float) -> AnyArray:
    if not len(points):
        return np.empty(0, int)
    pairs = cKDTree(points).query_pairs(same, output_type="ndarray")
    graph = coo_matrix((np.ones(len(pairs)), pairs.T), shape=(len(points), len(points)))
    return np.asarray(connected_components(graph, directed=False)[1])


def _simplified(rings: list[_Ring], tolerance: float) -> list[FloatArray | None]:
    """Return the segments of each ring anew, or None where nothing was wanted of it."""
    owners: dict[Key, set[int]] = defaultdict(set)
    for number, ring in enumerate(rings):
        for key in ring.keys:
            owners[key].add(number)
    broken: set[int] = set()
    for ring in rings:
        sharp = corners(ring.segments, True)
        for k, node in enumerate(ring.nodes):
            # A border ends where another neighbour begins.
            if sharp[k] or owners[ring.keys[k]] != owners[ring.keys[k - 1]]:
                broken.add(node)
    runs = Runs(tolerance)
    rows = [
        [
            runs.number(
                ring.segments[row], [ring.keys[k] for k in row], _wanted(rings, owners[ring.keys[row[0]]])
            )
            for row in _rows(ring, broken)
        ]
        for ring in rings
    ]
    runs.simplify()
    return [
        np.concatenate([runs.segments(number, forth) for number, forth in row])
        if any(runs.wanted[number] for number, _ in row)
        else None
        for row in rows
    ]


def _wanted(rings: list[_Ring], owners: set[int]) -> bool:
    """Return whether one of the owners is to be simplified, and none of them is locked."""
    return any(rings[owner].wanted for owner in owners) and not any(rings[owner].locked for owner in owners)


def _rows(ring: _Ring, broken: set[int]) -> list[list[int]]:
    """Return the numbers of a ring's segments from one break to the next."""
    count = len(ring.segments)
    # Without a break all whose border this is start at the same node.
    breaks = [k for k, node in enumerate(ring.nodes) if node in broken] or [int(np.argmin(ring.nodes))]
    return [
        [k % count for k in range(a, b)]
        for a, b in zip(breaks, [*breaks[1:], breaks[0] + count], strict=True)
    ]
