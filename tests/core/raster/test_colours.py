"""Colour differences against the published pairs and a reference library; palettes of painted pictures."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage.color import deltaE_ciede2000, rgb2lab

from samples import examples
from zeichen.core.raster.colours import difference, find_palette, to_lab

# G. Sharma, W. Wu and E. N. Dalal, Color Research and Application 30 (2005), table 1 (some of its pairs, from memory).
PAIRS = [
    ((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485), 2.0425),
    ((50.0, 3.1571, -77.2803), (50.0, 0.0, -82.7485), 2.8615),
    ((50.0, 2.8361, -74.0200), (50.0, 0.0, -82.7485), 3.4412),
    ((50.0, -1.3802, -84.2814), (50.0, 0.0, -82.7485), 1.0000),
    ((50.0, 0.0, 0.0), (50.0, -1.0, 2.0), 2.3669),
    ((50.0, 2.49, -0.001), (50.0, -2.49, 0.0009), 7.1792),
    ((50.0, 2.5, 0.0), (73.0, 25.0, -18.0), 27.1492),
    ((50.0, 2.5, 0.0), (61.0, -5.0, 29.0), 22.8977),
    ((50.0, 2.5, 0.0), (56.0, -27.0, -3.0), 31.9030),
    ((50.0, 2.5, 0.0), (58.0, 24.0, 15.0), 19.4535),
    ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ((2.0776, 0.0795, -1.1350), (0.9033, -0.0636, -0.5514), 0.9082),
]


@pytest.mark.parametrize(("first", "second", "expected"), PAIRS)
def test_the_published_pairs_are_as_far_apart_as_published(first, second, expected):
    assert difference(np.array(first), np.array(second)) == pytest.approx(expected, abs=1e-4)


@examples(22)
@given(st.lists(st.floats(-60, 60), min_size=4, max_size=4), st.floats(1, 99), st.floats(1, 99))
def test_differences_agree_with_a_reference_library_and_are_symmetric(ab, l1, l2):
    first, second = np.array([l1, ab[0], ab[1]]), np.array([l2, ab[2], ab[3]])
    assert difference(first, second) == pytest.approx(deltaE_ciede2000(first, second), abs=1e-6)
    assert difference(first, second) == pytest.approx(difference(second, first), abs=1e-7)
    assert difference(first, first) == 0


def test_lab_agrees_with_a_reference_library():
    """OpenCV interpolates the cube root from a table: a few tenths at most."""
    rgb = np.random.default_rng(3).integers(0, 256, (200, 3)).astype(np.uint8)
    assert np.abs(to_lab(rgb) - rgb2lab(rgb[None] / 255.0)[0]).max() < 0.4


def painted(colours: list[tuple[int, int, int]], *, noise: float = 0.0, size: int = 240) -> np.ndarray:
    """Discs of each colour after the first on a ground of the first, edges antialiased."""
    canvas = np.full((size * 4, size * 4, 3), colours[0], np.uint8)
    for k, colour in enumerate(colours[1:]):
        place = (int(size * (0.9 + 1.1 * (k % 3))), int(size * (0.9 + 1.1 * (k // 3))))
        cv2.circle(canvas, place, int(size * 0.42), colour, -1)
    picture = cv2.resize(canvas, (size, size), interpolation=cv2.INTER_AREA).astype(float)
    picture += np.random.default_rng(1).normal(0, noise, picture.shape)
    return np.clip(np.round(picture), 0, 255).astype(np.uint8)


COLOURS = [(250, 248, 240), (40, 44, 50), (200, 60, 50), (70, 130, 70), (240, 180, 60), (90, 140, 200)]


@pytest.mark.parametrize("noise", [0.0, 3.0])
@pytest.mark.parametrize("count", [2, 4, 6])
def test_the_number_of_colours_is_proposed_and_each_is_found(count, noise):
    found = find_palette(painted(COLOURS[:count], noise=noise))
    assert len(found.rgb) == count
    for colour in COLOURS[:count]:
        assert np.abs(found.rgb - colour).max(axis=1).min() <= 2
    assert found.area_px[0] == found.area_px.max()
    assert np.abs(found.rgb[0] - COLOURS[0]).max() <= 2


def test_fewer_colours_keep_the_largest_and_the_error_falls_with_the_number():
    found = find_palette(painted(COLOURS), colours=3)
    assert len(found.rgb) == 3 and np.abs(found.rgb[0] - COLOURS[0]).max() <= 2
    assert all(a >= b - 1e-9 for a, b in zip(found.error, found.error[1:], strict=False))


def test_gradients_are_noticed_and_become_steps():
    ramp = np.tile(np.linspace(30, 230, 200), (200, 1))
    picture = np.repeat(np.round(ramp)[..., None], 3, axis=2).astype(np.uint8)
    found = find_palette(picture)
    assert found.gradient_share > 0.8 and 4 <= len(found.rgb) <= 24
    assert find_palette(painted(COLOURS)).gradient_share < 0.02
