"""The best of some places and of those between: valleys of known bottom."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.tracing.strokes.halving import best_nearby, best_place


@given(st.floats(0.0, 8.0), st.integers(1, 6))
def test_the_bottom_of_a_valley_is_found_to_half_the_last_step(bottom, rounds):
    best, least = best_place(lambda at: abs(at - bottom), range(9), 0.5, rounds, lambda at: True)
    assert abs(best - bottom) <= 0.5**rounds / 2 + 1e-12
    assert least == pytest.approx(abs(best - bottom))


def test_no_place_is_looked_at_twice_nor_one_outside():
    seen: list[float] = []

    def off(at: float) -> float:
        seen.append(at)
        return at

    assert best_place(off, (0.0, 1.0, 2.0), 0.5, 3, lambda at: at >= 0.0) == (0.0, 0.0)
    assert seen == [0.0, 1.0, 2.0, 0.5, 0.25, 0.125]


def test_what_is_hopeless_is_not_looked_at_closer():
    seen: list[float] = []

    def off(at: float) -> float:
        seen.append(at)
        return 10.0 + abs(at)

    best_place(off, (0.0,), 1.0, 5, lambda at: True, hopeless=5.0)
    assert seen == [0.0, -1.0, 1.0]
    seen.clear()
    best_place(off, (0.0,), 1.0, 5, lambda at: True, hopeless=math.inf)
    assert len(seen) == 11


@given(st.tuples(st.floats(-3.0, 3.0), st.floats(-3.0, 3.0), st.floats(-3.0, 3.0)))
def test_the_bottom_of_a_bowl_is_found_to_the_finest_step(bottom):
    best, least = best_nearby(
        lambda at: math.dist(at, bottom) ** 2, [(0.0, 0.0, 0.0)], 0.5, 0.03, lambda at: True
    )
    assert all(abs(a - b) <= 0.03125 / 2 + 1e-9 for a, b in zip(best, bottom, strict=True))
    assert least == pytest.approx(math.dist(best, bottom) ** 2)


def test_the_search_begins_at_the_best_place_and_stays_inside():
    seen: list[tuple[float, ...]] = []

    def off(at: tuple[float, ...]) -> float:
        seen.append(at)
        return at[0] + abs(at[1] - 1.0)

    best, _ = best_nearby(off, [(2.0, 0.0), (1.0, 5.0), (1.0, 1.0)], 1.0, 0.5, lambda at: at[0] >= 0.0)
    assert best == (0.0, 1.0)
    assert len(seen) == len(set(seen)) and min(at[0] for at in seen) == 0.0
