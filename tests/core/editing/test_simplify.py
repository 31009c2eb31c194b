"""Fewer nodes, the same curve."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from samples import blob, circle, polygon
from zeichen.core.editing.simplify import simplified, simplified_path
from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry import Path, Shape
from zeichen.core.geometry.bezier import evaluate, line_segments, split


def off(before: Path, after: Path) -> float:
    """How far the new curve is from the old one, both ways."""
    t = np.linspace(0, 1, 240)
    one, other = (evaluate(path.segments, t).reshape(-1, 2) for path in (before, after))
    return float(max(cKDTree(other).query(one)[0].max(), cKDTree(one).query(other)[0].max()))


@settings(max_examples=20, deadline=None)
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
    assert simplified(shape, tolerance=0.1) == shape


def test_the_tolerance_must_be_above_zero():
    with pytest.raises(InvalidInputError, match="Tolerance"):
        simplified_path(circle(0, 0, 10), tolerance=0.0)
