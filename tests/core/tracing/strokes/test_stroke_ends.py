"""Where strokes end and where they are one line: kernels against shapely, numpy and hand-made cases."""

import math

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st

from samples import pen
from zeichen.core.geometry import bezier
from zeichen.core.methods import Method
from zeichen.core.raster import Picture
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.strokes.knots import _between_knots, _inside
from zeichen.core.tracing.strokes.landing import _turning, nearest
from zeichen.core.tracing.strokes.skeleton import length_of, middles_of
from zeichen.core.tracing.trace import trace

# Sixteenths of a pixel: shapely divides by zero on segments of 1e-170 px, which no picture has.
coordinates = st.integers(0, 960).map(lambda sixteenths: sixteenths / 16)


def walked(points: list[tuple[float, float]]) -> np.ndarray:
    """A polyline with points at most a pixel apart."""
    return np.array(shapely.segmentize(shapely.LineString(points), 1.0).coords)


@st.composite
def polylines(draw, least: int = 2) -> np.ndarray:
    points = draw(st.lists(st.tuples(coordinates, coordinates), min_size=least, max_size=4, unique=True))
    return walked(points)


@given(polylines(), coordinates, coordinates)
def test_the_nearest_point_is_thenearest(points, x, y):
    k, gap = nearest(points, x, y)
    away = np.hypot(*(points - [x, y]).T)
    assert gap == pytest.approx(away.min()) and away[k] == pytest.approx(gap)


@given(st.lists(st.floats(-170, 170), min_size=2, max_size=9))
def test_turning_is_the_sum_of_the_turns(turns_deg):
    heading = np.radians(np.cumsum(turns_deg))
    points = np.cumsum(np.stack([np.cos(heading), np.sin(heading)], axis=1), axis=0)
    points = np.vstack([[0.0, 0.0], points])
    assert _turning(points) == pytest.approx(sum(turns_deg[1:]), abs=1e-6)
    assert _turning(points[:2]) == 0.0


@given(polylines(), st.floats(0, 2 * math.pi))
def test_length_is_shapely_s_and_turns_do_not_change_it(points, turn):
    spun = points @ np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    assert length_of(points) == pytest.approx(shapely.LineString(points).length)
    assert length_of(spun) == pytest.approx(length_of(points))


@given(st.lists(st.tuples(coordinates, coordinates, st.integers(0, 4)), min_size=1, max_size=12))
def test_middles_are_the_means_of_those_with_a_number(rows):
    places, numbers = np.array([row[:2] for row in rows]), [row[2] for row in rows]
    middles = middles_of(places, numbers, 5)
    for number in set(numbers):
        assert middles[number] == pytest.approx(places[np.array(numbers) == number].mean(axis=0))


@pytest.mark.parametrize(
    ("pattern", "expected"),
    [("0111101", (1, 5)), ("1101110", (3, 6)), ("0101010", (1, 6)), ("1111111", (0, 7)), ("0010000", (2, 3))],
)
def test_knotted_ends_are_cut_back_to_three_sound_points_in_a_row(pattern, expected):
    sound = np.array([c == "1" for c in pattern])
    assert _between_knots(sound, True, True) == expected
    assert _between_knots(sound, False, False) == (0, len(sound))
    assert _between_knots(sound, True, False) == (expected[0], len(sound))


@given(st.integers(40, 120), st.floats(6, 12))
def test_a_branch_of_even_width_is_one_line_all_along(count, width):
    inside, own = _inside(np.full(count, width), np.ones(count, bool), False, False, width)
    assert inside.all() and own == pytest.approx(width)


@given(st.integers(60, 120), st.floats(6, 12), st.integers(5, 15))
def test_where_a_branch_is_wide_it_is_not_one_line(count, width, wide):
    assume(wide < 0.2 * count)
    widths = np.full(count, width)
    widths[:wide] = 1.5 * width
    inside, own = _inside(widths, np.ones(count, bool), True, False, width)
    assert not inside[:wide].any() and inside[wide + 3 :].all() and own == pytest.approx(width)


