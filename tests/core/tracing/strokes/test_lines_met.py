"""Where ways touch lines and what lies beside a place: kernels against shapely, numpy and hand-made cases."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from zeichen.core.geometry import bezier
from zeichen.core.tracing.strokes.lines_met import Lines, _far_from_end, _first_touch
from zeichen.core.tracing.strokes.lines_met import walked as walked_along

# Sixteenths of a pixel: shapely divides by zero on segments of 1e-170 px, which no picture has.
coordinates = st.integers(0, 960).map(lambda sixteenths: sixteenths / 16)
NEAR_PX = 0.6


def walked(points: list[tuple[float, float]]) -> np.ndarray:
    """A polyline with points at most a pixel apart."""
    return np.array(shapely.segmentize(shapely.LineString(points), 1.0).coords)


def touch(way: np.ndarray, *lines: np.ndarray, closed: bool = False) -> tuple[float, np.ndarray]:
    them = Lines.of([(line, closed) for line in lines])
    return _first_touch(way, them.points, them.starts, them.closed, them.boxes, -1, 0, 0, NEAR_PX)


@st.composite
def polylines(draw, least: int = 2) -> np.ndarray:
    points = draw(st.lists(st.tuples(coordinates, coordinates), min_size=least, max_size=4, unique=True))
    return walked(points)


@settings(max_examples=80)
@given(polylines(), st.lists(polylines(), min_size=1, max_size=3), st.booleans())
def test_the_first_touch_is_where_shapely_finds_one(way, lines, closed):
    at, place = touch(way, *lines, closed=closed)
    others = shapely.MultiLineString(
        [np.vstack([line, line[:1]]) if closed and len(line) > 2 else line for line in lines]
    )
    near = np.nonzero(shapely.distance(shapely.points(way), others) < NEAR_PX)[0]
    crossed = shapely.intersects(shapely.LineString(way), others)
    assert (at >= 0) == bool(len(near) or crossed)
    if at >= 0:
        assert shapely.distance(shapely.Point(place), others) < 1e-6
        assert shapely.distance(shapely.Point(place), shapely.LineString(way)) < NEAR_PX + 1e-6
        # Nothing before it was near.
        assert not len(near) or near[0] >= math.floor(at)


def test_a_closed_line_is_touched_between_its_last_point_and_its_first():
    square = np.array([[10.0, 10.0], [30.0, 10.0], [30.0, 30.0], [10.0, 30.0]])
    way = walked([(0, 20), (20, 20)])
    assert touch(way, square, closed=True)[1] == pytest.approx([10, 20], abs=NEAR_PX)
    assert touch(way, square, closed=False)[0] == -1


@given(st.integers(0, 1000), st.integers(1, 30), st.floats(0.0, 40.0), st.booleans())
def test_what_is_far_from_an_end_is_further_along_the_line_than_that(seed, count, reach, from_start):
    points = np.random.default_rng(seed).normal(0, 3, (count + 4, 2)).cumsum(axis=0)
    first, last = 2, count + 2
    line = points[first:last] if from_start else points[first:last][::-1]
    far = bezier.lengths_along(line) > reach
    begin, end = _far_from_end(points, first, last, from_start, reach)
    assert end - begin == far.sum()
    if far.any():
        assert (end == last) if from_start else (begin == first)


def test_of_its_own_line_a_way_touches_only_what_is_far_from_its_end():
    loop = walked([(0, 0), (20, 0), (20, 10), (3, 10), (3, -5)])
    way = walked([(0, 0), (6, 0)])
    them = Lines.of([(loop, False)])
    given = them.points, them.starts, them.closed, them.boxes
    # Its beginning lies on the way; the loop's end crosses it.
    at, place = _first_touch(way, *given, 0, 30, len(loop), NEAR_PX)
    assert at == pytest.approx(3.0, abs=NEAR_PX) and place == pytest.approx([3, 0], abs=NEAR_PX)
    assert _first_touch(way, *given, 0, 0, 0, NEAR_PX)[0] == -1.0


@given(st.lists(polylines(), min_size=1, max_size=3), coordinates, coordinates, st.floats(1.0, 40.0))
def test_beside_a_place_are_the_points_within_reach_in_their_order(lines, x, y, reach):
    for without in range(-1, len(lines)):
        found = Lines.of([(line, False) for line in lines]).beside(
            np.array([x, y]), reach, without=[] if without < 0 else [without]
        )
        expected = [
            point
            for number, line in enumerate(lines)
            for point in line
            if number != without and np.hypot(*(point - [x, y])) < reach
        ]
        assert np.array_equal(found[~np.isnan(found[:, 0])], np.reshape(expected, (-1, 2)))
        # Only neighbours of one line follow each other.
        near = np.hypot(*np.diff(found, axis=0).T)
        assert not (near > 1.0 + 1e-9).any()


def test_a_way_meets_others_and_the_far_part_of_its_own_line():
    own = walked([(0, 0), (90, 0), (90, 40), (10, 40), (10, -20)])
    other = walked([(60, -30), (60, 30)])
    lines = Lines.of([(own, False), (other, False)])
    # From its first point on: its own end crosses the way, at once without its being its own.
    way = walked([(0, 0), (80, 0.4)])
    at, place = lines.met_by(way, 4.0, 0, 0)
    assert at == pytest.approx(10, abs=1.0) and place == pytest.approx([10, 0], abs=1.0)
    assert lines.touched_by(way, 4.0)[0] == 0.0
    assert lines.touched_by(way, 4.0, without=0)[1] == pytest.approx([60, 0.3], abs=0.7)
    assert lines.touched_by(walked([(20, 10), (50, 30)]), 4.0)[0] == -1.0


@given(polylines())
def test_a_polyline_walked_has_its_ends_its_length_and_points_a_pixel_apart(points):
    way = walked_along(points)
    line = shapely.LineString(points)
    assert way[[0, -1]] == pytest.approx(points[[0, -1]])
    assert np.hypot(*np.diff(way, axis=0).T).max() < 1.0 + 1e-9
    assert shapely.distance(shapely.points(way), line).max() < 1e-9
    assert math.ceil(line.length) + 1 == pytest.approx(len(way), abs=1)
