"""Lines that run into another: by the way they were bending, unless the ink is for a swerve."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import pen
from zeichen.core.tracing.strokes.way_in import _bending, bends_less

WIDTH = 12.0
STEM = np.column_stack([np.full(121, 120.3), np.arange(40.0, 161.0)])
END = np.array([100.0, 100.6])
RUN = END - np.arange(60)[:, None] * np.array([1.0, 0.0])


def way(aside: float) -> np.ndarray:
    """From the run's end to the stem, by so much up or down."""
    share = np.linspace(0.0, 1.0, 21)[1:, None]
    goal = np.array([120.3, 100.6 + aside])
    return END + share * (goal - END) * [1.0, 0.0] + share**2 * [0.0, aside]


def picture(aside: float) -> np.ndarray:
    drawn = [tuple(p) for p in np.vstack([RUN[::-1], way(aside)])]
    return np.ascontiguousarray(
        1.0 - pen([[tuple(STEM[0]), tuple(STEM[-1])], drawn], width=WIDTH).grey() / 255.0
    )


@pytest.mark.parametrize("swerve", [-9.0, 7.0, 9.0])
def test_a_swerve_that_left_no_ink_was_none(swerve):
    assert bends_less(RUN, way(swerve), way(0.0), STEM, picture(0.0), WIDTH)


@pytest.mark.parametrize("swerve", [-9.0, 7.0, 9.0])
def test_a_swerve_that_left_its_ink_was_one(swerve):
    assert not bends_less(RUN, way(swerve), way(0.0), STEM, picture(swerve), WIDTH)


def test_a_way_that_bends_hardly_more_is_not_doubted():
    assert not bends_less(RUN, way(1.0), way(0.0), STEM, picture(0.0), WIDTH)


@given(st.floats(-2.5, 2.5), st.floats(15.0, 60.0), st.floats(0.0, 6.0))
def test_bends_are_counted_to_either_side(turn, radius, heading):
    """An arc turns by its angle, and one that goes on the other way round by twice that."""
    count = max(12, math.ceil(abs(turn) * radius))
    there = np.linspace(0.0, turn, count)
    angles = heading + np.concatenate([there, there[-2::-1]])
    # The first step has a direction, but none to turn from.
    points = np.vstack(
        [np.zeros((1, 2)), np.cumsum(np.column_stack([np.cos(angles), np.sin(angles)]), axis=0)]
    )
    first, rest = points[:count], points[count:]
    assert _bending(first[::-1].copy(), rest.copy(), 1) == pytest.approx(
        2 * math.degrees(abs(turn)), abs=1e-6
    )
