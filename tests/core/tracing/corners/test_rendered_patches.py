"""Patches around tips are what whole pictures would show there."""

from itertools import pairwise

import cv2
import numpy as np
import pytest

from zeichen.core.raster.coverage import coverage
from zeichen.core.raster.ink import Ink
from zeichen.core.tracing.corners.corner_refinement import _kernel
from zeichen.core.tracing.corners.rendered_patches import drawn_around, sort_into_bands

HEIGHT, WIDTH, HALF, BAND = 60, 80, 6, 16.0


def outlines() -> list[np.ndarray]:
    """A star that leaves the picture on two sides, and a hole in it."""
    turn = np.linspace(0, 2 * np.pi, 14, endpoint=False)
    radius = np.where(np.arange(14) % 2, 50.0, 22.0)
    star = np.column_stack([30 + radius * np.cos(turn), 28 + radius * np.sin(turn)])
    hole = np.column_stack([30 + 9 * np.cos(-turn), 28 + 9 * np.sin(-turn)])
    return [star, hole]


@pytest.mark.parametrize("sigma", [0.0, 0.7, 1.6])
@pytest.mark.parametrize("place", [(30, 40), (0, 3), (59, 79), (47, 2), (5, 77)])
def test_a_patch_shows_what_the_whole_picture_drawn_and_blurred_shows(sigma, place):
    """Against OpenCV's Gaussian blur of the drawing's whole coverage, the picture's rim repeated."""
    row, column = place
    loops = outlines()
    whole = coverage(loops, HEIGHT, WIDTH)
    kernel, _ = _kernel(sigma)
    if len(kernel) > 1:
        taps = np.outer(kernel, kernel)
        whole = cv2.filter2D(whole, cv2.CV_64F, taps, borderType=cv2.BORDER_REPLICATE)
    edges = np.concatenate([np.hstack([loop, np.roll(loop, -1, axis=0)]) for loop in loops])
    drawn = sort_into_bands(edges, BAND, HEIGHT, WIDTH)
    patch = drawn_around(drawn, row, column, HALF, kernel)
    rows, columns = np.arange(row - HALF, row + HALF + 1), np.arange(column - HALF, column + HALF + 1)
    inside = np.ix_((rows >= 0) & (rows < HEIGHT), (columns >= 0) & (columns < WIDTH))
    seen = whole[np.ix_(rows[(rows >= 0) & (rows < HEIGHT)], columns[(columns >= 0) & (columns < WIDTH)])]
    # Edges that leave a patch sideways are split coarsely on its rim: a few hundredths of one pixel there.
    assert np.abs(patch[inside] - seen).max() < 0.06
    assert np.abs(patch[inside] - seen).mean() < 2e-3


def test_every_edge_is_in_all_the_bands_that_it_passes_and_in_no_other():
    edges = np.array([[0, 2.0, 5, 3.0], [0, 40.0, 5, 10.0], [0, -9.0, 5, -2.0], [0, 15.9, 5, 16.1]])
    _, numbers, starts, *_ = sort_into_bands(edges, BAND, 3 * int(BAND), WIDTH)
    held = [sorted(numbers[a:b].tolist()) for a, b in pairwise(starts)]
    assert held == [[0, 1, 3], [1, 3], [1]]


def test_ink_around_a_pixel_repeats_the_pictures_rim():
    grey = np.arange(20, dtype=np.uint8).reshape(4, 5) * 10
    ink = Ink(grey, 0.0, 200.0)
    (patch,) = ink.around(np.array([0]), np.array([4]), 1)
    assert patch == pytest.approx((200.0 - np.array([[30, 40, 40], [30, 40, 40], [80, 90, 90]])) / 200.0)
