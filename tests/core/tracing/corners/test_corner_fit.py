"""Tips fitted to the grey around them: against drawings whose tip is elsewhere or round by a known radius."""

import math

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import examples
from zeichen.core.fitting.refinement import PACE, WINDOW, starts_around
from zeichen.core.raster.coverage import coverage
from zeichen.core.tracing.corners.corner_fit import _blurred_across, _change, _rounded, fit_corner

SIZE, SIDE = 13, 18
SHARP = np.ones(1)


def sides(tip: tuple[float, float], inner_deg: float, turn_deg: float, reach: float = 14.0) -> np.ndarray:
    """A polyline along one side to the tip and back along the other."""
    half, turn = math.radians(inner_deg) / 2, math.radians(turn_deg)
    along = np.linspace(reach, 0.0, SIDE + 1)[:, None]
    one, other = (np.array([math.cos(turn + a), math.sin(turn + a)]) for a in (half, -half))
    return np.array(tip) + np.vstack([along * one, (along * other)[::-1][1:]])


def ink(line: np.ndarray) -> np.ndarray:
    return np.clip(np.abs(coverage([line], SIZE, SIZE)), 0.0, 1.0)


def rest(seen: np.ndarray, drawn: np.ndarray) -> np.ndarray:
    """What the drawing leaves of the picture."""
    return np.ascontiguousarray(seen - ink(drawn))


@examples(18)
@given(st.floats(35, 110), st.floats(0, 360), st.floats(-0.8, 0.8), st.floats(-0.8, 0.8))
def test_a_tip_goes_to_where_the_grey_is(inner_deg, turn_deg, dx, dy):
    drawn = sides((6.5, 6.5), inner_deg, turn_deg)
    # Moved as the fit moves it: the sides bend along less and less up to six pixels away.
    away = np.hypot(*(drawn - [6.5, 6.5]).T)
    there = drawn + np.maximum(0.0, 1.0 - away / 6.0)[:, None] * [dx, dy]
    found = fit_corner(rest(ink(there), drawn), drawn, SIDE, 6.0, SHARP, 4.0)
    assert math.hypot(found[0] - dx, found[1] - dy) < 0.1 and found[2] == 0.0


@examples(14)
@given(st.floats(45, 100), st.floats(0, 360), st.floats(1.5, 3.0))
def test_a_round_tip_is_seen_as_round(inner_deg, turn_deg, radius):
    drawn = sides((6.5, 6.5), inner_deg, turn_deg)
    seen = ink(_rounded(drawn, SIDE, radius))
    assert fit_corner(rest(seen, drawn), drawn, SIDE, 6.0, SHARP, 4.0)[2] == pytest.approx(radius, rel=0.1)


def test_where_nothing_is_left_to_explain_a_tip_stays_as_it_is():
    drawn = sides((6.5, 6.5), 60, 30)
    assert fit_corner(np.zeros((SIZE, SIZE)), drawn, SIDE, 6.0, SHARP, 4.0) == pytest.approx(
        (0, 0, 0), abs=1e-6
    )


@given(st.integers(0, 2**32 - 1), st.floats(0.3, 1.6))
def test_blurring_across_twice_is_a_gaussian_blur(seed, sigma):
    """Against OpenCV's separable filter with nothing beyond the rim."""
    half = math.ceil(3 * sigma)
    kernel = np.exp(-0.5 * (np.arange(-half, half + 1) / sigma) ** 2)
    kernel /= kernel.sum()
    patch = np.random.default_rng(seed).random((15, 15))
    wanted = cv2.sepFilter2D(patch, cv2.CV_64F, kernel, kernel, borderType=cv2.BORDER_CONSTANT)
    found = _blurred_across(_blurred_across(patch, 15, kernel), 15, kernel)
    assert found == pytest.approx(wanted, abs=1e-12)


@given(st.lists(st.booleans(), min_size=1, max_size=60), st.booleans())
def test_every_changed_segment_is_well_inside_a_window(changed, closed):
    count = len(changed)
    starts = starts_around(np.array(changed), closed)
    if count <= WINDOW:
        assert starts.tolist() == [0]
        return
    inside = {(start + k) % count for start in starts.tolist() for k in range(1, WINDOW - 1)}
    rim = set() if closed else {0, count - 1}
    assert {k for k in range(count) if changed[k]} <= inside | rim
    assert len(starts) <= sum(changed) and PACE < WINDOW
    if not closed and len(starts):
        assert starts.min() >= 0 and starts.max() <= count - WINDOW


@given(st.integers(0, 2**32 - 1), st.integers(0, 6), st.integers(0, 6), st.integers(2, 6), st.integers(2, 6))
def test_between_two_lines_lies_their_areas_difference(seed, before, after, some, others):
    """By the shoelace formula, over the whole patch; how far both run the same way makes no difference."""
    rng = np.random.default_rng(seed)
    head, tail = rng.uniform(1, 12, (before + 1, 2)), rng.uniform(1, 12, (after + 1, 2))
    old, new = (np.vstack([head, rng.uniform(1, 12, (count, 2)), tail]) for count in (some, others))

    def area(line: np.ndarray) -> float:
        x, y = line.T
        return 0.5 * float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)))

    changed = _change(old, new, SIZE, SHARP)
    assert changed.sum() == pytest.approx(area(new) - area(old), abs=1e-9)
    assert (_change(old, old, SIZE, SHARP) == 0.0).all()
