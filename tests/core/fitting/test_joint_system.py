"""The linear system of the refinement, against numpy and against differences."""

import numpy as np
import pytest

from zeichen.core.fitting.refinement_samples import lie, normal_equations, stride_of
from zeichen.core.fitting.refinement_unknowns import solve_positive
from zeichen.core.fitting.three_unknowns import solve_three
from zeichen.core.geometry import bezier
from zeichen.core.tracing.regions.boundary_chains import _nearest_on_segment

CURVE = np.array([[3.0, 4.0], [20.0, -6.0], [34.0, 30.0], [50.0, 12.0]])


def samples(count: int = 23) -> np.ndarray:
    """Rows of x, y and weight: points a little off the curve."""
    points = bezier.evaluate(CURVE[None], np.linspace(0.03, 0.97, count))[0]
    noise = np.random.default_rng(3).normal(0, 0.2, points.shape)
    return np.vstack([(points + noise).T, np.linspace(0.5, 1.5, count)])


def placed(curve: np.ndarray, seen: np.ndarray) -> tuple[np.ndarray, float]:
    state = np.empty((4, seen.shape[1]))
    before = np.linspace(0.03, 0.97, seen.shape[1])
    for _ in range(4):
        total = lie(curve, seen, 0, seen.shape[1], before, state)
        before = state[0].copy()
    return state, total


def test_samples_lie_on_their_feet():
    """The foot is where the way to the curve is square to it; the error is the sum of those ways squared."""
    seen = samples()
    state, total = placed(CURVE, seen)
    foot, slope = bezier.evaluate(CURVE[None], state[0])[0], bezier.derivative(CURVE[None], state[0])[0]
    way = foot - seen[:2].T
    assert np.abs((way * slope).sum(axis=1)).max() < 1e-6
    assert np.abs(state[1]) == pytest.approx(np.hypot(*way.T), abs=1e-9)
    assert total == pytest.approx((seen[2] * (way**2).sum(axis=1)).sum())


def test_the_normal_equations_are_those_of_the_offsets_differences():
    """J from central differences of each offset by each control coordinate, the feet held."""
    seen = samples()
    state, _ = placed(CURVE, seen)
    a, b = np.empty((8, 8)), np.empty(8)
    normal_equations(seen, state, (0, seen.shape[1]), False, a, b)
    normal = state[2:4].T
    jacobian = np.empty((seen.shape[1], 8))
    for k in range(8):
        step = np.zeros(8)
        step[k] = 1e-5
        ahead, back = (
            ((bezier.evaluate((CURVE + s * step.reshape(4, 2))[None], state[0])[0]) * normal).sum(axis=1)
            for s in (1, -1)
        )
        jacobian[:, k] = (ahead - back) / 2e-5
    whole = jacobian.T @ (seen[2][:, None] * jacobian)
    assert np.tril(a) == pytest.approx(np.tril(whole), abs=1e-6)
    assert b == pytest.approx(-jacobian.T @ (seen[2] * state[1]), abs=1e-6)


@pytest.mark.parametrize("size", [1, 5, 17, 33])
def test_a_band_is_solved_as_numpy_solves_it(size):
    rng = np.random.default_rng(size)
    whole = np.eye(size) * 0.1
    for first in range(0, size, 2):
        rows = rng.normal(size=(9, size))
        rows[:, :first] = rows[:, first + 6 :] = 0.0
        whole += rows.T @ rows
    low = np.array([int(np.nonzero(row)[0][0]) for row in whole])
    right = rng.normal(size=size)
    answer = right.copy()
    assert solve_positive(np.tril(whole), answer, low, size)
    assert answer == pytest.approx(np.linalg.solve(whole, right), rel=1e-6, abs=1e-9)


def test_a_system_that_is_not_positive_is_refused():
    assert not solve_positive(np.array([[1.0, 0.0], [2.0, 1.0]]), np.ones(2), np.zeros(2, np.int64), 2)


@pytest.mark.parametrize("points", [1, 5, 24, 100, 777])
def test_about_as_many_points_are_looked_at_as_wanted(points):
    seen = len(range(stride_of(points, 20) // 2, points, stride_of(points, 20)))
    assert min(points, 13) <= seen <= 31


@pytest.mark.parametrize("t", [0.0, 0.2, 0.55, 1.0])
def test_the_nearest_place_on_a_segment_is_found_and_nodes_are_met_exactly(t):
    place = bezier.evaluate(CURVE[None], np.array([t]))[0, 0]
    off, found = _nearest_on_segment(CURVE, float(place[0]), float(place[1]), min(0.95, max(0.05, t + 0.06)))
    assert off < 1e-3
    assert found == (t if t in (0.0, 1.0) else pytest.approx(t, abs=1e-3))


@pytest.mark.parametrize("seed", range(5))
def test_three_unknowns_are_what_numpy_finds(seed):
    rows = np.random.default_rng(seed).normal(size=(6, 3))
    a, b = rows.T @ rows, rows.T @ np.arange(6.0)
    *found, det = solve_three((a[0, 0], a[0, 1], a[0, 2], a[1, 1], a[1, 2], a[2, 2]), (b[0], b[1], b[2]))
    assert found == pytest.approx(np.linalg.solve(a, b).tolist(), rel=1e-9)
    assert det == pytest.approx(np.linalg.det(a), rel=1e-9)
