"""A spline as compiled functions take it: one value."""

from typing import NamedTuple

from zeichen.core.compiled import counted
from zeichen.core.values import AnyArray, BoolArray, FloatArray


class SplineArrays(NamedTuple):
    """Measured points, and the nodes and segments along them. All arrays are changed in place.

    points, weight, at: (n, 2) px, (n,), (n,): the points, their weights, their parameters on the spline.
    node, first: (m, 2) px, (m,): the nodes, and the index of the point where the segment after each starts.
    line: (m,): whether that segment is a line. corner, pinned: (m,): of each node.
    angle, handle: (m, 2) radians, px: of each segment's start and end.
    closed: whether the last node is joined to the first.
    """

    points: FloatArray
    weight: FloatArray
    at: FloatArray
    node: FloatArray
    first: AnyArray
    line: BoolArray
    corner: BoolArray
    pinned: BoolArray
    angle: FloatArray
    handle: FloatArray
    closed: bool


class Window(NamedTuple):
    """The segments s0 .. s0 + wide - 1 of a spline of so many segments; p: (4, 2), room for one of them.

    aligned: handles at corners too short to be felt point where the curve goes.
    """

    spline: SplineArrays
    s0: int
    wide: int
    segments: int
    aligned: bool
    p: FloatArray


@counted
def up_to(spline: SplineArrays, count: int) -> SplineArrays:
    """Return a spline of the first so many nodes: arrays may have room for more."""
    points, weight, at, node, first, line, corner, pinned, angle, handle, closed = spline
    return SplineArrays(
        points,
        weight,
        at,
        node[:count],
        first[:count],
        line[:count],
        corner[:count],
        pinned[:count],
        angle[:count],
        handle[:count],
        closed,
    )
