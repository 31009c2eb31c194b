"""Nearest places on straight pieces, against shapely's distances."""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString, MultiLineString

from samples import examples
from zeichen.core.geometry.nearest import nearest_on, nearest_on_lines


@examples(18)
@given(st.integers(0, 2**32 - 1), st.integers(1, 60), st.sampled_from([0.1, 3.0, 400.0]))
def test_distances_are_those_of_a_reference_library(seed, count, spread):
    """Reference: shapely's (GEOS') distance from a point to a set of lines."""
    rng = np.random.default_rng(seed)
    start = rng.uniform(-50, 50, (count, 2))
    end = start + rng.normal(0, spread, (count, 2))
    points = rng.uniform(-90, 90, (50, 2))
    way, piece = nearest_on(points, start, end)
    lines = MultiLineString([LineString(pair) for pair in zip(start, end, strict=True)])
    assert np.allclose(np.hypot(*way.T), shapely.distance(shapely.points(points), lines), atol=1e-9)
    for place, k in zip(points + way, piece, strict=True):
        assert LineString([start[k], end[k]]).distance(shapely.Point(place)) < 1e-9


def test_a_polyline_of_one_point_is_that_point():
    way, piece, pieces = nearest_on_lines(np.array([[3.0, 4.0]]), [np.zeros((1, 2)), np.full((2, 2), 9.0)])
    assert way.tolist() == [[-3.0, -4.0]]
    assert (piece.tolist(), pieces.shape) == ([0], (2, 2, 2))


def test_many_pieces_in_one_place_and_one_far_away():
    start = np.vstack([np.zeros((500, 2)), [[1e5, 0.0]]])
    end = np.vstack([np.full((500, 2), 1e-3), [[1e5, 1.0]]])
    way, piece = nearest_on(np.array([[99_990.0, 0.5], [-1.0, 0.0]]), start, end)
    assert way[0] == pytest.approx([10.0, 0.0])
    assert piece[0] == 500
    assert way[1] == pytest.approx([1.0, 0.0])


def test_without_pieces_there_is_nothing_near():
    with pytest.raises(ValueError, match="no piece"):
        nearest_on(np.zeros((1, 2)), np.zeros((0, 2)), np.zeros((0, 2)))
