"""A chain between its fits: how it turns, where its windows lie, spikes made smooth."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.tracing.curve_fit import fit_chain, fit_open
from zeichen.core.tracing.fit_settings import FitSettings
from zeichen.core.tracing.joint_fit import WINDOW, sweep_starts
from zeichen.core.tracing.sound_fit import astray


def even(corners, step=0.8):
    """Points at even steps along a closed polygon, the corners among them."""
    runs = []
    for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        count = max(2, round(float(np.linalg.norm(b - a)) / step))
        runs.append(a + (b - a) * np.linspace(0, 1, count, endpoint=False)[:, None])
    return np.concatenate(runs)


def polygon(sides, radius=40.0, turn=0.2):
    angle = np.arange(sides) * 2 * math.pi / sides + turn
    return np.column_stack([60 + radius * np.cos(angle), 60 + radius * np.sin(angle)])


@pytest.mark.parametrize("sides", [3, 4, 5, 6, 8])
def test_a_polygon_turns_by_its_outer_angles(sides):
    chain = fit_chain(even(polygon(sides)), FitSettings())
    turns = np.degrees(chain.turns())
    assert chain.count == sides and turns == pytest.approx(np.full(sides, 360 / sides), abs=1.5)


def test_an_open_chain_does_not_turn_at_its_ends():
    corner = np.vstack([np.linspace((0, 0), (30, 0), 40), np.linspace((30, 0), (30, 30), 40)[1:]])
    chain = fit_open(corner, FitSettings())
    turns = np.degrees(chain.turns())
    assert turns[0] == turns[-1] == 0.0
    assert turns[1:-1].max() == pytest.approx(90, abs=3)


@given(st.integers(1, 60), st.integers(1, 3), st.booleans())
def test_the_windows_of_a_sweep_reach_every_segment(segments, sweeps, closed):
    starts = sweep_starts(segments, sweeps, closed)
    if segments <= WINDOW:
        assert starts.tolist() == [0] * sweeps
        return
    seen: set[int] = set()
    for start in starts.tolist():
        reach = WINDOW if closed else min(WINDOW, segments - start)
        assert closed or start >= 0
        seen |= {(start + k) % segments for k in range(reach)}
    assert seen == set(range(segments))


def test_a_spike_at_a_gentle_bend_becomes_smooth_and_its_points_are_heard():
    t = np.linspace(0, 2 * math.pi, 260, endpoint=False)
    points = np.column_stack([60 + 40 * np.cos(t), 60 + 30 * np.sin(t)])
    chain = fit_chain(points, FitSettings())
    k = 1
    chain.corner[k] = chain.pinned[k] = True
    chain.weight[:] = np.where(np.linalg.norm(points - chain.node[k], axis=1) < 6, 0.02, 1.0)
    chain.angle[k - 1, 1] += 1.3
    chain.angle[k, 0] -= 1.3
    assert chain.smooth_spikes(1.0) == 1
    assert not chain.corner[k] and not chain.pinned[k]
    assert chain.weight[np.linalg.norm(points - chain.node[k], axis=1) < 3].min() == 1.0
    assert chain.turns()[k] < 0.05 and chain.strays().max() < 0.2


def test_a_corner_that_the_points_show_is_no_spike():
    chain = fit_chain(even(polygon(4)), FitSettings())
    before = chain.curves()
    assert chain.smooth_spikes(1.0) == 0
    assert (chain.curves() == before).all()


def test_segments_that_went_astray_are_named_and_start_over_on_their_points():
    points = even(polygon(5, turn=0.0))
    settings = FitSettings()
    chain = fit_chain(points, settings)
    assert astray(chain, settings) == []
    chain.line[2] = False
    chain.handle[2] = 60.0
    chain.angle[2, 0] += 1.5
    assert astray(chain, settings) == [2]
    chain.start_over([2], settings.allowed_px)
    assert astray(chain, settings) == [] and chain.strays().max() < 1.0


def test_only_what_is_near_moves_when_a_part_is_refined():
    points = even(polygon(16, radius=80.0))
    chain = fit_chain(points, FitSettings())
    assert chain.count == 16
    before = chain.node[:16].copy()
    chain.node[8] += 0.4
    chain.refine_near([8], rounds=6)
    moved = np.linalg.norm(chain.node[:16] - before, axis=1)
    assert moved[8] < 0.3
    assert (moved[:3] == 0.0).all() and (moved[13:] == 0.0).all()


def test_a_dropped_node_leaves_its_points_to_the_segment_before():
    chain = fit_chain(even(polygon(6)), FitSettings())
    first = chain.first[:6].copy()
    chain.drop_node(3)
    assert chain.count == 5 and chain.first[:5].tolist() == np.delete(first, 3).tolist()
