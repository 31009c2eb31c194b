"""A spline of lines and cubics along measured points, and what is done to it."""

import math
from dataclasses import dataclass, field

import numpy as np

from zeichen.core.fitting import node_insertion, refinement, spline_geometry, spline_steps
from zeichen.core.fitting.spline_arrays import SplineArrays
from zeichen.core.geometry import bezier
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# No windows in particular.
_ALL_OVER = np.zeros(0, np.int64)
# The one window of a spline no longer than that.
_FIRST = np.zeros(1, np.int64)
_SLENDER_RAD = math.radians(120.0)
# An arc takes at most so much of either side of its corner.
_SIDE_SHARE = 0.9
# Points this near to it tell of it, more softly than others: the corner's blur moved them.
_BESIDE_ARC_PX = 1.5
_ARC_WEIGHT = 0.25
# A corner put in its place is believed up to so far from the points.
_HELD_PX = 2.5


@dataclass(slots=True)
class Spline:
    """Nodes and the segments between them; entries past `count` are spare.

    points, weight, at: (n, 2) measured points, their weights, their parameters on the spline.
    node: (room, 2); first: index of the point where the segment after each node starts.
    aligned: handles at corners too short to be felt point where the curve goes.
    exact: it is a true circle or ellipse, which no fit of its points would improve.
    corner, pinned: for each node; line, angle (start, end), handle (start, end): for each segment.
    """

    points: FloatArray
    weight: FloatArray
    closed: bool
    room: int
    aligned: bool = False
    exact: bool = False
    count: int = 0
    at: FloatArray = field(init=False)
    node: FloatArray = field(init=False)
    first: AnyArray = field(init=False)
    line: BoolArray = field(init=False)
    corner: BoolArray = field(init=False)
    pinned: BoolArray = field(init=False)
    angle: FloatArray = field(init=False)
    handle: FloatArray = field(init=False)

    def __post_init__(self) -> None:
        room = self.room
        self.at = np.empty(len(self.points))
        self.node, self.angle, self.handle = np.zeros((3, room, 2))
        self.first = np.zeros(room, np.int64)
        self.line, self.corner, self.pinned = np.zeros((3, room), np.bool_)

    @property
    def segments(self) -> int:
        """How many segments there are."""
        return self.count if self.closed else self.count - 1

    def polish(self, tolerance: float) -> None:
        """Fit all joints together, then straighten, split and thin out until each does its share."""
        self._work(spline_steps.POLISH, tolerance, _ALL_OVER, 0)

    def refine(self, *, near: list[int] | None = None, rounds: int = 6) -> None:
        """Move all nodes, or those around some, to where the spline lies best on its points."""
        self._work(spline_steps.REFINE, 0.0, self._windows_around(near), rounds)

    def straighten(self, tolerance: float, *, near: list[int] | None = None, rounds: int = 6) -> None:
        """Refine the spline, or what is around some nodes, and make lines of what then is nearly straight."""
        self._work(spline_steps.STRAIGHTEN, tolerance, self._windows_around(near), rounds)

    def _windows_around(self, nodes: list[int] | None) -> AnyArray:
        """Return where windows start that have each of some nodes in their middle."""
        if nodes is None:
            return _ALL_OVER
        segments = self.segments
        if segments <= refinement.WINDOW:
            return _FIRST
        changed = np.zeros(segments, np.bool_)
        for k in nodes:
            changed[min(k, segments - 1)] = True
        return np.asarray(refinement.starts_around(changed, self.closed))

    def thin(self, tolerance: float) -> None:
        """Take out the nodes that the spline does without; pinned ones stay."""
        self._work(spline_steps.THIN, tolerance, _ALL_OVER, 0)

    def _work(self, what: int, tolerance: float, starts: AnyArray, amount: int) -> None:
        task = spline_steps.Work(what, self.aligned, float(tolerance), starts, amount)
        self.count = spline_steps.work(self.arrays(), self.count, task)

    def arrays(self, *, spare: bool = True) -> SplineArrays:
        """Return the spline as compiled functions take it, with room for more nodes or without."""
        m = self.room if spare else self.count
        return SplineArrays(
            self.points,
            self.weight,
            self.at,
            self.node[:m],
            self.first[:m],
            self.line[:m],
            self.corner[:m],
            self.pinned[:m],
            self.angle[:m],
            self.handle[:m],
            self.closed,
        )

    def curves(self) -> FloatArray:
        """Return the control points, shape (segments, 4, 2)."""
        m = self.count
        return np.asarray(
            spline_geometry.all_controls(
                self.segments, self.node[:m], self.line[:m], self.angle[:m], self.handle[:m]
            )
        )

    def outliers(self, limit: float, lost: float) -> list[int]:
        """Return the segments with a point further off than a limit, px, or a smooth node further than `lost`.

        At slender tips more is allowed.
        """
        gone = spline_geometry.outliers(self.arrays(spare=False), self.segments, float(limit), float(lost))
        return list(np.nonzero(gone)[0].tolist())

    def start_over(self, segments: list[int], tolerance: float, *, keep_corners: bool = False) -> None:
        """Fit some segments anew from the points alone, their nodes put back onto the points.

        For segments that went astray: extrapolated tips that ran off, handles that made a loop. Corners that
        were put in their place may be kept.
        """
        n, m = len(self.points), self.count
        for k in segments:
            j = (k + 1) % m
            start = int(self.first[k])
            last = int(self.first[j]) if j > k else int(self.first[j]) + n
            run = np.arange(start, max(last, start + 1)) % n
            self.weight[run] = 1.0
            self.line[k] = False
            for node, place, end in ((k, start, 0), (j, last, 1)):
                point = self.points[place % n if self.closed else min(place, n - 1)]
                # What was put in its place with care stays there: ends of an open spline, corners near by.
                near = keep_corners and math.dist(self.node[node], point) < _HELD_PX
                held = self.pinned[node] and (near if self.closed else node in (0, m - 1))
                if not held:
                    self.node[node] = point
                    self.pinned[node] = False
                self._set_direction(k, node, place, end, len(run))
            self.handle[k] = float(np.hypot(*(self.node[j] - self.node[k]))) / 3
            spline_geometry.spread_parameters(self.points, self.at, start, max(last - start, 1))
        if self.closed:
            self.refine(near=segments, rounds=4)
        self._work(spline_steps.SPLIT, tolerance, _ALL_OVER, 2)

    def smooth_spikes(self, pixel_px: float) -> int:
        """Make smooth those corners of a closed spline that turn far more than their points do; returns how many."""
        m = self.count
        pace = max(1, round(pixel_px))
        if not self.closed or len(self.points) < 24 * pace or m < 3:
            return 0
        made: AnyArray = node_insertion.smooth_spikes(self.arrays(spare=False), pace)
        if len(made):
            self.refine(near=made.tolist())
        return len(made)

    def turns(self) -> FloatArray:
        """Return by how much the spline turns at each node, radians; 0 at the ends of an open one."""
        return np.asarray(spline_geometry.turns_at(self.count, self.angle, self.closed))

    def _set_direction(self, k: int, node: int, place: int, end: int, length: int) -> None:
        """Give segment k its direction at one end from the points there, on both sides if the node is smooth."""
        n, m = len(self.points), self.count
        pace = max(1, min(3, length // 3))
        inward, outward = (place + pace, place - pace) if end == 0 else (place - pace, place + pace)
        if self.corner[node]:
            outward = place
        if self.closed:
            inward, outward = inward % n, outward % n
        else:
            inward, outward = min(max(inward, 0), n - 1), min(max(outward, 0), n - 1)
        direction = self.points[inward] - self.points[outward]
        if end == 1:
            direction = -direction
        if np.hypot(*direction) < 1e-9:
            other = self.node[(node + 1) % m] if end == 0 else self.node[(node - 1) % m]
            direction = other - self.node[node] if end == 0 else self.node[node] - other
        neighbour = (k - 1) % m if end == 0 else (k + 1) % m
        if not self.corner[node] and self.line[neighbour]:
            # A line that goes on smoothly has its own direction.
            direction = self.node[(neighbour + 1) % m] - self.node[neighbour]
        self.angle[k, end] = math.atan2(direction[1], direction[0])
        if not self.corner[node]:
            self.angle[neighbour, 1 - end] = self.angle[k, end]

    def round_off(self, k: int, radius: float) -> bool:
        """Replace corner k by an arc that touches both its sides; returns whether it was: there is a node more then.

        It is not at an end of an open spline, nor if the arc would be wider than the sides are long.
        """
        m = self.count
        if m + 1 >= self.room or not (self.closed or 0 < k < m - 1):
            return False
        left = (k - 1) % m
        incoming, outgoing = self.angle[left, 1], self.angle[k, 0]
        turn = math.remainder(outgoing - incoming, 2 * math.pi)
        back = radius * math.tan(abs(turn) / 2)
        tip = self.node[k].copy()
        sides = [float(np.linalg.norm(self.node[j % m] - tip)) for j in (k - 1, k + 1)]
        if back > _SIDE_SHARE * min(sides):
            return False
        if k == 0:
            self._count_from_earlier()
        self._double_node(k)
        self.node[k] = tip - back * np.array([math.cos(incoming), math.sin(incoming)])
        self.node[k + 1] = tip + back * np.array([math.cos(outgoing), math.sin(outgoing)])
        self.first[k + 1] += 1
        self.line[k] = False
        self.corner[k : k + 2] = False
        # Hardly a point tells of the round end of a slender tip: it stays as its ink put it.
        self.pinned[k : k + 2] = abs(turn) > _SLENDER_RAD
        self.angle[k] = incoming, outgoing
        self.handle[k] = 4.0 / 3.0 * math.tan(abs(turn) / 4) * radius
        self.begin_at_nearest(k, (k - 1) % self.count, k + 1)
        self.begin_at_nearest(k + 1, k, (k + 2) % self.count)
        # With the corner gone its points have their say again: nothing else holds the arc.
        beside = np.linalg.norm(self.points - tip, axis=1) < back + _BESIDE_ARC_PX
        self.weight[beside] = np.maximum(self.weight[beside], _ARC_WEIGHT)
        return True

    def _count_from_earlier(self) -> None:
        """Number the points from the middle of the last segment on, so that the first one may begin earlier."""
        n, m = len(self.points), self.count
        ahead = (n + int(self.first[0]) - int(self.first[m - 1])) // 2
        for name in ("points", "weight", "at"):
            setattr(self, name, np.roll(getattr(self, name), ahead, axis=0))
        self.first[:m] += ahead

    def _double_node(self, k: int) -> None:
        """Make room after node k: a second one like it, and a second segment like the one after it."""
        m = self.count
        for array in (self.node, self.first, self.line, self.corner, self.pinned, self.angle, self.handle):
            array[k + 1 : m + 1] = array[k:m].copy()
        self.count = m + 1

    def begin_at_nearest(self, k: int, before: int, after: int) -> None:
        """Let the segment after node k, which moved, begin at the measured point nearest to it.

        It lies between where the segments after two other nodes begin.
        """
        m = self.count
        node_insertion.begin_at_nearest(self.points, k, before, after, self.node[:m], self.first[:m])

    def pin_node_at(self, k: int, t: float) -> None:
        """Put a smooth node that stays where it is into curve k at a parameter; the spline keeps its shape."""
        if self.count + 1 >= self.room:
            return
        halves = bezier.split(self.curves()[k : k + 1], 0, t)
        self._double_node(k)
        self.node[k + 1] = halves[1, 0]
        self.corner[k + 1], self.pinned[k + 1] = False, True
        for half, segment in zip(halves, (k, k + 1), strict=True):
            for end, step in enumerate((half[1] - half[0], half[3] - half[2])):
                self.handle[segment, end] = math.hypot(*step)
                self.angle[segment, end] = math.atan2(step[1], step[0])
        after = (k + 2) % self.count
        self.first[k + 1] = self.first[k] + 1
        self.begin_at_nearest(k + 1, k, after)
