"""Crossings found through the grid, beside shapely's exact predicates."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LinearRing, LineString

from samples import examples
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.meeting import _goes_one_way, _stretches, crossing_pairs, meeting_segments


def line(*points, closed=False):
    run = np.array(points, dtype=float)
    return Path(bezier.line_segments(np.vstack([run, run[:1]]) if closed else run), closed=closed)


@examples(27)
@given(st.integers(0, 2**32 - 1), st.integers(3, 9), st.integers(1, 6))
def test_paths_meet_where_shapely_says_so(seed, corners, count):
    rng = np.random.default_rng(seed)
    paths = []
    for _ in range(count):
        angle = np.sort(rng.uniform(0, 2 * math.pi, corners))
        radius = rng.uniform(2, 12, corners)
        middle = rng.uniform(0, 60, 2)
        paths.append(
            line(*(middle + radius[:, None] * np.column_stack([np.cos(angle), np.sin(angle)])), closed=True)
        )
    rings = [LinearRing(path.segments[:, 0]) for path in paths]
    expected = {k for k, ring in enumerate(rings) if not ring.is_simple}
    for k, ring in enumerate(rings):
        if any(ring.crosses(other) for j, other in enumerate(rings) if j != k):
            expected.add(k)
    assert set(meeting_segments(paths, tolerance=0.01)) == expected


@examples(27)
@given(st.integers(0, 2**32 - 1), st.integers(2, 6), st.integers(1, 4), st.floats(0.2, 2.5))
def test_curves_meet_where_shapely_says_their_polylines_do(seed, nodes, count, loose):
    """Handles longer than half a segment make loops, tips and bends that turn back."""
    rng = np.random.default_rng(seed)
    paths = []
    for _ in range(count):
        node = rng.uniform(0, 40, 2) + rng.uniform(-15, 15, (nodes, 2))
        reach = loose * rng.uniform(-8, 8, (nodes, 2))
        after, reach_after = np.roll(node, -1, axis=0), np.roll(reach, -1, axis=0)
        paths.append(Path(np.stack([node, node + reach, after - reach_after, after], axis=1)))
    rings = [LinearRing(bezier.flatten(path.segments, tolerance=0.003)) for path in paths]
    expected = {k for k, ring in enumerate(rings) if not ring.is_simple}
    for k, ring in enumerate(rings):
        if any(ring.crosses(other) for j, other in enumerate(rings) if j != k):
            expected.add(k)
    assert set(meeting_segments(paths, tolerance=0.003)) == expected


@examples(18)
@given(st.integers(0, 2**32 - 1))
def test_crossing_places_are_where_shapely_puts_them(seed):
    rng = np.random.default_rng(seed)
    a, b = (np.cumsum(rng.normal(0, 4, (30, 2)), axis=0) for _ in range(2))
    pairs, shares = crossing_pairs(a, b)
    expected = LineString(a).intersection(LineString(b))
    places = a[pairs[:, 0]] + shares[:, :1] * (a[pairs[:, 0] + 1] - a[pairs[:, 0]])
    also = b[pairs[:, 1]] + shares[:, 1:] * (b[pairs[:, 1] + 1] - b[pairs[:, 1]])
    assert np.abs(places - also).max(initial=0.0) < 1e-9
    wanted = shapely.get_coordinates(expected)
    assert len(places) == len(wanted)
    if len(wanted):
        assert np.linalg.norm(places[:, None] - wanted[None], axis=2).min(axis=1).max() < 1e-9


def test_only_the_segments_that_meet_are_named():
    bow = line((0, 0), (10, 10), (10, 0), (0, 10), closed=True)
    assert meeting_segments([bow], tolerance=0.01) == {0: {0, 2}}


def test_open_paths_may_start_where_another_runs_but_not_cross_it():
    wall = line((0, 0), (10, 0))
    assert meeting_segments([wall, line((5, 0), (5, 5))], tolerance=0.01) == {}
    assert set(meeting_segments([wall, line((5, -5), (5, 5))], tolerance=0.01)) == {0, 1}


@pytest.mark.parametrize("gap", [1e-13, -1e-13])
def test_a_ring_open_by_its_last_digit_does_not_cross_itself(gap):
    segments = line((0, 0), (10, 0), (10, 10), (0, 10), closed=True).segments.copy()
    segments[-1, 3, 1] += gap
    assert meeting_segments([Path(segments)], tolerance=0.01) == {}


def test_a_run_back_over_its_own_line_is_a_meeting():
    assert 0 in meeting_segments([line((0, 0), (10, 0), (4, 0), (4, 5), closed=True)], tolerance=0.01)


@given(st.integers(0, 2**32 - 1), st.integers(2, 40), st.floats(0.0, 1.2))
def test_what_never_turns_back_meets_itself_nowhere(seed, count, loose):
    turns = np.random.default_rng(seed).uniform(-loose, loose, count)
    steps = np.column_stack([np.cos(np.cumsum(turns)), np.sin(np.cumsum(turns))])
    run = np.vstack([np.zeros((1, 2)), np.cumsum(steps, axis=0)])
    start, end = run[:-1].copy(), run[1:].copy()
    goes = _goes_one_way(start, end, 0, count)
    assert goes == bool((steps @ run[-1] > 0.0).all())
    assert not goes or LineString(run).is_simple


@given(st.lists(st.integers(1, 50), min_size=1, max_size=6), st.integers(0, 1000))
def test_stretches_hold_each_piece_once_and_only_those_of_one_segment(counts, seed):
    owner = np.repeat(np.arange(len(counts)), counts)
    run = np.cumsum(np.random.default_rng(seed).normal(0, 2, (len(owner) + 1, 2)), axis=0)
    start, end = run[:-1].copy(), run[1:].copy()
    first, low, high = _stretches(start, end, owner)
    assert first[0] == 0 and first[-1] == len(owner) and (np.diff(first) > 0).all()
    for k in range(len(low)):
        some = slice(first[k], first[k + 1])
        assert len(set(owner[some])) == 1 and first[k + 1] - first[k] <= 16
        both = np.vstack([start[some], end[some]])
        assert (low[k] == both.min(axis=0)).all() and (high[k] == both.max(axis=0)).all()
