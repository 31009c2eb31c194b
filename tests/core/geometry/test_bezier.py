"""Cubic segments: laws that hold for any curve."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import connected_runs, curves
from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry import bezier

shares = st.floats(0.01, 0.99)


@given(connected_runs(), shares)
def test_splitting_leaves_the_curve_where_it_was(run, t):
    index = len(run) // 2
    halves = bezier.split(run, index, t)[index : index + 2]
    at = np.linspace(0, 1, 7)
    original = bezier.evaluate(run[index : index + 1], np.concatenate([at * t, t + at * (1 - t)]))[0]
    assert np.allclose(bezier.evaluate(halves, at).reshape(-1, 2), original, atol=1e-6)


@given(connected_runs())
def test_reversing_negates_the_area_and_keeps_the_length(run):
    closed = np.concatenate([run, bezier.line_segments(np.array([run[-1, 3], run[0, 0]]))])
    back = bezier.reverse(closed)
    assert math.isclose(bezier.signed_area(back), -bezier.signed_area(closed), abs_tol=1e-5)
    assert np.allclose(bezier.arc_lengths(back)[::-1], bezier.arc_lengths(closed), rtol=1e-9, atol=1e-9)


@given(curves, st.floats(0.01, 5))
def test_flattening_stays_within_its_tolerance(run, tolerance):
    """Dense points of each curve lie no further than the tolerance from the polyline's chords."""
    for segment in run:
        polyline = bezier.flatten(segment[None], tolerance=tolerance)
        dense = bezier.evaluate(segment[None], np.linspace(0, 1, 200))[0]
        a, b = polyline[:-1], polyline[1:]
        ab = b - a
        square = np.maximum((ab**2).sum(1), 1e-18)
        t = np.clip(((dense[:, None] - a) * ab).sum(2) / square, 0, 1)
        off = np.linalg.norm(dense[:, None] - a - t[..., None] * ab, axis=2).min(axis=1)
        if len(polyline) < 4000:
            assert off.max() <= tolerance * (1 + 1e-6)


@given(curves)
def test_bounds_hold_every_point_and_are_touched(run):
    x0, y0, x1, y1 = bezier.bounds(run)
    dense = bezier.evaluate(run, np.linspace(0, 1, 400)).reshape(-1, 2)
    slack = 1e-6
    assert (dense >= np.array([x0, y0]) - slack).all() and (dense <= np.array([x1, y1]) + slack).all()
    size = max(x1 - x0, y1 - y0, 1e-9)
    assert dense[:, 0].min() - x0 <= size * 0.01 and x1 - dense[:, 0].max() <= size * 0.01


@given(curves, st.floats(0, 6.3), st.floats(-50, 50), st.floats(-50, 50))
def test_turning_and_moving_keep_the_lengths(run, angle, dx, dy):
    turn = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])
    moved = run @ turn.T + np.array([dx, dy])
    assert np.allclose(bezier.arc_lengths(moved), bezier.arc_lengths(run), rtol=1e-7, atol=1e-6)


def test_a_line_is_straight_and_a_bow_is_not():
    line = bezier.line_segments(np.array([[0.0, 0.0], [10.0, 4.0]]))
    bow = line.copy()
    bow[0, 1] += (0, 1)
    assert bezier.is_straight(line)[0] and not bezier.is_straight(bow)[0]


def test_a_line_that_overshoots_its_end_is_not_straight():
    overshoot = np.array([[[0.0, 0], [14.0, 0], [14.0, 0], [10.0, 0]]])
    assert not bezier.is_straight(overshoot)[0]


@pytest.mark.parametrize("tolerance", [0.0, -1.0, math.nan, math.inf])
def test_an_impossible_tolerance_is_refused_with_advice(tolerance):
    line = bezier.line_segments(np.array([[0.0, 0.0], [1.0, 0.0]]))
    with pytest.raises(InvalidInputError, match=r"Tolerance must be a finite number above 0.*Try"):
        bezier.chord_count(line, tolerance=tolerance)


def test_nothing_has_no_bounds():
    with pytest.raises(InvalidInputError, match="nothing to measure"):
        bezier.bounds(np.zeros((0, 4, 2)))


@given(
    st.floats(1.0, 80.0),
    st.floats(0, 6.3),
    st.floats(0.05, 0.45),
    st.floats(0.05, 0.45),
    st.floats(0.01, 0.5),
)
def test_a_curve_is_straight_while_its_handles_lie_by_its_chord_and_within_it(size, turn, one, other, within):
    along, across = size * np.array([np.cos(turn), np.sin(turn)]), np.array([-np.sin(turn), np.cos(turn)])

    def curve(bulge: float, first: float = one) -> np.ndarray:
        return np.array(
            [0 * along, first * along + bulge * across, (1 - other) * along - bulge * across, along]
        )

    overshoot = 2.0 * within / size
    seen = [curve(0.0), curve(0.9 * within), curve(1.1 * within), curve(0.0, -overshoot), 0 * curve(0.0)]
    assert bezier.is_straight(np.array(seen), tolerance=within).tolist() == [True, True, False, False, False]
    # A straight one has all its points by the chord.
    places = bezier.evaluate(np.array(seen[:2]), np.linspace(0, 1, 40))
    assert np.abs(places @ across).max() < within
