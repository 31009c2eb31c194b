"""How a pen turned: what it left on the sheet tells a corner, a round one and two from each other."""

import math
from itertools import pairwise

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from samples import pen
from zeichen.core.geometry import bezier
from zeichen.core.methods import Method
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.strokes.pen_ink import InkWindow, _bring_near
from zeichen.core.tracing.strokes.pen_turn import Side, Turn, turn_between
from zeichen.core.tracing.trace import trace

WIDTH = 12.0
CORNER = np.array([90.4, 110.7])


def ink_of(ways, width: float = WIDTH) -> np.ndarray:
    return np.ascontiguousarray(1.0 - pen(ways, width=width).grey() / 255.0)


def run_along(*stops) -> np.ndarray:
    """Points a pixel apart from stop to stop."""
    pieces = [np.array(stops[:1], float)]
    for a, b in pairwise(np.array(stops, float)):
        pieces.append(a + np.linspace(0, 1, max(2, round(math.dist(a, b))) + 1)[1:, None] * (b - a))
    return np.vstack(pieces)


def way(turn_deg: float) -> np.ndarray:
    return np.array([math.cos(math.radians(turn_deg)), math.sin(math.radians(turn_deg))])


def arc(radius: float, turn_deg: float, start: np.ndarray) -> np.ndarray:
    """Points along an arc that leaves along the x axis and turns to the right."""
    turn = np.linspace(0, math.radians(turn_deg), 40)
    return start + radius * np.column_stack([np.sin(turn), 1 - np.cos(turn)])


def turned(ink, one, other, drafted) -> Turn:
    return turn_between(ink, np.ascontiguousarray(one), np.ascontiguousarray(other), WIDTH, Turn(drafted))


@pytest.mark.parametrize("width", [5.0, 12.0])
def test_a_pens_own_way_leaves_its_ink_and_another_does_not(width):
    bar = np.array([[40.0, 60.3], [150.0, 90.8]])
    ink = ink_of([[tuple(p) for p in bar]], width)
    window = InkWindow(ink, width, np.zeros(2), np.full(2, 200.0), [])
    right = window.off(bar)
    # Of the ink of a bar moved aside one side is missing, and the same is too much on the other.
    aside = np.array([-30.5, 110.0]) / math.hypot(30.5, 110.0)
    moved = window.off(bar + 2.0 * aside)
    assert right < 3.0
    assert moved == pytest.approx(2 * 2.0 * math.dist(*bar), rel=0.25)
    # What is there anyhow needs no way of its own; nan is a gap.
    both = InkWindow(
        ink, width, np.zeros(2), np.full(2, 200.0), [np.vstack([bar[:1], bar[:1] + np.nan, bar])]
    )
    assert both.off(bar[:2] * 0.0) == pytest.approx(right, abs=np.pi / 16 * width**2 + width)


@given(st.floats(30, 200), st.floats(-1, 1), st.floats(0, 2 * math.pi))
def test_a_side_goes_on_along_its_circle(radius, bend, start):
    """Also where it is straight; one that bends by a third of a pixel over three widths is taken for that."""
    bend /= radius
    along = np.arange(-40.0, 31.0)
    turn = start + bend * along
    steps = np.column_stack([np.cos(turn[:-1] + bend / 2), np.sin(turn[:-1] + bend / 2)])
    points = np.vstack([np.zeros((1, 2)), np.cumsum(steps, axis=0)])
    side = Side(points[:41], WIDTH)
    assert side.step == 1.0
    assert np.abs(side.onwards[:20] - points[40:60]).max() < 0.3 + 25.0 * abs(bend)
    assert side.upto(3.5)[-1] == pytest.approx((side.onwards[3] + side.onwards[4]) / 2)


@pytest.mark.parametrize("turn_deg", [40, 75, 100, 130])
def test_a_true_corner_is_found_however_it_was_drafted(turn_deg):
    ends = CORNER - (60.0, 0.0), CORNER + 60.0 * way(turn_deg)
    ink = ink_of([[tuple(ends[0]), tuple(CORNER), tuple(ends[1])]])
    one, other = run_along(ends[0], CORNER - (12.0, 0.0)), run_along(ends[1], CORNER + 12.0 * way(turn_deg))
    found = turned(ink, one, other, CORNER[None] + (3.0, -4.0))
    (corner,) = found.corners
    assert math.dist(corner.place, CORNER) < 0.3 and corner.radius == 0.0


