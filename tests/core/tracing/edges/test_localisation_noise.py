"""By how much points err: noise put onto lines, circles and stars is found again, and their bends are none."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.tracing.edges.contour_normals import from_bends
from zeichen.core.tracing.edges.localisation_noise import noise_along


def star(tips: int, inner: float, outer: float) -> np.ndarray:
    """Points two thirds of a pixel apart round a star whose corners are a little round, as pixels make them."""
    turn = np.pi * np.arange(2 * tips + 1) / tips
    radius = np.where(np.arange(2 * tips + 1) % 2, inner, outer)
    corners = radius[:, None] * np.column_stack([np.cos(turn), np.sin(turn)])
    sides = [
        a + np.arange(0, math.dist(a, b), 2 / 3)[:, None] * (b - a) / math.dist(a, b)
        for a, b in pairwise(corners)
    ]
    points = np.concatenate(sides)
    return sum(np.roll(points, shift, axis=0) for shift in (-2, -1, 0, 1, 2)) / 5


def line(length: float, angle: float) -> np.ndarray:
    return np.arange(0, length, 2 / 3)[:, None] * np.array([math.cos(angle), math.sin(angle)])


def shaken(points: np.ndarray, sigma: float, seed: int) -> np.ndarray:
    return points + np.random.default_rng(seed).normal(0.0, sigma, points.shape)


@given(st.floats(0.01, 0.12), st.floats(0.0, 3.0), st.integers(0, 1000))
def test_the_noise_of_a_line_is_found(sigma, angle, seed):
    """Weighed for neighbours that share their errors, which these do not: up to four times as much."""
    found = noise_along(shaken(line(150.0, angle), sigma, seed), closed=False)
    assert 0.8 * sigma < found < 4.0 * sigma + 0.05


@pytest.mark.parametrize("tips", [5, 8])
@pytest.mark.parametrize("outer", [22.0, 60.0])
@given(st.floats(0.0, 0.05), st.integers(0, 1000))
def test_corners_are_no_noise(tips, outer, sigma, seed):
    """However near to each other they are."""
    points = shaken(star(tips, 0.45 * outer, outer), sigma, seed)
    assert noise_along(points, closed=True) < 0.2 + 5.0 * sigma


@given(st.floats(7.0, 80.0))
def test_bends_are_no_noise(radius):
    turn = np.arange(0, 2 * math.pi, 2 / 3 / radius)
    points = radius * np.column_stack([np.cos(turn), np.sin(turn)])
    assert noise_along(points, closed=True) < 0.12


def test_what_lies_beside_a_bend_tells_nothing():
    half = np.arange(0.0, 40.0)
    points = np.concatenate([np.column_stack([half, 0 * half]), np.column_stack([0 * half + 40.0, half])])
    plain = from_bends(points, False, 4, math.tan(math.radians(20.0))) > 8
    # The corner is the 41st point; chords of four points reach it from three points away.
    assert plain[: 40 - 8 - 3].all() and not plain[40 - 8 : 40 + 8].any() and plain[40 + 8 + 4 :].all()
    # Of a loop, what lies before its start counts, too.
    turned = np.roll(points, 40, axis=0)
    assert not (from_bends(turned, True, 4, math.tan(math.radians(20.0))) > 8)[-8:].any()
