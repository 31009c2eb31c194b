"""The parts of a branch on which a line is one: cut at long gaps only, loops from behind their longest one."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.tracing.strokes.knots import _LEAST_POINTS, _parts


def parts_of(inside, *, loop: bool, gap_points: int) -> list[list[int]]:
    chosen, cuts = _parts(np.array(inside, dtype=bool), loop, gap_points)
    return [chosen[a:b].tolist() for a, b in cuts.tolist()]


def test_short_gaps_part_nothing_and_long_ones_do():
    inside = [1, 1, 1, 0, 1, 1, 0, 0, 0, 0, 1, 1, 1, 1]
    assert parts_of(inside, loop=False, gap_points=2) == [[0, 1, 2, 4, 5], [10, 11, 12, 13]]
    assert parts_of(inside, loop=False, gap_points=5) == [[0, 1, 2, 4, 5, 10, 11, 12, 13]]


def test_a_loop_begins_behind_its_longest_gap_and_goes_on_past_its_start():
    inside = [1, 1, 0, 0, 0, 0, 1, 1, 1, 1, 1, 1]
    assert parts_of(inside, loop=True, gap_points=2) == [[6, 7, 8, 9, 10, 11, 0, 1]]
    assert parts_of([1] * 7, loop=True, gap_points=2) == [list(range(7))]


@given(st.lists(st.booleans(), min_size=1, max_size=60), st.booleans(), st.integers(2, 6))
def test_parts_hold_what_is_inside_in_order_but_for_what_is_too_little(inside, loop, gap_points):
    found = parts_of(inside, loop=loop, gap_points=gap_points)
    held = [k for part in found for k in part]
    assert len(held) == len(set(held)) and all(inside[k] for k in held)
    assert all(len(part) >= _LEAST_POINTS for part in found)
    n = len(inside)
    for part in found:
        steps = np.diff(part) % n
        assert (steps <= gap_points).all()
    if loop:
        return
    assert held == sorted(held)
    # What was left out stands in runs that are too short to be a part.
    lost = [k for k in range(n) if inside[k] and k not in held]
    runs = np.split(lost, np.nonzero(np.diff(lost) > gap_points)[0] + 1)
    assert all(len(run) < _LEAST_POINTS for run in runs)
