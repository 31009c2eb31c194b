"""The middle of a line, from the ink across it: bars and rings of known middle and width."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from samples import pen
from zeichen.core.raster.ink import ink_at
from zeichen.core.tracing.strokes.stroke_middle import ink_across, middles, rim_along


def ink_of(*ways, width: float) -> np.ndarray:
    return np.ascontiguousarray(
        1.0 - pen([[tuple(p) for p in way] for way in ways], width=width).grey() / 255.0
    )


@settings(max_examples=15, deadline=None)
@given(st.floats(4.0, 16.0), st.floats(0.0, math.pi), st.floats(-1.5, 1.5))
def test_points_beside_a_bars_middle_come_to_it(width, angle, aside):
    middle, way = np.array([100.3, 99.6]), np.array([math.cos(angle), math.sin(angle)])
    ink = ink_of([middle - 70 * way, middle + 70 * way], width=width)
    off = min(abs(aside), 0.3 * width) * math.copysign(1.0, aside) * np.array([-way[1], way[0]])
    points = middle + np.arange(-40, 41)[:, None] * way + off
    at, widths, good = middles(ink, points, False, 0.4 * width, 0.75 * width + 3.0, 3)
    inner = slice(12, -12)
    away = (at - middle) @ np.array([-way[1], way[0]])
    assert good[inner].all()
    # The pen is drawn from squares an eighth of a pixel wide, each side to the next of them.
    assert np.abs(away[inner]).max() < 0.15
    assert np.abs(widths[inner] - width).max() < 0.45


@pytest.mark.parametrize("begin", [0, 1, 57, 200])
def test_a_ring_has_one_middle_wherever_it_begins(begin):
    turn = np.linspace(0, 2 * math.pi, 400, endpoint=False)
    ring = np.array([100.0, 100.0]) + 60.0 * np.column_stack([np.cos(turn), np.sin(turn)])
    ink = ink_of(np.vstack([ring, ring[:1]]), width=10.0)
    rough = np.round(ring - 0.5) + 0.5
    first, wide, _ = middles(ink, rough, True, 4.0, 10.5, 3)
    turned, wide_too, _ = middles(ink, np.roll(rough, -begin, axis=0), True, 4.0, 10.5, 3)
    assert np.roll(turned, begin, axis=0) == pytest.approx(first, abs=1e-9)
    assert np.roll(wide_too, begin) == pytest.approx(wide, abs=1e-9)
    assert np.abs(np.hypot(*(first - 100.0).T) - 60.0).max() < 0.15


def test_what_cannot_be_measured_says_so():
    ink = np.ones((60, 60))
    points = np.column_stack([np.arange(20.0, 40.0), np.full(20, 30.0)])
    _, _, good = middles(ink, points, False, 4.0, 8.0, 3)
    assert not good.any()


@given(st.floats(0.0, 63.0), st.floats(0.0, 63.0), st.integers(0, 1000))
def test_ink_between_pixels_is_that_of_the_four_around(x, y, seed):
    """Beside the picture there is none."""
    ink = np.random.default_rng(seed).uniform(0, 1, (63, 63))
    padded = np.pad(ink, 2)
    c, r = x - 0.5 + 2, y - 0.5 + 2
    c0, r0 = math.floor(c), math.floor(r)
    right, down = c - c0, r - r0
    four = padded[r0 : r0 + 2, c0 : c0 + 2]
    wanted = np.array([1 - down, down]) @ four @ np.array([1 - right, right])
    assert ink_at(ink, x, y) == pytest.approx(wanted, abs=1e-12)


@pytest.mark.parametrize("width", [6.0, 11.0])
@pytest.mark.parametrize("from_middle", [-1.0, 0.0, 2.0])
def test_the_rim_is_where_the_ink_ends(width, from_middle):
    ink = ink_of([(20.0, 100.4), (180.0, 100.4)], width=width)
    found = rim_along(ink, 100.0, 100.4 + from_middle, 0.0, 1.0, 30.0)
    assert found == pytest.approx(0.5 * width - from_middle, abs=0.15)
    # Along the line there is no end that near.
    assert rim_along(ink, 100.0, 100.4, 1.0, 0.0, 30.0) == -1.0
    assert ink_across(ink, 100.0, 100.4, 0.0, 1.0, 15.0) == pytest.approx(width, abs=0.15)
