"""Centrelines of bars, crosses and rings whose axes are known."""

import math
from itertools import pairwise

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from samples import examples, is_thorough, pen
from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry import bezier
from zeichen.core.methods import Method
from zeichen.core.raster import Picture
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace


def lines(picture, **changes):
    return trace(picture, TraceSettings(method=Method.CENTRELINE, **changes)).drawing


def length(drawing) -> float:
    return sum(float(bezier.arc_lengths(path.segments).sum()) for path in drawing.paths)


@examples(10)
@given(st.floats(0, math.pi), st.floats(5, 14))
def test_a_bar_is_one_stroke_along_its_axis_with_its_width(angle, width):
    way = np.array([math.cos(angle), math.sin(angle)])
    first, last = np.array([100.0, 100.0]) - 60 * way, np.array([100.0, 100.0]) + 60 * way
    (shape,) = lines(pen([[tuple(first), tuple(last)]], width=width)).shapes
    (path,) = shape.paths
    assert not path.closed and shape.stroke_width == pytest.approx(width, abs=0.35)
    run = bezier.flatten(path.segments, tolerance=0.01)
    across = np.abs((run - first) @ np.array([-way[1], way[0]]))
    assert across.max() < 0.3
    assert sum(bezier.arc_lengths(path.segments)) == pytest.approx(120, abs=1.2)


@pytest.mark.parametrize("width", [5.5, 7, 9])
def test_no_part_of_a_bar_is_lost_at_any_angle(width):
    for angle in np.linspace(0, math.pi, 31, endpoint=False):
        way = np.array([math.cos(angle), math.sin(angle)])
        ends = [(100 - 60 * way[0], 100 - 60 * way[1]), (100 + 60 * way[0], 100 + 60 * way[1])]
        assert length(lines(pen([ends], width=width))) == pytest.approx(120, abs=1.2)


def test_a_ring_is_one_closed_stroke():
    turn = np.linspace(0, 2 * math.pi, 120, endpoint=False)
    circle = [(100 + 60 * math.cos(t), 100 + 60 * math.sin(t)) for t in turn]
    (shape,) = lines(pen([circle], closed=(0,))).shapes
    (path,) = shape.paths
    assert path.closed and len(path.segments) <= 6
    run = bezier.flatten(path.segments, tolerance=0.01)
    assert np.abs(np.linalg.norm(run - 100, axis=1) - 60).max() < 0.3


def test_a_cross_is_two_strokes_that_run_straight_on():
    drawing = lines(pen([[(30, 100), (170, 100)], [(100, 30), (100, 170)]]))
    assert len(drawing.shapes) == 2
    for path in drawing.paths:
        run = bezier.flatten(path.segments, tolerance=0.01)
        narrow = np.ptp(run, axis=0).min()
        assert narrow < 0.4 and np.ptp(run, axis=0).max() == pytest.approx(140, abs=1.5)


def test_a_side_branch_ends_on_the_stroke_that_goes_on():
    drawing = lines(pen([[(30, 60), (170, 60)], [(100, 60), (100, 160)]]))
    assert len(drawing.shapes) == 2 and length(drawing) == pytest.approx(240, abs=2.5)
    ends = np.concatenate([path.segments[[0, -1], [0, 3]] for path in drawing.paths])
    assert np.linalg.norm(ends - (100, 60), axis=1).min() < 0.6


@pytest.mark.parametrize("half_px", [18, 22])
@pytest.mark.parametrize("degrees", [0, 130, 150, 170])
@pytest.mark.parametrize("leg_px", [9, 10, 11, 12])
def test_a_line_that_ends_just_beyond_a_bar_loses_nothing_and_does_not_wind(degrees, half_px, leg_px):
    along, way = (
        np.array([math.cos(turn), math.sin(turn)]) for turn in (math.atan2(150, 60), math.radians(degrees))
    )
    middle = np.array([110.0, 160.0]) - leg_px * along
    drawn = [[(50.0, 10.0), (110.0, 160.0)], [tuple(middle - half_px * way), tuple(middle + half_px * way)]]
    paths = lines(pen(drawn)).paths
    runs = shapely.MultiLineString([bezier.flatten(path.segments, tolerance=0.01) for path in paths])
    true = shapely.MultiLineString(drawn)
    assert shapely.hausdorff_distance(shapely.segmentize(runs, 0.25), shapely.segmentize(true, 0.25)) < 3.3