@pytest.mark.parametrize("turn_deg", [75, 100, 120])
@pytest.mark.parametrize("widths", [0.25, 0.4])
def test_a_round_corner_has_its_radius(turn_deg, widths):
    radius = widths * WIDTH
    back = radius * math.tan(math.radians(turn_deg / 2))
    bend = arc(radius, turn_deg, CORNER - (back, 0.0))
    ends = CORNER - (60.0, 0.0), CORNER + 60.0 * way(turn_deg)
    ink = ink_of([[tuple(p) for p in np.vstack([ends[:1], bend, ends[1:]])]])
    one, other = run_along(ends[0], CORNER - (15.0, 0.0)), run_along(ends[1], CORNER + 15.0 * way(turn_deg))
    (corner,) = turned(ink, one, other, CORNER[None]).corners
    assert math.dist(corner.place, CORNER) < 0.3
    assert corner.radius == pytest.approx(radius, abs=0.12 * WIDTH)


@pytest.mark.parametrize("step", [0.6, 0.8, 1.2])
@pytest.mark.parametrize("turn_deg", [70, 90])
def test_a_step_in_a_line_has_two_corners(step, turn_deg):
    second = CORNER + step * WIDTH * way(turn_deg)
    ends = CORNER - (60.0, 0.0), second + np.array([60.0, 0.0])
    ink = ink_of([[tuple(p) for p in (ends[0], CORNER, second, ends[1])]])
    one, other = run_along(ends[0], CORNER - (9.0, 0.0)), run_along(ends[1], second + np.array([9.0, 0.0]))
    found = turned(ink, one, other, (CORNER + second)[None] / 2)
    assert [
        math.dist(c.place, true) < 0.6 for c, true in zip(found.corners, (CORNER, second), strict=True)
    ] == [True] * 2


def test_a_gentle_bend_that_was_drafted_well_stays_as_it_is():
    bend = arc(2.0 * WIDTH, 50, CORNER)
    after = bend[-1] + 60 * way(50)
    ink = ink_of([[tuple(p) for p in np.vstack([CORNER - (60.0, 0.0), bend, after])]])
    one, other = run_along(CORNER - (60.0, 0.0), CORNER), run_along(after, bend[-1])
    drafted = Turn(bend[1:-1])
    assert turn_between(ink, one, other, WIDTH, drafted) is drafted


@pytest.mark.parametrize("turn_deg", [80, 100])
@pytest.mark.parametrize("widths", [0.2, 0.3, 0.4])
def test_a_line_round_a_corner_is_drawn_round_it(turn_deg, widths):
    radius = widths * WIDTH
    back = radius * math.tan(math.radians(turn_deg / 2))
    true = np.vstack(
        [CORNER - (60.0, 0.0), arc(radius, turn_deg, CORNER - (back, 0.0)), CORNER + 60.0 * way(turn_deg)]
    )
    picture = pen([[tuple(p) for p in true]], width=WIDTH)
    (path,) = trace(picture, TraceSettings(method=Method.CENTRELINE)).drawing.paths
    drawn = shapely.LineString(bezier.flatten(path.segments, tolerance=0.01))
    off = shapely.hausdorff_distance(
        shapely.segmentize(drawn, 0.25), shapely.segmentize(shapely.LineString(true), 0.25)
    )
    assert off < 0.6 and len(path.segments) <= 4


@given(st.integers(0, 10_000), st.integers(2, 9), st.booleans())
def test_pixels_are_as_far_from_ways_as_shapely_says(seed, count, gap):
    """A gap in a way is no line, points that fall together are one, and what leaves no ink does not count."""
    rng = np.random.default_rng(seed)
    width = 3.0
    way = rng.uniform(0, 30, (count, 2))
    way = np.vstack([way, way[-1:], rng.uniform(0, 30, (2, 2))])
    parts = [way]
    if gap:
        parts = [way[:-2], way[-2:]]
        way = np.vstack([way[:-2], np.full((1, 2), np.nan), way[-2:]])
    away = np.full((10, 12), np.inf)
    _bring_near(away, way, width, 1.5, 2.5, 3.0)
    y, x = np.mgrid[0:10, 0:12]
    places = shapely.points(1.5 + 3.0 * x, 2.5 + 3.0 * y)
    wanted = np.min([shapely.distance(places, shapely.LineString(part)) for part in parts], axis=0)
    inked = wanted < 0.5 * width + 0.5
    assert away[inked] == pytest.approx(wanted[inked], abs=1e-9)
    assert (away[~inked] >= wanted[~inked] - 1e-9).all()
    # Others that are further away change nothing.
    before = away.copy()
    _bring_near(away, way + 1000.0, width, 1.5, 2.5, 3.0)
    assert (away == before).all()
