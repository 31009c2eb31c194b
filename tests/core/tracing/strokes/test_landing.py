"""How well a line that is followed into shared ink arrives at another: straight on, turned, off, unseen."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.tracing.strokes.landing import landing, leading

WIDTH = 6.0
NOTHING = np.zeros((0, 2))


def straight(first: float, last: float, off: float = 0.0, tilt: float = 0.0) -> np.ndarray:
    """Points a pixel apart along the x axis, shifted across it and tilted about their first one."""
    x = np.arange(first, last + 0.5, 1.0 if last > first else -1.0)
    return np.column_stack(
        [first + (x - first) * math.cos(tilt), off + np.abs(x - first) * math.sin(tilt)]
    ).astype(float)


def arrive(track, seen=None, goal=None, back=NOTHING, *, stub=False):
    """A line from the left up to x = 0, followed by its track; the other begins at x = 10."""
    seen = np.ones(len(track), bool) if seen is None else seen
    goal = straight(10, 60) if goal is None else goal
    return landing(straight(-40, 0), False, WIDTH, track, seen, goal, True, WIDTH, back, stub)


def test_straight_on_costs_next_to_nothing_and_all_between_is_kept():
    cost, middle = arrive(straight(1, 14))
    assert cost == pytest.approx(0.0, abs=1e-6)
    assert (
        middle[:, 1] == pytest.approx(np.zeros(len(middle))) and middle[0, 0] == 1.0 and middle[-1, 0] == 9.0
    )


@given(st.floats(0.2, 2.4))
def test_what_arrives_beside_the_other_costs_by_how_far(off):
    cost, _ = arrive(straight(1, 14), goal=straight(10, 60, off))
    beyond = off > 0.45 * WIDTH + 0.5
    assert math.isinf(cost) if beyond else cost >= off / (0.35 * WIDTH) - 1e-6


@given(st.floats(2, 80))
def test_what_arrives_aslant_costs_by_its_turn_and_too_much_is_no_landing(turn_deg):
    goal = straight(10, 60, tilt=math.radians(turn_deg))
    cost, _ = arrive(straight(1, 14), goal=goal)
    assert math.isinf(cost) == (turn_deg > 40.0)
    if turn_deg < 39.0:
        assert cost >= turn_deg / 25.0 - 1e-6


def test_a_track_that_ends_short_does_not_land():
    assert math.isinf(arrive(straight(1, 6))[0])
    assert math.isinf(arrive(straight(1, 1))[0])


def test_where_no_rim_is_seen_the_way_costs_and_the_other_s_track_fills_in():
    track = straight(1, 14)
    seen = np.arange(len(track)) < 3
    alone, middle = arrive(track, seen)
    assert alone > 0.2 and len(middle) == 3
    helped, filled = arrive(track, seen, back=straight(9, 2))
    assert helped == alone
    # From where the rim was lost the other's track leads back, in this line's order.
    assert (np.diff(filled[:, 0]) > 0).all() and filled[-1, 0] == 9.0
    # That of a stub is not believed, nor what has gone astray.
    assert len(arrive(track, seen, back=straight(9, 2), stub=True)[1]) == 3
    assert len(arrive(track, seen, back=straight(9, 2, off=8.0))[1]) == 3


@given(st.lists(st.booleans(), max_size=12))
def test_the_leading_part_ends_before_the_first_unseen_point(seen):
    count = leading(np.array(seen, dtype=bool))
    assert all(seen[:count]) and (count == len(seen) or not seen[count])
