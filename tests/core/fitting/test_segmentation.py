"""Breaks between corners, beside all the choices there are."""

import math
from itertools import combinations, pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import examples
from zeichen.core.fitting.cubic_fit import room_for, sample_run
from zeichen.core.fitting.local_polynomial import central_estimate, polyline_of
from zeichen.core.fitting.segmentation import Section, _about_deg, _best_chain, _fit_between
from zeichen.core.fitting.spline import Spline
from zeichen.core.geometry import bezier
from zeichen.core.geometry.nearest import nearest_on

TOLERANCE = 0.2


def run(seed: int) -> np.ndarray:
    """Points about 0.8 px apart along two to four smooth curves or lines that go on in each other's direction."""
    rng = np.random.default_rng(seed)
    place, way = np.zeros(2), 0.0
    parts = []
    for _ in range(rng.integers(2, 5)):
        size, bend = rng.uniform(18, 40), rng.choice([0.0, rng.uniform(-0.05, 0.05)])
        s = np.arange(0.0, size, 0.8)
        turn = way + bend * s
        steps = 0.8 * np.column_stack([np.cos(turn), np.sin(turn)])
        parts.append(place + np.cumsum(steps, axis=0))
        place, way = parts[-1][-1], turn[-1]
    return np.concatenate(parts)


def candidates(points: np.ndarray, count: int) -> Section:
    """Evenly spaced places along a run and their estimates, as a section between two corners."""
    nodes = np.linspace(0, len(points) - 1, count).astype(np.int64)
    polyline = polyline_of(points, False)
    place, tangent = np.empty((2, count, 2))
    out = np.zeros(4)
    for k, i in enumerate(nodes):
        central_estimate(polyline, int(i), 6.0, out)
        place[k], tangent[k] = out[:2], out[2:]
    place[0], place[-1] = points[0], points[-1]
    weight = np.ones(len(points))
    return Section(polyline, weight, nodes, place, tangent, -tangent, count - 1, False, 1.0, TOLERANCE)


def price(found: Section, i: int, j: int) -> float:
    return _fit_between(found, i, j, np.empty((2, 12)), 3, room_for(12), math.inf)[0]


@examples(11)
@given(st.integers(0, 10_000), st.integers(4, 7))
def test_no_choice_of_breaks_is_cheaper(seed, count):
    points = run(seed)
    found = candidates(points, count)
    pieces = count - 1
    spline = Spline(points, np.ones(len(points)), closed=False, room=count + 2)
    filled = _best_chain(found, spline.arrays(), 0)
    chosen = [0, *(int(np.nonzero(found.nodes == at)[0][0]) for at in spline.first[1:filled]), pieces]
    prices = {(i, j): price(found, i, j) for i, j in combinations(range(count), 2)}

    def total(breaks) -> float:
        return sum(prices[a, b] for a, b in pairwise(breaks))

    inner = range(1, pieces)
    choices = [(0, *some, pieces) for size in range(pieces) for some in combinations(inner, size)]
    # Only neighbours may be joined by a bad fit.
    allowed = [c for c in choices if all(prices[a, b] <= 5.0 or b == a + 1 for a, b in pairwise(c))]
    assert total(chosen) == pytest.approx(min(map(total, allowed)))


@examples(11)
@given(st.integers(0, 10_000))
def test_curves_between_breaks_follow_their_points(seed):
    points = run(seed)
    count = max(6, len(points) // 12)
    found = candidates(points, count)
    spline = Spline(points, np.ones(len(points)), closed=False, room=count + 2)
    filled = _best_chain(found, spline.arrays(), 0)
    ends = np.vstack([spline.node[:filled], points[-1:]])
    angle, handle = spline.angle[:filled], spline.handle[:filled]
    ways = np.stack([np.cos(angle), np.sin(angle)], axis=-1) * handle[:, :, None]
    curves = np.stack([ends[:-1], ends[:-1] + ways[:, 0], ends[1:] - ways[:, 1], ends[1:]], axis=1)
    rim = bezier.flatten(curves, tolerance=1e-3)
    assert np.hypot(*nearest_on(points, rim[:-1], rim[1:])[0].T).max() < 2.0 * TOLERANCE


@given(st.floats(0, 180), st.floats(0.1, 50))
def test_angles_are_told_to_a_third_of_a_degree_and_exactly_if_large(turn, size):
    cross, dot = size * math.sin(math.radians(turn)), size * math.cos(math.radians(turn))
    assert _about_deg(cross, dot) == pytest.approx(turn, abs=0.3 if turn < 45 else 1e-6)


@given(st.integers(1, 90), st.integers(2, 40), st.integers(0, 200))
def test_an_even_sample_has_both_ends_and_goes_round_the_loop(have, room, start):
    points = np.column_stack([np.arange(100.0), np.zeros(100)])
    out = np.full((2, room), np.nan)
    first = start % 100
    count = sample_run(points, first, first + have - 1, out)
    assert count == min(have, room)
    seen = out[0, :count]
    assert seen[0] == first and (count == 1 or seen[-1] == (first + have - 1) % 100)
    gaps = np.diff(np.unwrap(seen, period=100))
    assert not len(gaps) or gaps.max() - gaps.min() <= 1
    assert sample_run(points, 5, 4, out) == 0
