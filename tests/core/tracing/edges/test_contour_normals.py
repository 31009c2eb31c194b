"""Which boundary points tell, and how a boundary runs at them: circles and lines of known direction."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.tracing.edges.contour_normals import normals, telling


def circle(radius: float, step: float = 0.8) -> np.ndarray:
    turn = np.linspace(0, 2 * math.pi, round(2 * math.pi * radius / step), endpoint=False)
    return np.column_stack([200 + radius * np.cos(turn), 200 + radius * np.sin(turn)])


def square(side: float, step: float = 0.8) -> np.ndarray:
    along = np.arange(0, side, step)
    still = np.zeros_like(along)
    edges = [(along, still), (still + side, along), (side - along, still + side), (still, side - along)]
    return np.concatenate([np.column_stack(edge) for edge in edges])


@given(st.floats(12, 400))
def test_normals_of_a_circle_point_to_its_middle_and_its_bend_is_one_over_its_radius(radius):
    points = circle(radius)
    at = np.arange(0, len(points), 7)
    normal, bend, off = normals(points, np.array([0, len(points)]), np.array([True]), 4.0, at)
    inwards = (200.0 - points[at]) / radius
    assert np.allclose(normal, inwards, atol=2e-3)
    assert np.allclose(bend, 1.0 / radius, rtol=0.03)
    assert np.abs(off).max() < 0.01


@given(st.floats(0, 2 * math.pi), st.integers(20, 60))
def test_along_a_line_the_normal_is_square_to_it_and_nothing_bends(way, count):
    along = np.arange(count) * 0.8
    points = np.column_stack([along * math.cos(way), along * math.sin(way)])
    normal, bend, off = normals(points, np.array([0, count]), np.array([False]), 3.0, np.arange(count))
    # With y down and the ink on the right of the run.
    assert np.allclose(normal, [-math.sin(way), math.cos(way)], atol=1e-9)
    assert np.abs(bend).max() < 1e-9 and np.abs(off).max() < 1e-9


def test_the_numbers_asked_for_may_lie_in_any_of_several_contours():
    one, two = circle(30.0), circle(60.0)
    points = np.concatenate([one, two])
    starts = np.array([0, len(one), len(points)])
    at = np.array([3, len(one) - 1, len(one), len(points) - 2])
    _, bend, _ = normals(points, starts, np.array([True, True]), 4.0, at)
    assert bend == pytest.approx([1 / 30, 1 / 30, 1 / 60, 1 / 60], rel=0.03)


def test_a_square_keeps_all_points_at_its_corners_and_ever_fewer_away_from_them():
    points = square(160.0)
    kept, starts, _ = telling(points, np.array([0, len(points)]))
    assert starts.tolist() == [0, len(kept)]
    gaps = np.diff(kept)
    assert set(gaps.tolist()) == {1, 2, 4} and kept[0] == 0
    corner = np.abs(points[:, None] - [[0, 0], [160, 0], [160, 160], [0, 160]]).max(axis=2).min(axis=1)
    assert set(np.nonzero(corner < 8.0)[0].tolist()) <= set(kept.tolist())
    assert len(kept) < 0.6 * len(points)
    assert gaps[(corner[kept[:-1]] > 60.0) & (corner[kept[1:]] > 60.0)].min() == 4


@pytest.mark.parametrize(("radius", "share"), [(20.0, 1.0), (26.0, 1.0), (120.0, 0.25), (400.0, 0.25)])
def test_tight_bends_keep_all_points_and_gentle_ones_a_quarter(radius, share):
    points = circle(radius)
    kept, *_ = telling(points, np.array([0, len(points)]))
    assert len(kept) == pytest.approx(share * len(points), abs=0.01 * len(points))


def test_short_contours_keep_all_points_wherever_they_lie_in_the_list():
    dot, disc = circle(9.0), circle(300.0)
    points = np.concatenate([dot, disc, dot])
    edges = np.cumsum([0, len(dot), len(disc), len(dot)])
    kept, starts, _ = telling(points, edges)
    sizes = np.diff(starts)
    assert sizes[0] == sizes[2] == len(dot) and sizes[1] < 0.27 * len(disc)
    for loop in range(3):
        mine = kept[starts[loop] : starts[loop + 1]]
        assert mine[0] == edges[loop] and (mine < edges[loop + 1]).all()


@given(st.floats(20, 200), st.floats(30, 200))
def test_those_kept_stand_for_all_points_together(radius, side):
    points = np.concatenate([circle(radius), square(side)])
    starts = np.array([0, len(circle(radius)), len(points)])
    kept, begins, stands_for = telling(points, starts)
    for loop in range(2):
        mine = slice(begins[loop], begins[loop + 1])
        assert stands_for[mine].sum() == pytest.approx(starts[loop + 1] - starts[loop])
        gaps = np.diff(kept[mine])
        assert stands_for[mine][1:-1] == pytest.approx((gaps[:-1] + gaps[1:]) / 2)
