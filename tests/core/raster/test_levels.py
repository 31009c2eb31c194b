"""Finding the level between ink and paper."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import disc_mask, picture_of
from zeichen.core.errors import InvalidInputError
from zeichen.core.raster import Picture, edge_level, otsu_level
from zeichen.core.raster.levels import _median, ink_and_paper


@given(st.integers(0, 90), st.integers(150, 255), st.integers(1, 60))
def test_the_edge_lies_half_way_between_ink_and_paper(ink, paper, share):
    grey = np.full((50, 20), paper, np.uint8)
    grey.ravel()[: share * 10] = ink
    assert edge_level(grey) == (ink + paper) // 2
    assert ink <= otsu_level(grey) < paper


@pytest.mark.parametrize(("tone", "word"), [(255, "white"), (0, "black"), (128, "grey")])
def test_a_picture_of_one_tone_says_so(tone, word):
    with pytest.raises(InvalidInputError, match=f"all {word}: there is no figure to trace"):
        edge_level(np.full((20, 20), tone, np.uint8))


def test_a_soft_shadow_does_not_move_the_edge():
    mask = disc_mask(120, (60, 60), 30, fine=8)
    plain = picture_of(mask).grey()
    shadow = plain.copy()
    shadow[100:110, 30:90] = 225
    assert abs(edge_level(shadow) - edge_level(plain)) <= 1


def test_pictures_refuse_other_arrays_and_tiny_ones():
    with pytest.raises(InvalidInputError, match="8-bit"):
        Picture(np.zeros((20, 20), np.uint8))
    with pytest.raises(InvalidInputError, match="1 x 1 px, too small"):
        Picture(np.zeros((1, 1, 3), np.uint8))


def test_grey_weighs_green_most():
    """BT.601: 0.299, 0.587, 0.114 (ITU-R BT.601-7, section 2.5.1)."""
    rgb = np.zeros((8, 24, 3), np.uint8)
    for channel in range(3):
        rgb[:, channel * 8 : channel * 8 + 8, channel] = 255
    grey = Picture(rgb).grey()
    assert [int(grey[0, k * 8]) for k in range(3)] == [76, 150, 29]


@given(st.integers(0, 2**32 - 1), st.integers(10, 60), st.integers(180, 245))
def test_some_of_the_rows_tell_the_two_tones_as_well_as_all(seed, ink, paper):
    """A figure in noise, in a picture so large that every other row is looked at."""
    grey = np.random.default_rng(seed).normal(paper, 4.0, (520, 520))
    grey[200:301, 150:400] += ink - paper
    grey = np.clip(np.rint(grey), 0, 255).astype(np.uint8)
    assert ink_and_paper(grey) == pytest.approx((ink, paper), abs=1)
    # Of one figure only few rows high none may be passed over.
    flat = np.full((40, 9000), paper, np.uint8)
    flat[17] = ink
    assert ink_and_paper(flat) == (ink, paper)


@given(st.lists(st.integers(0, 255), min_size=1, max_size=60), st.integers(0, 200))
def test_the_middle_value_is_the_lower_median_of_those_counted(values, first):
    counted = [value for value in values if value >= first]
    if not counted:
        return
    counts = np.bincount(values, minlength=256).astype(float)
    assert _median(counts, first, 256) == sorted(counted)[(len(counted) - 1) // 2]
