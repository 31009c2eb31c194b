"""Known drawings of one pen: dashes, dots, feet, hooks, rings, bends and corners come out as they were drawn."""

import math

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from samples import examples, pen
from zeichen.core.geometry import bezier
from zeichen.core.methods import Method
from zeichen.core.raster import Picture
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace

WIDTH = 12.0


def lines(picture):
    return trace(picture, TraceSettings(method=Method.CENTRELINE)).drawing


def apart(drawing, true: list[list[tuple[float, float]]]) -> float:
    """How far the strokes of a drawing and true ones are from each other at most, either way, px."""
    runs = shapely.MultiLineString([bezier.flatten(path.segments, tolerance=0.01) for path in drawing.paths])
    both = (shapely.segmentize(line, 0.25) for line in (runs, shapely.MultiLineString(true)))
    return float(shapely.hausdorff_distance(*both))


@examples(11)
@given(st.floats(0.5, 2.0), st.floats(0, math.pi), st.floats(0, 1), st.floats(0, 1))
def test_a_dash_shorter_than_the_pen_is_wide_is_a_stroke(share, angle, x, y):
    along = 0.5 * share * WIDTH * np.array([math.cos(angle), math.sin(angle)])
    middle = np.array([90.0 + x, 120.0 + y])
    true = [[(30, 40), (170, 40)], [tuple(middle - along), tuple(middle + along)]]
    drawing = lines(pen(true, width=WIDTH))
    assert [shape.stroke_width is None for shape in drawing.shapes] == [False, False]
    assert apart(drawing, true) < 0.6
    assert [shape.stroke_width for shape in drawing.shapes] == pytest.approx([WIDTH, WIDTH], abs=0.5)


@pytest.mark.parametrize("leg", [0.9, 1.2, 1.5])
@pytest.mark.parametrize("turn_deg", [70, 90])
def test_a_short_line_with_a_corner_is_no_dash_across_it(leg, turn_deg):
    turn = math.radians(turn_deg)
    corner = np.array([90.4, 120.7])
    ends = corner - (leg * WIDTH, 0.0), corner + leg * WIDTH * np.array([math.cos(turn), -math.sin(turn)])
    true = [[(30, 40), (170, 40)], [tuple(ends[0]), tuple(corner), tuple(ends[1])]]
    assert apart(lines(pen(true, width=WIDTH)), true) < 0.25 * WIDTH


def test_a_dot_stays_an_outline():
    drawing = lines(pen([[(30, 40), (170, 40)], [(60, 120), (60, 120)]], width=WIDTH))
    assert [shape.stroke_width is None for shape in drawing.shapes] == [False, True]


@pytest.mark.parametrize("foot", [0.75, 0.9, 1.2])
@pytest.mark.parametrize("turn_deg", [0, 20, 65])
def test_the_foot_of_a_line_is_drawn_to_its_end(foot, turn_deg):
    turn = math.radians(turn_deg)
    spun = np.array([[math.cos(turn), math.sin(turn)], [-math.sin(turn), math.cos(turn)]])
    points = np.array([(0, -80), (0, 0), (foot * WIDTH, 0)]) @ spun + (95.3, 110.6)
    true = [[tuple(point) for point in points.tolist()]]
    drawing = lines(pen(true, width=WIDTH))
    runs = shapely.MultiLineString([bezier.flatten(path.segments, tolerance=0.01) for path in drawing.paths])
    assert runs.distance(shapely.Point(true[0][-1])) < 0.35 * WIDTH
    assert apart(drawing, true) < 0.4 * WIDTH


@pytest.mark.parametrize("beyond", [0.6, 0.8, 1.0])
def test_a_line_is_drawn_to_its_end_beyond_another_that_runs_into_it(beyond):
    t = np.linspace(0, 1, 40)
    merging = [(110 - 60 * (1 - u) ** 2, 60 + beyond * WIDTH + 55 * (1 - u)) for u in t]
    true = [[(110, 60), (110, 170)], merging]
    assert apart(lines(pen(true, width=WIDTH)), true) < 2.5


def test_a_short_line_beside_another_is_one_of_its_own():
    true = [[(30, 100), (170, 100)], [(80, 100 - 0.8 * WIDTH), (125, 100 - 0.8 * WIDTH)]]
    drawing = lines(pen(true, width=WIDTH))
    assert len(drawing.shapes) == 2
    assert apart(drawing, true) < 1.5


@pytest.mark.parametrize("turn_deg", [60, 90, 110])
@pytest.mark.parametrize("widths", [0.55, 0.7, 1.0, 1.3, 1.6])
def test_a_round_bend_of_a_line_is_followed_and_no_corner(widths, turn_deg):
    radius, turn = widths * WIDTH, math.radians(turn_deg)
    arc = np.linspace(0, turn, 40)
    bend = np.column_stack([radius * np.sin(arc), radius * (1 - np.cos(arc))])
    way = np.array([math.cos(turn), math.sin(turn)])
    points = np.vstack([[(-70.0, 0.0)], bend, [bend[-1] + 60 * way]]) + np.array([90.4, 60.7])
    true = [[tuple(point) for point in points.tolist()]]
    assert apart(lines(pen(true, width=WIDTH)), true) < 0.6


