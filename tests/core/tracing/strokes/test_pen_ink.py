"""Ink of a round pen along polylines: against shapely's distances, however finely their points lie."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.tracing.strokes.pen_ink import InkWindow

WIDTH = 12.0
LOW, HIGH = np.array([20.0, 20.0]), np.array([60.0, 60.0])
EMPTY = np.zeros((80, 80))
places = st.tuples(st.integers(4, 76), st.integers(4, 76)).map(
    lambda place: (float(place[0]), float(place[1]))
)
corners = st.lists(places, min_size=2, max_size=4, unique=True)


def by_shapely(points: list[tuple[float, float]]) -> float:
    """The squared ink of a pen along a polyline, summed over the window's pixels."""
    columns, rows = np.meshgrid(np.arange(20, 60) + 0.5, np.arange(20, 60) + 0.5)
    away = shapely.distance(shapely.points(columns, rows), shapely.LineString(points))
    return float((np.clip(0.5 + WIDTH / 2 - away, 0, 1) ** 2).sum())


def walked(points: list[tuple[float, float]]) -> np.ndarray:
    return np.array(shapely.segmentize(shapely.LineString(points), 1.0).coords)


@given(corners, st.booleans())
def test_ink_that_is_not_in_the_picture_is_all_off(points, fine):
    # Slight bends between points close to each other are cut off.
    way = walked(points) if fine else np.array(points)
    assert InkWindow(EMPTY, WIDTH, LOW, HIGH, []).off(way) == pytest.approx(
        by_shapely(points), rel=0.01, abs=0.05
    )


@given(corners)
def test_ways_that_are_there_anyhow_leave_the_same_ink(points):
    nothing = np.array([points[0]] * 2)
    window = InkWindow(EMPTY, WIDTH, LOW, HIGH, [walked(points)])
    assert window.off(nothing) == pytest.approx(by_shapely(points), rel=0.01, abs=0.05)


def test_a_bend_of_many_points_is_hardly_cut_off():
    turns = np.linspace(0.0, math.pi, 60)
    arc = 40.0 + 16.0 * np.column_stack([np.cos(turns), np.sin(turns)])
    off = InkWindow(EMPTY, WIDTH, LOW, HIGH, []).off(arc)
    assert off == pytest.approx(by_shapely([tuple(p) for p in arc]), rel=0.003)


def test_a_gap_is_no_way():
    gap = np.full((1, 2), np.nan)
    one, two = np.array([[25.0, 25.0], [25.0, 55.0]]), np.array([[52.0, 25.0], [52.0, 55.0]])
    off = InkWindow(EMPTY, WIDTH, LOW, HIGH, []).off(np.concatenate([one, gap, two]))
    alone = [InkWindow(EMPTY, WIDTH, LOW, HIGH, []).off(way) for way in (one, two)]
    assert off == pytest.approx(sum(alone))
