"""Round ends just before another line: kernels that look for them, and ends found by the ink."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import pen
from zeichen.core.tracing.strokes.caps import _cap_shows, _plain_from, _step_nearest, ended_before

WIDTH = 12.0
STEM = np.column_stack([np.full(121, 120.3), np.arange(40.0, 161.0)])


def picture(*, end_x: float, y: float = 100.6) -> np.ndarray:
    """The ink of an upright line and of one from the left that ends somewhere before its middle."""
    ways = [[tuple(STEM[0]), tuple(STEM[-1])], [(30.0, y), (end_x, y)]]
    return np.ascontiguousarray(1.0 - pen(ways, width=WIDTH).grey() / 255.0)


def run_from(x: float, y: float = 100.6, *, aside: float = 0.0) -> np.ndarray:
    """Points a pixel apart from the upright line on to the left; the first few bend aside."""
    points = np.column_stack([np.arange(x, 30.0, -1.0), np.full(math.ceil(x - 30.0), y)])
    points[:6, 1] += aside * np.linspace(1.0, 0.0, 6)
    return points


@pytest.mark.parametrize("before", [0.8, 0.9, 1.0])
@pytest.mark.parametrize("aside", [0.0, 1.5])
def test_a_run_is_ended_where_the_pen_was_lifted(before, aside):
    end_x = 120.3 - before * WIDTH
    run = ended_before(run_from(120.3, aside=aside), STEM, picture(end_x=end_x), WIDTH)
    assert run[0] == pytest.approx([end_x, 100.6], abs=0.6)
    # What was known of it is kept.
    assert run[-1] == pytest.approx([31.0, 100.6], abs=1.0) and np.abs(run[:, 1] - 100.6).max() < 0.05


@pytest.mark.parametrize("hidden", [0.0, 0.25, 0.5])
def test_a_run_whose_end_the_other_line_hides_stays_as_it_is(hidden):
    run = run_from(120.3)
    assert ended_before(run, STEM, picture(end_x=120.3 - hidden * WIDTH), WIDTH) is run


def test_a_run_that_never_is_alone_stays_as_it_is():
    run = run_from(120.3)[:12]
    assert ended_before(run, STEM, picture(end_x=110.0), WIDTH) is run


@given(st.floats(0.0, 1.0), st.floats(6.0, 20.0))
def test_a_run_is_plain_as_soon_as_it_is_far_from_all_others(shift, width):
    run = run_from(120.3 - shift)
    k = _plain_from(run, STEM, width)
    away = np.hypot(*(run[:, None] - STEM[None]).transpose(2, 0, 1)).min(axis=1)
    assert away[k] >= 1.3 * width and (away[:k] < 1.3 * width).all()
    assert _plain_from(run[:3], STEM, width) == -1


def test_a_gap_between_others_is_no_place():
    others = np.vstack([STEM[:5], [[np.nan, np.nan]], STEM[60:]])
    assert _plain_from(run_from(120.3), others, WIDTH) == _plain_from(run_from(120.3), STEM, WIDTH)


@pytest.mark.parametrize(
    ("before", "shows"), [(0.0, False), (0.3, False), (0.5, False), (0.9, True), (1.1, True)]
)
def test_a_cap_shows_where_one_side_has_no_ink_just_before_the_other_line(before, shows):
    onwards = np.column_stack([np.arange(100.0, 125.0), np.full(25, 100.6)])
    assert _cap_shows(onwards, STEM, picture(end_x=120.3 - before * WIDTH), WIDTH) == shows


def test_a_way_comes_no_nearer_once_it_has_crossed_the_other_line():
    onwards = np.column_stack([np.arange(100.0, 150.0), np.full(50, 100.6)])
    assert onwards[_step_nearest(onwards, STEM), 0] == 120.0
    assert _step_nearest(onwards[:10], STEM) == 9