@pytest.mark.parametrize("turn_deg", [60, 90, 110])
def test_a_corner_of_a_line_has_a_node_with_two_directions(turn_deg):
    turn = math.radians(turn_deg)
    corner = np.array([90.4, 60.7])
    ends = corner - (70.0, 0.0), corner + 70 * np.array([math.cos(turn), math.sin(turn)])
    true = [[tuple(ends[0]), tuple(corner), tuple(ends[1])]]
    (path,) = lines(pen(true, width=WIDTH)).paths
    k = int(np.linalg.norm(path.segments[1:, 0] - corner, axis=1).argmin())
    before, after = path.segments[k], path.segments[k + 1]
    come, go = before[3] - before[2], after[1] - after[0]
    bend = math.degrees(math.acos(come @ go / math.hypot(*come) / math.hypot(*go)))
    assert np.linalg.norm(after[0] - corner) < 1.0 and bend > 0.7 * turn_deg


HOOK = np.array([140.3, 110.6])


@pytest.mark.parametrize(
    ("soft", "turn_deg"), [(False, -140), (False, 125), (False, 150), (True, -140), (True, 125)]
)
def test_a_traced_hook_is_the_drawn_one(turn_deg, soft):
    turn = math.radians(turn_deg)
    end = HOOK + 1.1 * WIDTH * np.array([math.cos(turn), math.sin(turn)])
    picture = pen([[(30.0, 110.6), tuple(HOOK), tuple(end)]], width=WIDTH)
    if soft:
        half = cv2.resize(picture.rgb, (100, 100), interpolation=cv2.INTER_AREA)
        picture = Picture(cv2.resize(half, (200, 200), interpolation=cv2.INTER_CUBIC))
    (path,) = trace(picture, TraceSettings(method=Method.CENTRELINE)).drawing.paths
    drawn = shapely.LineString([(30.0, 110.6), HOOK, end])
    run = shapely.LineString(bezier.flatten(path.segments, tolerance=0.01))
    off = shapely.hausdorff_distance(shapely.segmentize(run, 0.25), shapely.segmentize(drawn, 0.25))
    assert off < (0.2 if soft else 0.12) * WIDTH


THIN = 6.0


def circle(x: float, y: float, radius: float) -> list[tuple[float, float]]:
    turns = np.linspace(0.0, 2.0 * math.pi, 61)
    return [(x + radius * math.cos(t), y + radius * math.sin(t)) for t in turns]


def traced(directions: list[list[tuple[float, float]]]) -> list[shapely.LineString]:
    paths = trace(pen(directions, width=THIN), TraceSettings(method=Method.CENTRELINE)).drawing.paths
    return [shapely.LineString(bezier.flatten(path.segments, tolerance=0.01)) for path in paths]


@pytest.mark.parametrize("radius", [5.5, 7.0, 9.0])
def test_a_small_ring_is_a_ring(radius):
    line = [(20.0, 150.0), (180.0, 150.3)]
    lines = traced([circle(60.3, 60.7, radius), circle(110.1, 70.2, radius), line])
    assert len(lines) == 3 and sum(run.is_ring for run in lines) == 2
    true = shapely.MultiLineString([circle(60.3, 60.7, radius), circle(110.1, 70.2, radius), line])
    drawn = shapely.segmentize(shapely.MultiLineString(lines), 0.25)
    assert shapely.hausdorff_distance(drawn, shapely.segmentize(true, 0.25)) < 0.5


def test_a_small_triangle_is_closed_and_near_the_drawn_one():
    corners = [(38.5, 61.5), (50.0, 40.0), (61.5, 61.5), (38.5, 61.5)]
    (run,) = traced([corners])
    assert run.is_ring
    assert shapely.hausdorff_distance(shapely.segmentize(run, 0.25), shapely.LineString(corners)) < 0.6 * THIN


CORNER = np.array([100.3, 120.6])
# From the corner on; the third line ends on the second one.
ENDS = [np.array([96.0, 40.0]), np.array([170.0, 92.0]), np.array([165.0, 165.0])]
MEETS = CORNER + 0.2 * (ENDS[1] - CORNER)


@pytest.mark.parametrize("turned", [0, 1, 2, 3])
def test_a_corner_another_line_ends_beside_stays_one(turned):
    """Two strokes, one of them with the corner, whichever way the picture lies."""
    picture = pen(
        [[tuple(ENDS[0]), tuple(CORNER), tuple(ENDS[1])], [tuple(ENDS[2]), tuple(MEETS)]], width=14.0
    )
    rgb = np.ascontiguousarray(np.rot90(picture.rgb, turned))
    drawing = trace(type(picture)(rgb), TraceSettings(method=Method.CENTRELINE)).drawing
    assert len(drawing.paths) == 2
    size = float(rgb.shape[0])
    x, y = CORNER
    place = {0: (x, y), 1: (y, size - x), 2: (size - x, size - y), 3: (size - y, x)}[turned]
    nodes = np.concatenate([path.segments[:, 0] for path in drawing.paths])
    assert np.hypot(*(nodes - place).T).min() < 1.0
