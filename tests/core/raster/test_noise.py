"""Noise told from what is drawn."""

import cv2
import numpy as np
import pytest

from zeichen.core.raster.noise import grey_noise


def drawn(size=400):
    canvas = np.full((size, size), 200.0)
    for k in range(6):
        cv2.circle(canvas, (60 + 55 * k, 90 + 40 * k), 20 + 4 * k, 60.0, -1, cv2.LINE_AA)
        cv2.line(canvas, (10, 40 * k), (390, 300 - 20 * k), 90.0, 3, cv2.LINE_AA)
    return canvas


@pytest.mark.parametrize("noise", [2.0, 6.0, 12.0])
@pytest.mark.parametrize("slope", [0.0, 0.1])
def test_noise_is_found_beside_a_drawing_and_on_a_slope(noise, slope):
    canvas = drawn() + slope * np.arange(400)
    canvas += np.random.default_rng(int(8 * noise)).normal(0, noise, canvas.shape)
    # Grey rounded to whole levels has the error of rounding besides: a twelfth of a level, squared.
    rounded = np.round(canvas).clip(0, 255).astype(np.uint8)
    assert grey_noise(rounded) == pytest.approx((noise**2 + 1 / 12) ** 0.5, rel=0.12)


def test_a_clean_drawing_has_none():
    assert grey_noise(drawn()) == 0.0


@pytest.mark.parametrize("shape", [(1, 90), (90, 2), (2, 2)])
def test_a_strip_of_a_pixel_or_two_tells_nothing(shape):
    assert grey_noise(np.random.default_rng(3).integers(0, 255, shape).astype(np.uint8)) == 0.0