def test_what_cannot_be_measured_is_no_line():
    for widths, good in ((np.full(30, 8.0), np.zeros(30, bool)), (np.full(30, 40.0), np.ones(30, bool))):
        assert _inside(widths, good, True, True, 8.0)[1] < 0


@pytest.mark.parametrize("before", [0.8, 0.9, 0.98])
@pytest.mark.parametrize("slant_deg", [0, 12, 25])
def test_a_line_ends_before_another_where_its_round_end_shows(before, slant_deg):
    width, middle = 12.0, np.array([120.3, 100.6])
    along = np.array([math.sin(math.radians(slant_deg)), math.cos(math.radians(slant_deg))])
    end = middle - (before * width / along[1], 0.0)
    picture = pen(
        [[tuple(middle - 70 * along), tuple(middle + 70 * along)], [(30.0, end[1]), tuple(end)]], width=width
    )
    paths = trace(picture, TraceSettings(method=Method.CENTRELINE)).drawing.paths
    ends = np.concatenate([path.segments[[0, -1], [0, 3]] for path in paths])
    assert len(paths) == 2
    assert np.hypot(*(ends - end).T).min() < 0.1 * width


@pytest.mark.parametrize("slant_deg", [0, 12, 25])
def test_a_line_whose_end_another_hides_is_led_to_its_middle(slant_deg):
    width, middle = 12.0, np.array([120.3, 100.6])
    along = np.array([math.sin(math.radians(slant_deg)), math.cos(math.radians(slant_deg))])
    hidden = middle - (0.3 * width, 0.0)
    drawn = [[tuple(middle - 70 * along), tuple(middle + 70 * along)], [(30.0, hidden[1]), tuple(hidden)]]
    paths = trace(pen(drawn, width=width), TraceSettings(method=Method.CENTRELINE)).drawing.paths
    ends = np.concatenate([path.segments[[0, -1], [0, 3]] for path in paths])
    assert np.hypot(*(ends - middle).T).min() < 1.0


@pytest.mark.parametrize("turn_deg", [90, 110])
def test_a_line_that_turns_at_its_very_end_does_not_end_at_the_rim(turn_deg):
    width, corner = 12.0, np.array([60.4, 100.7])
    foot = corner + 0.6 * width * np.array(
        [math.cos(math.radians(turn_deg)), -math.sin(math.radians(turn_deg))]
    )
    drawn = [[(170.0, 100.7), tuple(corner), tuple(foot)]]
    paths = trace(pen(drawn, width=width), TraceSettings(method=Method.CENTRELINE)).drawing.paths
    runs = shapely.MultiLineString([bezier.flatten(path.segments, tolerance=0.01) for path in paths])
    off = shapely.hausdorff_distance(
        shapely.segmentize(runs, 0.25), shapely.segmentize(shapely.MultiLineString(drawn), 0.25)
    )
    assert off < 0.3 * width


@pytest.mark.parametrize("slant_deg", [0, 10, 30])
@pytest.mark.parametrize("blur", [0.0, 0.7])
def test_a_straight_line_that_runs_into_another_is_straight_to_its_end(slant_deg, blur):
    width, middle = 12.0, np.array([120.3, 100.6])
    along = np.array([math.sin(math.radians(slant_deg)), math.cos(math.radians(slant_deg))])
    picture = pen(
        [[tuple(middle - 70 * along), tuple(middle + 70 * along)], [(30.0, 100.6), tuple(middle)]],
        width=width,
    )
    if blur:
        picture = Picture(cv2.GaussianBlur(picture.rgb, (0, 0), blur))
    paths = trace(picture, TraceSettings(method=Method.CENTRELINE)).drawing.paths
    branch = min(paths, key=lambda path: path.segments[:, :, 0].min())
    run = bezier.flatten(branch.segments, tolerance=0.01)
    assert len(branch.segments) == 1 and np.abs(run[:, 1] - 100.6).max() < 0.2
