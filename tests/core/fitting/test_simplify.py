"""Fewer nodes, the same curve."""

import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from samples import blob, circle, examples, polygon
from zeichen.core.editing.simplify_together import simplified_together
from zeichen.core.errors import InvalidInputError
from zeichen.core.fitting.simplify import simplified_path
from zeichen.core.geometry import Path, Shape
from zeichen.core.geometry.bezier import arc_lengths, evaluate, line_segments, split
from zeichen.core.geometry.polygons import is_simple


def off(before: Path, after: Path) -> float:
    """How far the new curve is from the old one, both ways."""
    t = np.linspace(0, 1, 240)
    one, other = (evaluate(path.segments, t).reshape(-1, 2) for path in (before, after))
    return float(max(cKDTree(other).query(one)[0].max(), cKDTree(one).query(other)[0].max()))


@examples(10)
@given(st.integers(0, 1000), st.floats(0.02, 0.5))
def test_split_curves_lose_their_nodes_and_stay_where_they_were(seed, tolerance):
    path = blob(seed, 100, 100, count=8)
    segments = path.segments
    rng = np.random.default_rng(seed)
    for _ in range(40):
        segments = split(segments, int(rng.integers(len(segments))), float(rng.uniform(0.3, 0.7)))
    less = simplified_path(Path(segments), tolerance=tolerance)
    assert len(less.segments) <= 24
    # Half the spacing of the samples is allowed for.
    assert off(Path(segments), less) < tolerance + 0.8
    assert less.area == pytest.approx(path.area, rel=0.01)


def test_a_polygon_that_stands_for_a_circle_becomes_a_few_curves():
    angle = np.linspace(0, 2 * np.pi, 361)
    fine = Path(line_segments(np.stack([100 + 80 * np.cos(angle), 100 + 80 * np.sin(angle)], axis=1)))
    less = simplified_path(fine, tolerance=0.05)
    assert len(less.segments) <= 10 and less.area == pytest.approx(np.pi * 6400, rel=1e-3)


def test_corners_and_straight_sides_stay():
    square = line_segments(
        np.array([[0, 0], [30, 0], [60, 0], [100, 0], [100, 40], [100, 100], [0, 100], [0, 0.0]])
    )
    less = simplified_path(Path(square), tolerance=0.05)
    assert len(less.segments) == 4 and less.area == pytest.approx(10_000)
    star = polygon((0, 0), (50, 20), (100, 0), (80, 50), (100, 100), (50, 80), (0, 100), (20, 50))
    assert simplified_path(star, tolerance=1.0) is star


def test_a_shape_keeps_what_it_is():
    shape = Shape("a", (circle(0, 0, 10),), "#aa5500", "nonzero")
    assert simplified_together([shape], tolerance=0.1) == [shape]


def wavy(at: float, seed: int) -> np.ndarray:
    """A border down a sheet of 200 x 100, of many short lines."""
    rng = np.random.default_rng(seed)
    y = np.linspace(0, 100, 201)
    x = at + sum(rng.uniform(1, 4) * np.sin(y / rng.uniform(5, 14) + rng.uniform(0, 6)) for _ in range(3))
    return np.stack([x, y], axis=1)


def between(left: np.ndarray, right: np.ndarray) -> Path:
    ring = np.vstack([left[:1], right, left[::-1]])
    return Path(line_segments(ring))


def strips(seed: int) -> list[Shape]:
    """Four colours side by side, each border there twice, run through the one way and the other."""
    edge = [
        np.array([[0.0, 0], [0, 100]]),
        *(wavy(at, seed + at) for at in (50, 100, 150)),
        np.array([[200.0, 0], [200, 100]]),
    ]
    fills = ("#aa5500", "#335577", "#88aa22", "#552222")
    return [Shape(f"s{k}", (between(edge[k], edge[k + 1]),), fills[k]) for k in range(4)]


@examples(8)
@given(st.integers(0, 1000), st.floats(0.05, 1.0))
def test_neighbours_keep_one_border_between_them(seed, tolerance):
    before = strips(seed)
    after = simplified_together(before, tolerance=tolerance)
    assert sum(shape.node_count for shape in after) < 0.4 * sum(shape.node_count for shape in before)
    # No gap and no overlap: each border is there twice, the very same curves, so the areas still fill the sheet.
    assert sum(shape.area for shape in after) == pytest.approx(20_000, abs=1e-6)
    for one, other in itertools.pairwise(after):
        mine = {forth(segment) for segment in one.paths[0].segments}
        shared = [segment for segment in other.paths[0].segments if forth(segment[::-1]) in mine]
        assert len(shared) >= 2 and sum(arc_lengths(np.array(shared))) > 90
    for one, other in zip(before, after, strict=True):
        assert off(one.paths[0], other.paths[0]) < tolerance + 0.3


