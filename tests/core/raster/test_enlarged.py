"""Enlarged pictures brought back to their own pixels, beside OpenCV's own resampling."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import examples
from zeichen.core.raster.clean import cleaned
from zeichen.core.raster.clean.steps import Enlarge
from zeichen.core.raster.enlarged import _dense_mixing, _undone, _weights, own_pixels
from zeichen.core.raster.picture import Picture


def leaf(size=90, seed=3):
    """Blobs in a coarse picture whose edges are soft by about a pixel."""
    rng = np.random.default_rng(seed)
    big = np.full((size * 8, size * 8), 245, np.uint8)
    for x, y, r in rng.uniform((0.2, 0.2, 0.05), (0.8, 0.8, 0.16), (5, 3)):
        cv2.circle(big, (int(x * size * 8), int(y * size * 8)), int(r * size * 8), 20, -1)
    return cv2.resize(big, (size, size), interpolation=cv2.INTER_AREA)


@pytest.mark.parametrize("factor", [2, 3, 4])
@pytest.mark.parametrize("kind", [cv2.INTER_LINEAR, cv2.INTER_CUBIC])
def test_the_picture_before_is_found(factor, kind):
    small = leaf()
    large = cv2.resize(small, None, fx=factor, fy=factor, interpolation=kind)
    own = own_pixels(large, factor)
    assert own is not None and own.shape == small.shape
    # OpenCV clips what overshoots; where it did not, the old pixels come back.
    assert np.abs(own - small).mean() < 1.0
    assert np.median(np.abs(own - small)) < 0.5


@pytest.mark.parametrize("factor", [2, 4])
def test_a_crisp_picture_was_not_enlarged(factor):
    assert own_pixels(leaf(240), factor) is None


@pytest.mark.parametrize("factor", [2, 3, 4])
@pytest.mark.parametrize("blur", [0.6, 0.8, 1.1, 1.5, 2.2])
@pytest.mark.parametrize("noise", [0.0, 4.0])
def test_a_picture_that_is_merely_soft_was_not_enlarged(factor, blur, noise):
    """However well fewer pixels would explain it: it is explained as well counted from any other pixel on."""
    soft = cv2.GaussianBlur(leaf(240).astype(float), (0, 0), blur)
    soft += np.random.default_rng(2).normal(0, noise, soft.shape)
    assert own_pixels(np.clip(np.round(soft), 0, 255).astype(np.uint8), factor) is None


def test_compression_does_not_hide_an_enlargement():
    large = cv2.resize(leaf(), None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC)
    _, packed = cv2.imencode(".jpg", large, [cv2.IMWRITE_JPEG_QUALITY, 85])
    own = own_pixels(cv2.imdecode(packed, cv2.IMREAD_GRAYSCALE), 2)
    assert own is not None and np.abs(own - leaf()).mean() < 3.0


def test_noise_does_not_hide_an_enlargement():
    large = cv2.resize(leaf(), None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC).astype(float)
    noisy = np.clip(large + np.random.default_rng(1).normal(0, 3, large.shape), 0, 255).astype(np.uint8)
    own = own_pixels(noisy, 2)
    assert own is not None and np.abs(own - leaf()).mean() < 3.0


def test_a_side_that_is_no_multiple_was_not_enlarged():
    large = cv2.resize(leaf(), None, fx=2, fy=2, interpolation=cv2.INTER_LINEAR)
    assert own_pixels(large[:-1], 2) is None and own_pixels(large[:, :-1], 2) is None


def test_one_tone_tells_nothing():
    assert own_pixels(np.full((100, 100), 200, np.uint8), 2) is None


def test_all_channels_must_agree():
    large = cv2.resize(leaf(), None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC)
    coloured = np.dstack([large, 255 - large, large])
    own = own_pixels(coloured, 2)
    assert own is not None and own.shape == (90, 90, 3)
    assert np.abs(own[:, :, 0] - own_pixels(large, 2)).max() < 1e-9
    assert own_pixels(np.dstack([large, leaf(180, seed=9), large]), 2) is None


def test_the_busiest_part_of_a_large_picture_tells_of_the_whole():
    sheet = np.full((700, 900), 245, np.uint8)
    sheet[300:390, 500:590] = leaf()
    large = cv2.resize(sheet, None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC)
    own = own_pixels(large, 2)
    assert own is not None and np.abs(own - sheet).mean() < 0.2


@examples(10)
@given(st.integers(0, 10_000), st.sampled_from([2, 4]))
def test_the_clean_up_step_is_undone(seed, factor):
    small = leaf(64, seed)
    picture = Picture(np.repeat(small[:, :, None], 3, axis=2))
    own = own_pixels(cleaned(picture, [Enlarge(factor=factor)]).grey(), factor)
    assert own is not None and np.abs(own - small).mean() < 1.0


@pytest.mark.parametrize("factor", [2, 3])
@pytest.mark.parametrize("sharpness", [-0.75, -0.5, None])
def test_undoing_is_numpys_least_squares(factor, sharpness):
    mixing = _dense_mixing(11, factor, sharpness)
    large = np.random.default_rng(4).normal(size=(11 * factor, 5))
    expected, *_ = np.linalg.lstsq(mixing, large, rcond=None)
    assert _undone(_weights(factor, sharpness), large) == pytest.approx(expected, abs=1e-9)
