"""What is known of a drawing's paths and shapes: measured once for a proof, and kept for the next one.

Between two proofs of a drawing little changes: a node is dragged, a spot is thickened. What has the very
same control points is not measured again.
"""

from collections import deque
from collections.abc import Callable, Hashable
from functools import cached_property
from typing import Any, TypeVar

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from shapely import STRtree
from shapely.geometry import MultiPolygon

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.offsetting import Nib
from zeichen.core.geometry.polygons import area_of_rings, is_simple, ring_points, shape_area
from zeichen.core.values import AnyArray, FloatArray

T = TypeVar("T")
Box = tuple[float, float, float, float]

_SHARP_DEG = 20.0
# How many proofs back a memory reaches: a maker goes to and fro between a few drawings, a mend is tried and dropped.
_PROOFS = 8


class Memory:
    """What the last few proofs found out, for the next one to take over; older things are forgotten."""

    def __init__(self) -> None:
        self._known: deque[dict[Hashable, Any]] = deque([{}], maxlen=_PROOFS)

    def begin(self) -> None:
        """A new proof begins: what the last few did not use is forgotten."""
        self._known.appendleft({})

    def recall(self, key: Hashable, compute: Callable[[], T]) -> T:
        """Return what is known under a key, or find it out."""
        now = self._known[0]
        if key not in now:
            before = next((known for known in self._known if key in known), None)
            now[key] = compute() if before is None else before[key]
        found: T = now[key]
        return found


class PathFacts:
    """One path and what was measured of it, each thing when it is first asked for."""

    def __init__(self, path: Path, key: Hashable, tolerance: float) -> None:
        self.path = path
        self.key = key
        self._tolerance = tolerance

    @cached_property
    def ring(self) -> FloatArray:
        """The closed polyline within the tolerance, first point repeated."""
        return ring_points(self.path, tolerance=self._tolerance)

    @cached_property
    def box(self) -> Box:
        """The exact box; InvalidInputError if there are no segments."""
        return bezier.bounds(self.path.segments)

    @cached_property
    def area(self) -> float:
        """Signed, square units."""
        return self.path.area

    @cached_property
    def length(self) -> float:
        """Along all segments."""
        return float(bezier.arc_lengths(self.path.segments).sum())

    @cached_property
    def simple(self) -> bool:
        """Whether it neither crosses nor touches itself."""
        return is_simple(self.path, tolerance=self._tolerance)

    @cached_property
    def inside_corners(self) -> AnyArray:
        """The segments that start at a sharp corner of the area beside them."""
        return _inside_corners(self.path)


class ShapeFacts:
    """One shape, its paths' facts, and the area it covers."""

    def __init__(self, shape: Shape, paths: list[PathFacts], memory: Memory, tolerance: float) -> None:
        self.shape = shape
        self.paths = paths
        self.key: Hashable = (
            *(facts.key for facts in paths),
            shape.fill_rule,
            shape.stroke_width,
            Nib.of(shape),
        )
        self._memory = memory
        self._tolerance = tolerance

    @property
    def box(self) -> Box:
        """The box around its paths; ValueError if it has no segments."""
        table = np.array([facts.box for facts in self.paths if len(facts.path.segments)])
        low, high = table[:, :2].min(axis=0), table[:, 2:].max(axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    @property
    def area(self) -> MultiPolygon:
        """What it covers, by its fill rule or with its pen."""

        def measured() -> MultiPolygon:
            if self.shape.stroke_width is not None:
                return shape_area(self.shape, tolerance=self._tolerance)
            rings = [facts.ring for facts in self.paths]
            return area_of_rings(rings, even_odd=self.shape.fill_rule == "evenodd")

        return self._memory.recall(("area", self.key, self._tolerance), measured)


def facts_of(drawing: Drawing, tolerance: float, memory: Memory) -> list[ShapeFacts]:
    """Return the facts of all shapes, in painting order."""
    found = []
    for shape in drawing.shapes:
        paths = []
        for path in shape.paths:
            key = (path.segments.tobytes(), path.closed)

            def seen(path: Path = path, key: Hashable = key) -> PathFacts:
                return PathFacts(path, key, tolerance)

            paths.append(memory.recall(("path", key, tolerance), seen))
        found.append(ShapeFacts(shape, paths, memory, tolerance))
    return found


def near_groups(areas: list[MultiPolygon], reach: float) -> list[list[int]]:
    """Return the numbers of areas that lie within a distance of each other, directly or through others.

    Examples
    --------
    >>> from shapely import box
    >>> boxes = [MultiPolygon([box(x, 0, x + 1, 1)]) for x in (0, 9, 1.5)]
    >>> near_groups(boxes, 1.0)
    [[0, 2], [1]]
    """
    if not areas:
        return []
    i, j = STRtree(areas).query(areas, predicate="dwithin", distance=reach)
    graph = coo_matrix((np.ones(len(i)), (i, j)), shape=(len(areas), len(areas)))
    count, label = connected_components(graph, directed=False)
    groups: list[list[int]] = [[] for _ in range(count)]
    for k, which in enumerate(label.tolist()):
        groups[which].append(k)
    return groups


def _inside_corners(path: Path) -> AnyArray:
    # Outer paths run clockwise on screen and holes the other way, so the area lies on one side of both.
    going, end = bezier.end_directions(path.segments)
    coming = np.roll(end, 1, axis=0)
    turn = np.degrees(
        np.arctan2(coming[:, 0] * going[:, 1] - coming[:, 1] * going[:, 0], (coming * going).sum(axis=1))
    )
    return np.nonzero(turn > _SHARP_DEG)[0]
