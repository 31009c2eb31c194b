"""What points tell of a curve around one of them, beside numpy's polynomials and circles of known size."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import examples
from zeichen.core.fitting.circle_fit import circle_along
from zeichen.core.fitting.corner_search import arc_rms
from zeichen.core.fitting.local_polynomial import (
    Stretch,
    central_estimate,
    cumulative_length,
    gap_between,
    polyline_of,
    side_estimate,
)


def blob(seed: int, count: int = 160) -> np.ndarray:
    """A round closed outline of about 40 px that bends everywhere."""
    t = np.arange(count) * 2 * math.pi / count
    rng = np.random.default_rng(seed)
    reach = 40 + sum(rng.uniform(-3, 3) * np.cos(k * t + rng.uniform(0, 6)) for k in (2, 3))
    return np.column_stack([reach * np.cos(t), reach * np.sin(t)]) + 90.0


def near(points: np.ndarray, i: int, low: float, reach: float) -> tuple[np.ndarray, np.ndarray]:
    """Distances along a loop from one point, negative before it, and the points between two of them away."""
    length = cumulative_length(points)
    away = length[:-1] - length[i]
    away = (away + length[-1] / 2) % length[-1] - length[-1] / 2
    kept = (np.abs(away) <= reach) & (np.abs(away) >= low)
    return away[kept], points[kept]


@examples(18)
@given(st.integers(0, 10_000), st.integers(0, 159), st.floats(5, 20))
def test_a_point_seen_from_both_sides_is_numpys_parabola_there(seed, i, reach):
    points = blob(seed)
    out = np.zeros(4)
    rms = central_estimate(polyline_of(points, True), i, reach, out)
    away, seen = near(points, i, 0.0, reach)
    fits = [np.polynomial.Polynomial.fit(away, seen[:, axis], 2).convert() for axis in (0, 1)]
    place, slope = np.array([[fit.coef[k] for fit in fits] for k in (0, 1)])
    assert out[:2] == pytest.approx(place, abs=1e-6)
    assert out[2:] == pytest.approx(slope / np.hypot(*slope), abs=1e-6)
    left = np.stack([fit(away) for fit in fits], axis=1) - seen
    assert rms == pytest.approx(math.sqrt((left**2).sum() / len(seen)), abs=1e-6)


@examples(18)
@given(
    st.integers(0, 10_000),
    st.integers(0, 159),
    st.floats(8, 20),
    st.sampled_from([-1, 1]),
    st.sampled_from([1, 2]),
)
def test_a_side_is_numpys_line_or_parabola_extrapolated(seed, i, reach, side, degree):
    points = blob(seed)
    out = np.zeros(5)
    assert side_estimate(polyline_of(points, True), i, side, Stretch(1.5, reach), degree, out)
    away, seen = near(points, i, 1.5, reach)
    away, seen = away[away * side > 0] * side, seen[away * side > 0]
    fits = [np.polynomial.Polynomial.fit(away, seen[:, axis], degree).convert() for axis in (0, 1)]
    place, slope = np.array([[fit.coef[k] for fit in fits] for k in (0, 1)])
    assert out[:2] == pytest.approx(place, abs=1e-6)
    way = slope / np.hypot(*slope)
    assert out[2:4] == pytest.approx(way, abs=1e-6)
    off = np.abs((seen[:, 0] - place[0]) * way[1] - (seen[:, 1] - place[1]) * way[0]).max()
    assert out[4] == pytest.approx(off, abs=1e-6)


def test_a_side_of_one_point_says_nothing():
    points = blob(1)
    assert not side_estimate(polyline_of(points, True), 3, 1, Stretch(1.0, 2.0), 1, np.zeros(4))


def test_an_open_line_ends_where_it_ends():
    points = np.column_stack([np.arange(20.0), np.zeros(20)])
    line, stretch = polyline_of(points, False), Stretch(0.5, 6.0)
    out = np.zeros(4)
    assert not side_estimate(line, 0, -1, stretch, 1, out)
    assert side_estimate(line, 0, 1, stretch, 1, out)
    assert out == pytest.approx([0.0, 0.0, 1.0, 0.0])


@given(st.integers(0, 159), st.integers(-500, 500), st.integers(0, 500))
def test_gaps_round_a_loop_add_up(start, begin, further):
    points = blob(start)
    length = cumulative_length(points)
    half = begin + further // 2
    whole = gap_between(length, begin, begin + further, 160)
    parts = gap_between(length, begin, half, 160) + gap_between(length, half, begin + further, 160)
    assert whole == pytest.approx(parts) and whole >= 0.0
    assert gap_between(length, begin, begin + 160, 160) == pytest.approx(length[-1])


@given(
    st.floats(1, 500),
    st.floats(0.3, 6.2),
    st.floats(-1e4, 1e4),
    st.floats(0, 6.2),
    st.integers(5, 60),
    st.integers(1, 3),
)
def test_a_circle_is_found_from_part_of_it(radius, sweep, far, turn, count, step):
    angle = turn + sweep * np.arange(count * step) / (count * step)
    points = far + radius * np.column_stack([np.cos(angle), np.sin(angle)])
    found, x, y, size = circle_along(points, len(points), step)
    assert found
    assert (x, y) == pytest.approx((far, far), abs=1e-4 * radius + 1e-6 * abs(far))
    assert size == pytest.approx(radius, rel=1e-4, abs=1e-6 * abs(far))


@given(st.floats(-3, 3), st.floats(-100, 100))
def test_points_on_one_line_have_no_circle(turn, far):
    points = far + np.outer(np.arange(12.0), (math.cos(turn), math.sin(turn)))
    assert not circle_along(points, len(points), 1)[0]


@given(st.floats(8, 200), st.integers(0, 39))
def test_points_of_an_arc_are_on_it(radius, i):
    count = max(40, round(2 * math.pi * radius / 0.8))
    angle = np.arange(count) * 2 * math.pi / count
    points = radius * np.column_stack([np.cos(angle), np.sin(angle)]) + 300.0
    assert arc_rms(polyline_of(points, True), i, 7.0) < 1e-6


@given(st.floats(40, 140), st.floats(0, 6.2))
def test_points_of_a_corner_are_off_any_arc(turn_deg, way):
    """And the more so, the more it turns; straight on, they are on one of infinite radius."""
    side = np.arange(1.0, 15.0)[:, None] * 0.8
    come = np.array([math.cos(way), math.sin(way)])
    turn = way + math.radians(turn_deg)
    go = np.array([math.cos(turn), math.sin(turn)])
    points = np.vstack([-side[::-1] * come, [[0.0, 0.0]], side * go])
    assert arc_rms(polyline_of(points, False), 14, 7.0) > 0.002 * turn_deg
    straight = np.vstack([-side[::-1] * come, [[0.0, 0.0]], side * come])
    assert arc_rms(polyline_of(straight, False), 14, 7.0) < 1e-9
