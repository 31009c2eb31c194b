"""Feet of many points on one cubic, against scipy's search for the nearest place."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import minimize_scalar

from zeichen.core.fitting.projection import (
    offsets,
    plain_step_to_feet,
    power_form,
    square_distances,
    step_to_feet,
)
from zeichen.core.geometry import bezier

COUNT = 19


def bow(height: float, lean: float) -> np.ndarray:
    return np.array([[2.0, 3.0], [15.0 + lean, 3.0 + height], [35.0 + lean, 3.0 + height], [50.0, 5.0]])


def beside(curve: np.ndarray, off: float, seed: int) -> tuple[np.ndarray, np.ndarray]:
    """Rows of points beside a curve, and a state whose parameters are roughly those of their feet."""
    t = np.linspace(0.05, 0.95, COUNT)
    along = bezier.derivative(curve[None], t)[0]
    normal = np.stack([-along[:, 1], along[:, 0]], axis=1) / np.hypot(*along.T)[:, None]
    rng = np.random.default_rng(seed)
    points = bezier.evaluate(curve[None], t)[0] + normal * rng.uniform(-off, off, COUNT)[:, None]
    state = np.full((4, COUNT), np.nan)
    state[0] = np.clip(t + rng.uniform(-0.03, 0.03, COUNT), 0.0, 1.0)
    return np.ascontiguousarray(points.T), state


def nearest(curve: np.ndarray, x: float, y: float, t: float) -> float:
    def away(s: float) -> float:
        return float(((bezier.evaluate(curve[None], np.array([s]))[0, 0] - (x, y)) ** 2).sum())

    return float(
        minimize_scalar(
            away, bounds=(max(0.0, t - 0.2), min(1.0, t + 0.2)), method="bounded", options={"xatol": 1e-10}
        ).x
    )


@given(st.floats(-25, 25), st.floats(-6, 6), st.integers(0, 1000))
def test_newton_finds_the_feet_scipy_finds(height, lean, seed):
    curve = bow(height, lean)
    seen, state = beside(curve, 1.5, seed)
    for _ in range(4):
        step_to_feet(power_form(curve), seen, state, 0, COUNT)
    expected = [nearest(curve, x, y, t) for x, y, t in zip(*seen, state[0], strict=True)]
    assert state[0] == pytest.approx(expected, abs=2e-6)


@given(st.floats(-25, 25), st.integers(0, 1000))
def test_the_plain_step_comes_as_near_in_a_few_more(height, seed):
    curve = bow(height, 0.0)
    seen, state = beside(curve, 0.8, seed)
    other = state.copy()
    for _ in range(5):
        step_to_feet(power_form(curve), seen, state, 0, COUNT)
    for _ in range(12):
        plain_step_to_feet(power_form(curve), seen, other, 0, COUNT)
    assert other[0] == pytest.approx(state[0], abs=1e-5)


def test_offsets_and_distances_are_those_at_the_feet_and_nothing_else_is_touched():
    curve = bow(18.0, 3.0)
    seen, state = beside(curve, 1.0, 3)
    for _ in range(6):
        step_to_feet(power_form(curve), seen, state, 4, 15)
    offsets(power_form(curve), seen, state, 4, 15)
    foot = bezier.evaluate(curve[None], state[0, 4:15])[0]
    way = foot - seen[:, 4:15].T
    assert (state[1, 4:15][:, None] * state[2:, 4:15].T) == pytest.approx(way, abs=1e-6)
    assert np.hypot(*state[2:, 4:15]) == pytest.approx(np.ones(11))
    assert np.isnan(state[1:, :4]).all() and np.isnan(state[1:, 15:]).all()
    square_distances(power_form(curve), seen, state, 4, 15)
    assert state[1, 4:15] == pytest.approx((way**2).sum(axis=1), abs=1e-9)


def test_a_curve_that_stands_still_has_its_chords_normal():
    curve = np.array([[0.0, 0.0], [0.0, 0.0], [10.0, 0.0], [10.0, 0.0]])
    seen, state = np.array([[-1.0, 0.0], [2.0, 3.0]]), np.zeros((4, 2))
    offsets(power_form(curve), seen, state, 0, 2)
    assert state[2:] == pytest.approx(np.array([[0.0, 0.0], [1.0, 1.0]]))


@given(st.floats(-25, 25), st.floats(-6, 6), st.floats(0, 1))
def test_the_power_form_is_the_same_curve(height, lean, t):
    x0, y0, x1, y1, x2, y2, x3, y3 = power_form(bow(height, lean))
    place = (x0 + t * (x1 + t * (x2 + t * x3)), y0 + t * (y1 + t * (y2 + t * y3)))
    assert place == pytest.approx(bezier.evaluate(bow(height, lean)[None], np.array([t]))[0, 0].tolist())