def drawn_at_random(seed: int) -> tuple[list[list[tuple[float, float]]], float]:
    """Two to four straight or gently bent strokes of one pen on a 256 px sheet, and how wide the pen is."""
    rng = np.random.default_rng(seed)
    wanted, width = rng.integers(2, 5), float(rng.uniform(5, 11))
    t = np.linspace(0.0, 1.0, 60)[:, None]
    strokes: list[list[tuple[float, float]]] = []
    while len(strokes) < wanted:
        bent = rng.integers(3) > 0
        ends = rng.uniform(25, 231, (2, 2))
        if np.hypot(*(ends[1] - ends[0])) < 50:
            continue
        points = ends
        if bent:
            a, b = ends.mean(axis=0) + rng.normal(0, 45, (2, 2))
            points = (
                (1 - t) ** 3 * ends[0] + 3 * (1 - t) ** 2 * t * a + 3 * (1 - t) * t**2 * b + t**3 * ends[1]
            )
            step = np.diff(points, axis=0)
            bend = np.abs(np.diff(np.unwrap(np.arctan2(step[:, 1], step[:, 0])))) / np.hypot(*step.T)[1:]
            if points.min() < 20 or points.max() > 236 or bend.max() > 1 / (1.2 * width):
                continue
        strokes.append([(float(x), float(y)) for x, y in points])
    return strokes, width


def test_nothing_much_is_lost_or_made_up_where_lines_lie_over_each_other_anyhow():
    worst = []
    for seed in range(60 if is_thorough() else 36):
        strokes, width = drawn_at_random(seed)
        paths = lines(pen(strokes, width=width, size=256)).paths
        runs = shapely.MultiLineString([bezier.flatten(path.segments, tolerance=0.02) for path in paths])
        true = shapely.MultiLineString(strokes)
        apart = shapely.hausdorff_distance(shapely.segmentize(runs, 0.5), shapely.segmentize(true, 0.5))
        worst.append(apart / width)
    # Lines that lie side by side for long have one outline together: no picture shows where either runs.
    assert np.median(worst) < 0.25
    assert np.mean(np.array(worst) > 1.0) < 0.04
    assert max(worst) < 2.0


def test_a_corner_of_a_stroke_stays_a_corner():
    (shape,) = lines(pen([[(40, 150), (40, 50), (160, 50)]])).shapes
    nodes = shape.paths[0].segments[:, 0]
    assert np.linalg.norm(nodes - (40, 50), axis=1).min() < 0.6
    assert length(lines(pen([[(40, 150), (40, 50), (160, 50)]]))) == pytest.approx(220, abs=2)


def test_what_is_too_thick_for_a_line_is_kept_as_an_outline():
    picture = pen([[(20, 170), (180, 170)]], width=8)
    rgb = picture.rgb.copy()
    cv2.circle(rgb, (100, 80), 40, (0, 0, 0), -1, cv2.LINE_AA)
    drawing = lines(Picture(rgb))
    filled = [shape for shape in drawing.shapes if shape.stroke_width is None]
    assert len(filled) == 1 and len(drawing.shapes) == 2
    assert filled[0].area == pytest.approx(math.pi * 40.5**2, rel=0.02)
    assert filled[0].id.startswith("f")


def test_strokes_are_ordered_for_little_travel():
    drawing = lines(pen([[(20, y), (180, y)] for y in (30, 150, 70, 110)]))
    ends = [(path.segments[0, 0], path.segments[-1, 3]) for path in drawing.paths]
    travel = sum(float(np.linalg.norm(b[0] - a[1])) for a, b in pairwise(ends))
    assert travel == pytest.approx(3 * 40, abs=4)


def test_light_lines_on_dark_are_traced_inverted():
    picture = pen([[(30, 100), (170, 100)]])
    (shape,) = lines(Picture(255 - picture.rgb), invert=True).shapes
    assert shape.stroke_width == pytest.approx(9, abs=0.35)


def test_specks_are_no_lines():
    picture = pen([[(30, 100), (170, 100)]])
    rgb = picture.rgb.copy()
    rgb[20:22, 20:22] = 0
    assert len(lines(Picture(rgb)).shapes) == 1
    with pytest.raises(InvalidInputError, match="No lines are left"):
        lines(Picture(rgb), min_spot_px2=5000)