def forth(segment: np.ndarray) -> bytes:
    return np.ascontiguousarray(segment).tobytes()


def test_of_neighbours_only_the_shared_border_goes_along():
    before = strips(7)
    after = simplified_together(before, tolerance=0.3, ids=["s0"])
    assert after[0].node_count < 0.4 * before[0].node_count
    assert after[1].node_count < before[1].node_count and after[2:] == before[2:]
    assert sum(shape.area for shape in after) == pytest.approx(20_000, abs=1e-6)


def test_a_border_with_a_locked_shape_stays_as_it_is():
    before = strips(7)
    before[1] = replace(before[1], locked=True)
    after = simplified_together(before, tolerance=0.3, ids=["s0", "s2"])
    assert after[:2] == before[:2] and after[2].node_count < 0.7 * before[2].node_count
    assert sum(shape.area for shape in after) == pytest.approx(20_000, abs=1e-6)


def test_a_shape_in_the_hole_of_another_keeps_its_border_with_it():
    angle = np.linspace(0, 2 * np.pi, 361)
    ring = np.stack([100 + 40 * np.cos(angle), 100 + 40 * np.sin(angle)], axis=1)
    # The hole starts elsewhere and runs the other way.
    hole = np.roll(ring[:-1], 100, axis=0)[::-1]
    sheet = polygon((0, 0), (200, 0), (200, 200), (0, 200))
    around = Shape("around", (sheet, Path(line_segments(np.vstack([hole, hole[:1]])))), "#335577")
    disc = Shape("disc", (Path(line_segments(ring)),), "#aa5500")
    after = simplified_together([around, disc], tolerance=0.1)
    assert after[1].node_count <= 12
    assert after[0].area + after[1].area == pytest.approx(40_000, abs=1e-6)


def test_walls_close_together_do_not_cross():
    t = np.linspace(0, 100, 301)
    wave = 3 * np.sin(t / 2)
    low, high = np.stack([t, 50 + wave], axis=1), np.stack([t, 50.5 + wave], axis=1)
    ribbon = Shape("ribbon", (Path(line_segments(np.vstack([high, low[::-1], high[:1]]))),), "#335577")
    (after,) = simplified_together([ribbon], tolerance=2.0)
    assert after.node_count < ribbon.node_count
    assert is_simple(after.paths[0], tolerance=0.01)


def test_a_border_of_one_line_keeps_its_way_round_in_both():
    top = np.stack([np.linspace(100, 0, 101), 8 * np.sin(np.linspace(0, 3, 101))], axis=1)
    upper = np.vstack([top, [[0, 50], [100, 50]], top[:1]])
    wave = np.stack([100 + 8 * np.sin(np.linspace(0, np.pi, 101)), np.linspace(100, 50, 101)], axis=1)
    lower = np.vstack([[[0, 50], [0, 100]], wave, [[0, 50]]])
    rings = [Path(line_segments(ring)) for ring in (upper, lower)]
    before = [Shape("upper", rings[:1], "#335577"), Shape("lower", rings[1:], "#aa5500")]
    before = [replace(shape, paths=tuple(shape.paths)) for shape in before]
    for one, other in zip(before, simplified_together(before, tolerance=0.05), strict=True):
        (path,) = other.paths
        assert other.node_count < 0.3 * one.node_count
        assert np.array_equal(path.segments[:, 3], np.roll(path.segments[:, 0], -1, axis=0))
        assert other.area == pytest.approx(one.area, rel=1e-3)


def test_a_path_of_no_length_is_left_alone():
    point = Path(line_segments(np.array([[5.0, 5.0], [5.0, 5.0], [5.0, 5.0]])))
    shapes = [Shape("a", (point, circle(50, 50, 20)), "#335577"), Shape("b", (point,), "#aa5500")]
    assert simplified_together(shapes, tolerance=0.1) == shapes


def test_lines_and_open_paths_are_thinned_alone():
    t = np.linspace(0, 100, 301)
    line = Path(line_segments(np.stack([t, 3 * np.sin(t / 20)], axis=1)), closed=False)
    drawn = Shape("drawn", (line,), "#335577", stroke_width=1.0)
    (after,) = simplified_together([drawn], tolerance=0.1)
    assert after.node_count < 20 and not after.paths[0].closed


def test_the_tolerance_must_be_above_zero():
    with pytest.raises(InvalidInputError, match="Tolerance"):
        simplified_path(circle(0, 0, 10), tolerance=0.0)
