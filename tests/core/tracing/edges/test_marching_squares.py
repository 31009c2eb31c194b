"""Subpixel boundaries: closed, wound by side, right to a small part of a pixel."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy import ndimage

from samples import disc_mask, examples, picture_of
from zeichen.core.tracing.edges.marching_squares import Contours, find_contours


@examples(45)
@given(arrays(np.uint8, st.tuples(st.integers(1, 12), st.integers(1, 36))))
def test_any_picture_gives_closed_loops_that_part_dark_from_light(grey):
    """Inside the loops by winding lies every dark pixel's centre, outside every light one.

    Cells are found eight columns at a time: widths end anywhere in a word.
    """
    contours = find_contours(grey, level=127)
    for k in range(len(contours)):
        loop = contours[k]
        step = np.linalg.norm(np.diff(np.vstack([loop, loop[:1]]), axis=0), axis=1)
        assert step.max() <= math.sqrt(2) + 1e-9
    winding = np.zeros(grey.shape, int)
    rows, columns = np.indices(grey.shape)
    for k in range(len(contours)):
        winding += _winding(contours[k], columns + 0.5, rows + 0.5)
    assert ((winding == 1) == (grey <= 127)).all()


@given(arrays(np.uint8, (10, 10)), st.integers(5, 250))
def test_inverting_traces_the_light_areas(grey, level):
    grey[0] = grey[-1] = 0
    grey[:, 0] = grey[:, -1] = 0
    light = find_contours(grey, level=level, invert=True).areas().sum()
    dark = find_contours(grey, level=level).areas().sum()
    # Together they cover the picture, but for the outermost half pixel and the corners, which are rounded.
    assert light >= 0 and dark >= 0 and light + dark <= 121


@pytest.mark.parametrize("radius", [3, 7.5, 20, 41.3])
@pytest.mark.parametrize("shift", [0.0, 0.27, 0.5])
def test_a_disc_keeps_its_area_wherever_it_lies(radius, shift):
    mask = disc_mask(100, (50 + shift, 50 - shift), radius)
    contours = find_contours(picture_of(mask).grey(), level=127)
    assert len(contours) == 1
    # Linear interpolation cuts bends short: by at most 0.07 px of the radius at these sizes (measured).
    assert math.sqrt(contours.areas()[0] / math.pi) == pytest.approx(radius, abs=0.07)


def test_a_hole_is_wound_the_other_way():
    mask = disc_mask(80, (40, 40), 30) - disc_mask(80, (40, 40), 12)
    areas = sorted(find_contours(picture_of(mask).grey(), level=127).areas())
    assert len(areas) == 2 and areas[0] < 0 < areas[1]


def test_a_figure_at_the_border_is_closed_along_it():
    grey = np.zeros((20, 20), np.uint8)
    contours = find_contours(grey, level=127)
    assert len(contours) == 1
    assert contours.areas()[0] == pytest.approx(400, rel=0.02)
    assert contours[0].min() >= 0 and contours[0].max() <= 20


def test_an_empty_sheet_has_no_contours():
    contours = find_contours(np.full((20, 20), 255, np.uint8), level=127)
    assert len(contours) == 0 and len(contours.areas()) == 0


def _winding(loop, x, y):
    total = np.zeros(x.shape, int)
    a, b = loop, np.roll(loop, -1, axis=0)
    for (ax, ay), (bx, by) in zip(a, b, strict=True):
        side = (bx - ax) * (y - ay) - (x - ax) * (by - ay)
        total += ((ay <= y) & (by > y) & (side > 0)).astype(int)
        total -= ((ay > y) & (by <= y) & (side < 0)).astype(int)
    return total


@given(arrays(np.bool_, st.tuples(st.integers(3, 10), st.integers(3, 40))))
def test_there_are_as_many_outer_loops_and_holes_as_a_library_counts_pieces(dark):
    """scipy's labels: half-way, a saddle's dark pixels are apart, so light ones hold together by corners, too."""
    grey = np.where(dark, 0, 255).astype(np.uint8)
    areas = find_contours(grey, level=127).areas()
    pieces = ndimage.label(dark)[1]
    light = np.pad(~dark, 1, constant_values=True)
    grounds = ndimage.label(light, structure=np.ones((3, 3)))[1]
    assert (areas > 0).sum() == pieces and (areas < 0).sum() == grounds - 1


@given(arrays(np.uint8, (9, 21)), st.integers(20, 230), st.sampled_from([1, 2, 3]))
def test_turning_a_picture_turns_its_boundaries(grey, level, quarters):
    ahead, turned = (
        find_contours(g, level=level) for g in (grey, np.ascontiguousarray(np.rot90(grey, quarters)))
    )
    assert len(ahead.points) == len(turned.points)
    assert np.sort(turned.areas()) == pytest.approx(np.sort(ahead.areas()), abs=1e-9)


@given(st.integers(3, 40), st.floats(-1e4, 1e4), st.integers(0, 1000))
def test_areas_are_shapelys(count, shift, seed):
    rng = np.random.default_rng(seed)
    loops = []
    for _ in range(3):
        # Never half a turn from one to the next: what crosses itself has no one way round.
        angle = (np.arange(count) + rng.uniform(0, 1, count)) * (2 * math.pi / count)
        reach = rng.uniform(1, 40, count)
        loops.append(np.column_stack([reach * np.cos(angle), reach * np.sin(angle)]) + shift)
    found = Contours(np.concatenate(loops), np.arange(4) * count).areas()
    expected = [shapely.Polygon(loop).area * (1 if shapely.LinearRing(loop).is_ccw else -1) for loop in loops]
    assert found == pytest.approx(expected, rel=1e-6, abs=1e-6)
