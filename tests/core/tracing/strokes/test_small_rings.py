"""Small rings of thin lines: circles and eyes of known middle, among longer lines."""

import math

import numpy as np
import pytest
import shapely

from samples import pen
from zeichen.core.geometry import bezier
from zeichen.core.methods import Method
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.strokes.skeleton import Branch, Skeleton
from zeichen.core.tracing.strokes.small_rings import _is_small_ring, _pieces, enlarged_rings
from zeichen.core.tracing.trace import trace

WIDTH = 6.0


def circle(x: float, y: float, radius: float) -> list[tuple[float, float]]:
    turns = np.linspace(0.0, 2.0 * math.pi, 61)
    return [(x + radius * math.cos(t), y + radius * math.sin(t)) for t in turns]


def traced(ways: list[list[tuple[float, float]]]) -> list[shapely.LineString]:
    paths = trace(pen(ways, width=WIDTH), TraceSettings(method=Method.CENTRELINE)).drawing.paths
    return [shapely.LineString(bezier.flatten(path.segments, tolerance=0.01)) for path in paths]


@pytest.mark.parametrize("radius", [4.8, 5.5, 7.0, 9.0])
def test_a_small_ring_is_a_ring(radius):
    line = [(20.0, 150.0), (180.0, 150.3)]
    lines = traced([circle(60.3, 60.7, radius), circle(110.1, 70.2, radius), line])
    assert len(lines) == 3 and sum(run.is_ring for run in lines) == 2
    true = shapely.MultiLineString([circle(60.3, 60.7, radius), circle(110.1, 70.2, radius), line])
    drawn = shapely.segmentize(shapely.MultiLineString(lines), 0.25)
    assert shapely.hausdorff_distance(drawn, shapely.segmentize(true, 0.25)) < 0.5


def test_a_small_triangle_is_closed_and_near_the_drawn_one():
    corners = [(42.5, 57.5), (50.0, 44.0), (57.5, 57.5), (42.5, 57.5)]
    (run,) = traced([corners])
    assert run.is_ring
    assert (
        shapely.hausdorff_distance(shapely.segmentize(run, 0.25), shapely.LineString(corners)) < 0.6 * WIDTH
    )


def branch(count: int, start: int, end: int, *, loop: bool = False) -> Branch:
    return Branch(np.zeros((count, 2)), start, end, loop)


def test_pieces_are_what_hangs_together_by_meetings():
    branches = [
        branch(5, -1, 0),
        branch(5, 1, 2),
        branch(5, 2, 0),
        branch(5, -1, 3),
        branch(9, -1, -1, loop=True),
    ]
    pieces = _pieces(Skeleton(branches, np.zeros((4, 2)), WIDTH))
    numbers = {id(branch): number for number, branch in enumerate(branches)}
    assert sorted(sorted(numbers[id(b)] for b in piece) for piece in pieces) == [[0, 1, 2], [3], [4]]


@pytest.mark.parametrize(
    ("piece", "expected"),
    [
        ([branch(30, -1, -1, loop=True)], True),
        ([branch(70, -1, -1, loop=True)], False),
        ([branch(30, -1, -1)], False),
        ([branch(9, 0, 1), branch(19, 0, 1)], True),
        ([branch(9, 0, 0), branch(5, 0, -1)], True),
        ([branch(9, 0, -1), branch(9, 0, -1), branch(9, 0, -1)], False),
    ],
)
def test_rings_are_short_and_go_round_about(piece, expected):
    assert _is_small_ring(piece, WIDTH) is expected


def test_wide_lines_are_not_looked_at():
    skeleton = Skeleton([branch(30, -1, -1, loop=True)], np.zeros((0, 2)), 13.0)
    strokes, left = enlarged_rings(
        np.zeros((40, 40)), skeleton, lambda ink, skeleton: pytest.fail("enlarged")
    )
    assert strokes == [] and left is skeleton
