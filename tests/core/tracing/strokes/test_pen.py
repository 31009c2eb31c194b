"""Lines of changing width: their middle, ends, corners and meetings, on pictures whose lines are known."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from samples import examples
from zeichen.core.geometry import bezier
from zeichen.core.methods import Method, Strokes
from zeichen.core.raster import Picture
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace

SIZE, FINE = 480, 4


def dense(points, closed: bool = False) -> np.ndarray:
    """Points a fifth of a pixel apart along a polyline."""
    line = np.array(points, float)
    if closed:
        line = np.vstack([line, line[:1]])
    along = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = np.arange(0, along[-1], 0.2)
    return np.stack([np.interp(at, along, line[:, k]) for k in (0, 1)], axis=1)


def penned(lines: list[tuple[np.ndarray, np.ndarray]], *, noise: float = 0.0) -> Picture:
    """Lines (points (n, 2) and widths (n,), px) as a round pen leaves them."""
    canvas = np.full((SIZE * FINE, SIZE * FINE), 255, np.uint8)
    for points, widths in lines:
        for (x, y), width in zip(points, widths, strict=True):
            at = round(x * FINE * 16), round(y * FINE * 16)
            cv2.circle(canvas, at, round(width / 2 * FINE * 16), 20, -1, shift=4)
    grey = cv2.resize(canvas, (SIZE, SIZE), interpolation=cv2.INTER_AREA).astype(float)
    grey += np.random.default_rng(7).normal(0, noise, grey.shape)
    return Picture(np.repeat(np.clip(grey + 0.5, 0, 255).astype(np.uint8)[:, :, None], 3, axis=2))


def waving(points: np.ndarray, least: float = 10.0, most: float = 24.0, turns: float = 2.0) -> np.ndarray:
    """Widths that wax and wane along a line."""
    share = np.linspace(0, 1, len(points))
    return least + (most - least) * (0.5 - 0.5 * np.cos(2 * np.pi * turns * share))


def traced(picture: Picture, **changes):
    return trace(picture, TraceSettings(method=Method.CENTRELINE, **changes))


def middles(made) -> list[np.ndarray]:
    t = np.linspace(0, 1, 60)
    return [bezier.evaluate(shape.paths[0].segments, t).reshape(-1, 2) for shape in made.drawing.shapes]


def apart(made, *lines: np.ndarray) -> tuple[float, float]:
    """The furthest a drawn line is from the traced ones, and the other way, px."""
    there = np.vstack([dense(line) for line in middles(made)])
    drawn = np.vstack(lines)
    return float(cKDTree(there).query(drawn)[0].max()), float(cKDTree(drawn).query(there)[0].max())


def test_the_middle_of_a_line_that_waxes_and_wanes_is_one_stroke():
    x = np.linspace(60, 420, 1800)
    line = np.stack([x, 240 + 60 * np.sin(x / 60)], axis=1)
    made = traced(penned([(line, waving(line))], noise=3.0))
    assert len(made.drawing.shapes) == 1
    assert max(apart(made, line)) < 1.0
    assert made.drawing.shapes[0].stroke_width == pytest.approx(17, abs=3)


def test_a_taper_ends_where_the_pen_was_lifted():
    line = dense([(60, 240), (420, 260)])
    made = traced(penned([(line, np.linspace(26, 5, len(line)))]))
    ends = np.array([made.drawing.shapes[0].paths[0].segments[k, j] for k, j in ((0, 0), (-1, 3))])
    off = cKDTree(ends).query(np.array([[60, 240], [420, 260]], float))[0]
    assert off.max() < 1.5


def test_a_blob_at_an_end_makes_no_spur():
    line = dense([(80, 240), (400, 240)])
    widths = np.where(line[:, 0] < 110, 40.0, waving(line, 10, 18))
    made = traced(penned([(line, widths)]))
    assert len(made.drawing.shapes) == 1
    # Where in a blob of 40 px the pen began, its ink hardly says.
    assert max(apart(made, line)) < 4.0


def test_a_triangle_stays_a_triangle():
    corners = [(100, 380), (380, 380), (240, 120)]
    line = dense(corners, closed=True)
    made = traced(penned([(line, waving(line, 12, 22, 3))]))
    (shape,) = made.drawing.shapes
    assert shape.paths[0].closed
    nodes = shape.paths[0].segments[:, 0]
    assert cKDTree(nodes).query(np.array(corners, float))[0].max() < 2.5
    assert max(apart(made, line)) < 2.5


def test_lines_that_cross_are_two_and_one_that_lands_ends_there():
    one, other = dense([(80, 100), (400, 380)]), dense([(80, 380), (400, 120)])
    stem = dense([(240, 40), (238, 238)])
    made = traced(penned([(one, waving(one)), (other, waving(other, turns=1))]))
    assert len(made.drawing.shapes) == 2
    assert max(apart(made, one, other)) < 1.5
    bar = dense([(80, 240), (400, 240)])
    made = traced(penned([(bar, waving(bar)), (stem, waving(stem, 10, 16))]))
    assert len(made.drawing.shapes) == 2
    assert max(apart(made, bar, stem)) < 2.5


def test_a_ring_stays_one_closed_stroke():
    turn = np.linspace(0, 2 * np.pi, 3000)
    ring = 240 + 130 * np.stack([np.cos(turn), np.sin(turn)], axis=1)
    made = traced(penned([(ring, waving(ring, 8, 22, 1))], noise=4.0))
    (shape,) = made.drawing.shapes
    assert shape.paths[0].closed
    assert max(apart(made, ring)) < 1.0


def test_lines_side_by_side_stay_two():
    upper, lower = dense([(60, 225), (420, 225)]), dense([(60, 255), (420, 255)])
    made = traced(penned([(upper, waving(upper, 8, 22)), (lower, waving(lower, 8, 22))]))
    assert len(made.drawing.shapes) == 2
    assert max(apart(made, upper, lower)) < 2.0


def test_a_dot_beside_lines_is_an_area():
    line = dense([(60, 240), (420, 240)])
    made = traced(penned([(line, waving(line)), (np.array([[240.0, 120.0]]), np.array([22.0]))]))
    filled = [shape for shape in made.drawing.shapes if shape.stroke_width is None]
    assert [shape.area for shape in filled] == pytest.approx([np.pi * 11**2], rel=0.03)
    assert len(made.drawing.shapes) == 2


def test_outlines_of_strokes_cover_the_ink():
    x = np.linspace(60, 420, 1800)
    line = np.stack([x, 240 + 60 * np.sin(x / 60)], axis=1)
    picture = penned([(line, waving(line))])
    made = traced(picture, strokes=Strokes.OUTLINED)
    (shape,) = made.drawing.shapes
    assert shape.stroke_width is None and all(path.closed for path in shape.paths)
    assert shape.area == pytest.approx(float((255.0 - picture.grey()).sum() / 235.0), rel=0.02)


@examples(8)
@given(scale=st.floats(0.7, 1.6), seed=st.integers(0, 1000))
def test_a_width_that_is_scaled_along_the_line_moves_no_middle(scale, seed):
    rng = np.random.default_rng(seed)
    x = np.linspace(60, 420, 1800)
    line = np.stack(
        [x, 240 + rng.uniform(10, 50) * np.sin(x / rng.uniform(50, 90) + rng.uniform(0, 6))], axis=1
    )
    widths = waving(line, 9, 20, float(rng.uniform(1, 3)))
    swell = 1 + (scale - 1) * np.linspace(0, 1, len(line))
    plain, scaled = (traced(penned([(line, each)])) for each in (widths, widths * swell))
    # The ends aside, where a wider pen was lifted as far off.
    inner = line[(x > 90) & (x < 390)]
    lines = [np.vstack([dense(each) for each in middles(made)]) for made in (plain, scaled)]
    off = [cKDTree(each).query(inner)[0] for each in lines]
    assert np.abs(off[0] - off[1]).max() < 0.5
    assert max(each.max() for each in off) < 1.0
