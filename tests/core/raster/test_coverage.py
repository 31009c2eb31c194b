"""How much of each pixel is covered, and pictures brought back to their own pixels."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import Polygon, box

from samples import examples
from zeichen.core.raster.coverage import coverage
from zeichen.core.raster.enlarged import own_pixels


@examples(18)
@given(st.lists(st.tuples(st.floats(0.5, 9.5), st.floats(0.5, 9.5)), min_size=3, max_size=7))
def test_every_pixel_is_covered_as_far_as_exact_polygons_say(corners):
    area = Polygon(corners)
    if not area.is_valid or area.area < 0.01:
        return
    ring = np.array(corners)
    if not area.exterior.is_ccw:
        ring = ring[::-1]
    exact = [[area.intersection(box(x, y, x + 1, y + 1)).area for x in range(10)] for y in range(10)]
    assert np.abs(coverage([ring], 10, 10) - exact).max() < 1e-6


def test_holes_take_away_and_what_lies_outside_counts_nowhere():
    outer = np.array([[1.0, 1], [7, 1], [7, 7], [1, 7]])
    hole = np.array([[3.0, 3], [3, 5], [5, 5], [5, 3]])
    assert coverage([outer, hole], 8, 8).sum() == pytest.approx(36 - 4)
    assert coverage([outer + 100], 8, 8).sum() == 0
    assert coverage([], 3, 4).shape == (3, 4)


def discs(size: int) -> np.ndarray:
    canvas = np.full((size * 8, size * 8), 255, np.uint8)
    cv2.circle(canvas, (size * 3, size * 4), size * 2, 20, -1)
    cv2.circle(canvas, (size * 6, size * 5), size, 90, -1)
    return cv2.resize(canvas, (size, size), interpolation=cv2.INTER_AREA)


@pytest.mark.parametrize("factor", [2, 3, 4])
@pytest.mark.parametrize("kernel", [cv2.INTER_CUBIC, cv2.INTER_LINEAR])
def test_an_enlarged_picture_is_brought_back(factor, kernel):
    small = discs(64)
    large = cv2.resize(small, None, fx=factor, fy=factor, interpolation=kernel)
    own = own_pixels(large.astype(float), factor)
    # What overshot black or white was cut off when the picture was saved, so it is not quite the same.
    assert own is not None and np.abs(own - small).mean() < 1.5


def test_noise_does_not_hide_that_a_picture_was_enlarged():
    large = cv2.resize(discs(64), None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC).astype(float)
    noisy = np.clip(large + np.random.default_rng(2).normal(0, 4, large.shape), 0, 255)
    assert own_pixels(noisy, 2) is not None


def test_a_picture_in_its_own_pixels_is_left_alone():
    assert own_pixels(discs(128).astype(float), 2) is None
    assert own_pixels(discs(65).astype(float), 2) is None
