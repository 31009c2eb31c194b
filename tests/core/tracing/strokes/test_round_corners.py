"""Corners of strokes that the pen went round: arcs of the ink's own radius in place of true corners."""

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from samples import pen
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.rounding import _arc_between, _at_length
from zeichen.core.tracing.strokes.pen_turn import Corner
from zeichen.core.tracing.strokes.round_corners import with_round_corners

WIDTH = 12.0
CORNER = np.array([100.4, 90.7])
NOWHERE = np.zeros((4, 4))


def way(degrees: float) -> np.ndarray:
    return np.array([math.cos(math.radians(degrees)), math.sin(math.radians(degrees))])


def bent(turn_deg: float, arm: float = 60.0) -> Path:
    """Two lines that meet at a corner, the first along the x axis."""
    stops = np.stack([CORNER - (arm, 0.0), CORNER, CORNER + arm * way(turn_deg)])
    return Path(bezier.line_segments(stops), closed=False)


def ink_round(turn_deg: float, radius: float) -> np.ndarray:
    """The ink of a pen that went round that corner."""
    back = radius * math.tan(math.radians(turn_deg / 2))
    turn = np.linspace(0, math.radians(turn_deg), 40)
    arc = CORNER - (back, 0.0) + radius * np.column_stack([np.sin(turn), 1 - np.cos(turn)])
    stops = np.vstack([CORNER - (60.0, 0.0), arc, CORNER + 60.0 * way(turn_deg)])
    return np.ascontiguousarray(1.0 - pen([[tuple(p) for p in stops]], width=WIDTH).grey() / 255.0)


def off_circle(curve: np.ndarray, centre: np.ndarray, radius: float) -> float:
    points = bezier.evaluate(curve[None], np.linspace(0, 1, 50))[0]
    return float(np.abs(np.hypot(*(points - centre).T) - radius).max())


@pytest.mark.parametrize("turn_deg", [60, 90, 115, 135])
def test_a_true_corner_stays_as_it_is(turn_deg):
    path = bent(turn_deg)
    assert with_round_corners(path, [], WIDTH, ink_round(turn_deg, 1e-6)) is path


@pytest.mark.parametrize("turn_deg", [80, 90, 115, 135])
@pytest.mark.parametrize("widths", [0.2, 0.35, 0.5])
def test_a_round_one_becomes_an_arc_of_its_radius_that_touches_both_sides(turn_deg, widths):
    radius = widths * WIDTH
    path = with_round_corners(bent(turn_deg), [], WIDTH, ink_round(turn_deg, radius))
    first, arc, last = path.segments
    assert not path.closed
    assert path.segments[[0, -1], [0, 3]] == pytest.approx(bent(turn_deg).segments[[0, -1], [0, 3]])
    found = math.dist(arc[0], CORNER) / math.tan(math.radians(turn_deg / 2))
    assert found == pytest.approx(radius, abs=0.07 * WIDTH)
    # It leaves one side and arrives on the other in their own directions, and is a circle's between them.
    assert first[3] == pytest.approx(arc[0]) and arc[3] == pytest.approx(last[0])
    leave, arrive = bezier.end_directions(arc[None])
    assert leave[0] == pytest.approx([1.0, 0.0], abs=1e-9)
    assert arrive[0] == pytest.approx(way(turn_deg), abs=1e-9)
    assert off_circle(arc, arc[0] + (0.0, found), found) < (2e-3 if turn_deg < 120 else 8e-3) * found


def test_a_known_radius_needs_no_ink():
    (_, arc, _) = with_round_corners(bent(90), [Corner(CORNER, 5.0)], WIDTH, NOWHERE).segments
    assert arc[0] == pytest.approx(CORNER - (5.0, 0.0), abs=0.02)
    assert arc[3] == pytest.approx(CORNER - (0.0, -5.0), abs=0.02)


def test_an_arc_takes_less_than_half_of_a_short_side():
    path = with_round_corners(bent(90, arm=8.0), [Corner(CORNER, 50.0)], WIDTH, NOWHERE)
    first, arc, last = path.segments
    for side in (first, last):
        assert float(bezier.arc_lengths(side[None])[0]) == pytest.approx(0.51 * 8.0, rel=1e-3)
    assert off_circle(arc, arc[0] + (0.0, 0.49 * 8.0), 0.49 * 8.0) < 0.01


def test_a_closed_path_is_rounded_all_around_and_stays_closed():
    stops = np.array([[40, 50], [150, 50], [150, 140], [40, 140], [40, 50]]) + 0.3
    square = Path(bezier.line_segments(stops))
    path = with_round_corners(square, [Corner(corner, 6.0) for corner in stops[:4]], WIDTH, NOWHERE)
    assert path.closed and len(path.segments) == 8
    ends = np.roll(path.segments[:, 3], 1, axis=0)
    assert path.segments[:, 0] == pytest.approx(ends, abs=1e-9)
    # A quarter circle in each corner takes (4 - pi) r² off in all.
    assert abs(path.area) == pytest.approx(110 * 90 - (4 - math.pi) * 36, rel=1e-4)


@given(st.lists(st.tuples(st.floats(0, 100), st.floats(0, 100)), min_size=4, max_size=4), st.floats(0, 1))
def test_the_place_at_a_length_has_that_much_before_it(points, share):
    curve = np.array(points)
    # Handles that lie on their ends make a curve linger there, which steps in its parameter do not tell.
    assume(np.hypot(*np.diff(curve, axis=0).T).min() > 5.0)
    whole = float(bezier.arc_lengths(curve[None])[0])
    at = _at_length(curve, share * whole)
    before = float(bezier.arc_lengths(bezier.piece(curve[None], 0.0, at)).sum()) if at > 0.0 else 0.0
    assert before == pytest.approx(share * whole, abs=0.02 * whole)


@given(st.floats(5, 170), st.floats(0.5, 80))
def test_the_curve_between_two_sides_is_a_circles_where_there_is_one(turn_deg, radius):
    turn = math.radians(turn_deg)
    end = radius * np.array([math.sin(turn), 1 - math.cos(turn)])
    before, after = (
        bezier.line_segments(np.stack(stops))[0]
        for stops in ([(-9.0, 0.0), (0.0, 0.0)], [end, end + 9 * way(turn_deg)])
    )
    arc = _arc_between(before, after)
    # One cubic for up to a quarter is off by 0.03 %, and for two quarters by 2 % (both worked out, no source).
    assert off_circle(arc, np.array([0.0, radius]), radius) < (5e-4 if turn_deg < 92 else 0.03) * radius
