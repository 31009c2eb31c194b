"""Thinning against its properties and against scikit-image's of the same method."""

import cv2
import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.ndimage import distance_transform_edt, label
from skimage.measure import euler_number
from skimage.morphology import skeletonize

from samples import examples
from zeichen.core.tracing.strokes.thinning import meeting_pixels, thinned


@st.composite
def strokes(draw) -> np.ndarray:
    """Masks of a few lines of one pen, with paper all around."""
    width = draw(st.integers(5, 15))
    canvas = np.zeros((160, 160), np.uint8)
    inside = st.integers(20, 139)
    for _ in range(draw(st.integers(1, 5))):
        points = draw(st.lists(st.tuples(inside, inside), min_size=2, max_size=4))
        cv2.polylines(canvas, [np.array(points)], False, 1, width)
    return canvas > 0


def pieces(mask: np.ndarray) -> int:
    return int(label(mask, np.ones((3, 3)))[1])


@examples(27)
@given(strokes())
def test_thinning_keeps_pieces_and_holes_and_leaves_single_pixels(mask):
    thin, rows, columns = thinned(mask)
    assert thin[rows, columns].all() and thin.sum() == len(rows)
    assert not (thin & ~mask).any()
    assert pieces(thin) == pieces(mask)
    assert euler_number(thin, connectivity=2) == euler_number(mask, connectivity=2)
    again, _, _ = thinned(thin)
    assert (again == thin).all()
    # Nowhere two by two.
    assert not (thin[1:, 1:] & thin[:-1, 1:] & thin[1:, :-1] & thin[:-1, :-1]).any()


@examples(18)
@given(strokes())
def test_thinned_lines_lie_where_scikit_image_has_them(mask):
    ours, _, _ = thinned(mask)
    theirs = skeletonize(mask)
    assume(theirs.sum() > 60)
    # Where lines lie over each other ink has no one middle, and the two may part; nearly all of either lies
    # beside the other.
    for one, other in ((ours, theirs), (theirs, ours)):
        away = distance_transform_edt(~other)[one]
        assert np.mean(away <= 2.3) > 0.9


@pytest.mark.parametrize("degrees", range(0, 180, 7))
@pytest.mark.parametrize("width", [4, 5, 8])
def test_a_line_is_thinned_over_its_whole_length(degrees, width):
    way = np.array([np.cos(np.radians(degrees)), np.sin(np.radians(degrees))])
    canvas = np.zeros((160, 160), np.uint8)
    ends = [tuple(int(v) for v in np.round(80 + side * 55 * way)) for side in (-1, 1)]
    cv2.line(canvas, *ends, 1, width)
    _, rows, columns = thinned(canvas > 0)
    along = (np.stack([columns, rows], axis=1) - 80) @ way
    assert along.min() < -52 and along.max() > 52


def test_the_middle_of_a_bar_is_thinned_to_its_axis():
    mask = np.zeros((40, 80), bool)
    mask[14:25, 10:70] = True
    thin, rows, columns = thinned(mask)
    assert set(rows[(columns > 20) & (columns < 60)]) == {19}
    assert thin.sum() < 60


@pytest.mark.parametrize(("arms", "meetings"), [(2, 0), (3, 1), (4, 1)])
def test_a_meeting_is_found_where_arms_come_together(arms, meetings):
    canvas = np.zeros((120, 120), np.uint8)
    for k in range(arms):
        way = 2 * np.pi * k / arms + 0.2
        end = (round(60 + 45 * np.cos(way)), round(60 + 45 * np.sin(way)))
        cv2.line(canvas, (60, 60), end, 1, 7)
    numbers, middles = meeting_pixels(*thinned(canvas > 0))
    assert numbers.max() == len(middles) == meetings
    assert (np.abs(middles - 60) < 3).all()


def test_nothing_is_thinned_to_nothing():
    thin, rows, _ = thinned(np.zeros((5, 5), bool))
    assert not thin.any() and len(rows) == 0
