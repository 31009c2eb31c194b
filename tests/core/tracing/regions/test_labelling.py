"""Labels of pixels: mixtures between two areas, areas counted, light weighed."""

import numpy as np
import scipy.ndimage
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from samples import examples
from zeichen.core.tracing.regions.labelling import absorb_spots, label_pixels, regions_of, seen_as_light

PALETTE = np.array([[250.0, 250, 245], [40, 44, 50], [200, 70, 60], [90, 150, 80]])


@examples(18)
@given(hnp.arrays(np.int32, st.tuples(st.integers(1, 14), st.integers(1, 14)), elements=st.integers(0, 2)))
def test_regions_are_those_of_a_reference_library(labels):
    """Reference: scipy.ndimage.label, 4-connected, colour by colour."""
    numbers, count = regions_of(labels)
    total = 0
    for colour in np.unique(labels):
        theirs, found = scipy.ndimage.label(labels == colour)
        total += found
        for k in range(1, found + 1):
            assert len(np.unique(numbers[theirs == k])) == 1
    assert count == total == len(np.unique(numbers))


@examples(14)
@given(
    hnp.arrays(np.int32, st.tuples(st.integers(4, 14), st.integers(4, 14)), elements=st.integers(0, 2)),
    st.integers(2, 9),
)
def test_absorbing_spots_leaves_no_new_colour_and_changes_nothing_large(labels, least):
    out = absorb_spots(labels, least)
    assert set(np.unique(out)) <= set(np.unique(labels))
    numbers, count = regions_of(labels)
    areas = np.bincount(numbers.ravel(), minlength=count)
    large = areas[numbers] >= least
    assert (out[large] == labels[large]).all()


@examples(14)
@given(st.integers(0, 3), st.integers(0, 3), st.floats(0.05, 0.95))
def test_the_larger_part_of_a_mixture_gets_the_pixel(one, other, share):
    if one == other or abs(share - 0.5) < 0.05:
        return
    rgb = np.empty((12, 21, 3))
    rgb[:, :10], rgb[:, 11:] = PALETTE[one], PALETTE[other]
    rgb[:, 10] = share * PALETTE[one] + (1 - share) * PALETTE[other]
    picture = np.round(rgb).astype(np.uint8)
    labels = label_pixels(picture, PALETTE, min_spot_px2=2)
    assert (labels[:, :10] == one).all() and (labels[:, 11:] == other).all()
    assert (labels[:, 10] == (one if share > 0.5 else other)).all()


def test_luma_is_that_of_bt_601_and_grey_has_no_chroma():
    """ITU-R BT.601: Y = 0.299 R + 0.587 G + 0.114 B."""
    light = seen_as_light(np.array([[255.0, 0, 0], [0, 255, 0], [0, 0, 255], [128, 128, 128]]))
    assert np.allclose(light[:, 0], [76.245, 149.685, 29.07, 128.0])
    assert np.abs(light[3, 1:]).max() < 1e-9


def test_spots_go_to_what_surrounds_them():
    labels = np.zeros((20, 20), np.int32)
    labels[:, 10:] = 1
    labels[5, 5] = 2
    labels[12:14, 14:16] = 2
    absorbed = absorb_spots(labels, 9)
    assert set(np.unique(absorbed)) == {0, 1} and absorbed[5, 5] == 0 and absorbed[12, 14] == 1
