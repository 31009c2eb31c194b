"""How many pixels a picture truly has: enlarged, far too soft, wavering, or all it shows."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import inked, spun
from zeichen.core.tracing.edges.effective_resolution import (
    TWO_TONES,
    enlarged_by,
    in_fewer_pixels,
    put_together,
)

SQUARE = np.array([[-60.0, -60.0], [60.0, -60.0], [60.0, 60.0], [-60.0, 60.0]])
FLAT = np.full((64, 64), 200, np.uint8)


def square(size: int = 200) -> np.ndarray:
    ring = spun(SQUARE * size / 200, 0.3, (size / 2 + 0.3, size / 2 - 0.2))
    return 255 * (1 - inked(ring, size=size))


@given(st.floats(0, 6))
def test_what_blur_allows_are_whole_numbers_the_likeliest_first(blur):
    factors = enlarged_by(blur)
    assert all(factor >= 2 and 0.32 <= blur / factor <= 0.56 for factor in factors)
    away = [abs(factor - blur / 0.4) for factor in factors]
    assert away == sorted(away) and len(set(factors)) == len(factors)
    # The blur of pictures that were enlarged, measured: 0.75 px twice, 1.65 px four times by a cubic.
    assert (2 in enlarged_by(0.75)) and (4 in enlarged_by(1.65))


@given(st.floats(0, 6), st.floats(0, 0.02))
def test_evenly_soft_pixels_are_put_together_only_where_blur_is_far_larger(blur, unexplained):
    factor = put_together(FLAT, blur, unexplained, 255)
    assert factor >= 1 and (factor == 1) == (blur < 1.8)
    assert factor * 0.9 <= max(blur, 0.9)


def test_what_wavers_is_put_together_earlier_unless_noise_explains_it():
    assert put_together(FLAT, 1.1, 0.03, 255) == 3
    assert put_together(FLAT, 0.7, 0.03, 255) == 1
    noisy = FLAT + np.random.default_rng(1).normal(0, 8, FLAT.shape)
    assert put_together(noisy.clip(0, 255).astype(np.uint8), 1.1, 0.03, 255) == 1


@pytest.mark.parametrize("factor", [2, 4])
def test_an_enlarged_picture_is_found_in_its_own_pixels(factor):
    small = np.round(square()).astype(np.uint8)
    large = cv2.resize(small, None, fx=factor, fy=factor, interpolation=cv2.INTER_CUBIC)
    own, times = in_fewer_pixels(large, 0.4 * factor, 0.02, 255)
    assert times == factor and own.shape == small.shape
    assert np.median(np.abs(own - small)) < 0.5


def test_a_very_soft_picture_is_the_mean_of_its_pixels():
    soft = np.round(cv2.GaussianBlur(square(201), (0, 0), 2.7)).astype(np.uint8)
    fewer, times = in_fewer_pixels(soft, 2.7, 0.01, 255)
    assert times == 3 and fewer.shape == (67, 67)
    assert fewer[30, 12] == pytest.approx(soft[90:93, 36:39].mean())
    assert in_fewer_pixels(soft[:20, :20], 2.7, 0.01, 255) is None


def test_edges_that_no_blur_explains_say_nothing_of_pixels():
    soft = np.round(cv2.GaussianBlur(square(), (0, 0), 2.7)).astype(np.uint8)
    assert in_fewer_pixels(soft, 2.7, TWO_TONES + 0.01, 255) is None
