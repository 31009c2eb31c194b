"""Steps of the joint fit: kept sane, taken back whole; points that change segments with the nodes."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.fitting.joint_step import (
    _MOST_CORNER_STEP_PX,
    _MOST_STEP_PX,
    _shorten_handles,
    apply_step,
    bring_back,
    keep,
    move_split,
    tie_lines,
)
from zeichen.core.fitting.joint_unknowns import number_unknowns

NODES = 6


class Ring:
    """A closed chain of six nodes on a circle of 50 px, its arrays as compiled functions take them."""

    def __init__(self, lines: tuple[int, ...] = (), corners: tuple[int, ...] = ()) -> None:
        turn = np.arange(NODES) * 2 * math.pi / NODES
        self.node = 50.0 * np.column_stack([np.cos(turn), np.sin(turn)])
        self.line, self.corner, self.pinned = np.zeros((3, NODES), np.bool_)
        self.line[list(lines)] = True
        self.corner[list(corners)] = True
        after = np.roll(turn, -1)
        self.angle = np.column_stack([turn, after]) + math.pi / 2
        self.handle = np.full((NODES, 2), 17.0)
        tie_lines(0, NODES, True, self.node, self.line, self.corner, self.angle)

    def stepped(self, step: np.ndarray) -> None:
        at, direction, reach = np.empty(NODES + 1, int), np.empty((NODES, 2), int), np.empty(NODES, int)
        size = number_unknowns(
            0, NODES, NODES, NODES, True, self.line, self.corner, self.pinned, at, direction, reach
        )
        apply_step(
            np.resize(step, size), 0, NODES, NODES, True, self.node, self.line, self.corner,
            self.angle, self.handle, at, direction, reach, False,
        )  # fmt: skip


def steps(size: float):
    return st.lists(st.floats(-size, size), min_size=5, max_size=31).map(np.array)


@given(steps(40.0), st.sets(st.integers(0, 5)), st.sets(st.integers(0, 5)))
def test_no_step_moves_a_node_further_than_it_may(step, lines, corners):
    ring = Ring(tuple(lines), tuple(corners))
    before = ring.node.copy()
    ring.stepped(step)
    way = np.hypot(*(ring.node - before).T)
    assert way[~ring.corner].max(initial=0.0) <= _MOST_STEP_PX + 1e-9
    assert way[ring.corner].max(initial=0.0) <= _MOST_CORNER_STEP_PX + 1e-9
    curved = ~ring.line
    chord = np.hypot(*(np.roll(ring.node, -1, axis=0) - ring.node).T)
    assert (ring.handle[curved] > 0.0).all() and (
        ring.handle[curved] <= 1.6 * chord[curved, None] + 1.0 + 1e-9
    ).all()


@given(steps(40.0), st.sets(st.integers(0, 5)))
def test_handles_never_pass_each_other_along_the_chord(step, corners):
    ring = Ring((), tuple(corners))
    ring.stepped(step)
    for k in range(NODES):
        way = ring.node[(k + 1) % NODES] - ring.node[k]
        chord = float(np.hypot(*way))
        along = np.maximum(np.cos(ring.angle[k] - math.atan2(way[1], way[0])), 0.0)
        assert float(ring.handle[k] @ along) <= 0.96 * chord + 1e-6


@given(st.floats(5, 80), st.floats(0.1, 200), st.floats(0.1, 200), st.floats(-1.4, 1.4), st.floats(-1.4, 1.4))
def test_handles_that_would_loop_are_shortened_alike(chord, first, last, start, end):
    node = np.array([[0.0, 0.0], [chord, 0.0]])
    angle, handle = np.array([[start, end], [0.0, 0.0]]), np.array([[first, last], [1.0, 1.0]])
    _shorten_handles(0, node, angle, handle)
    assert handle[0] @ np.cos(angle[0]) <= 0.96 * chord + 1e-9
    assert handle[0, 0] / handle[0, 1] == pytest.approx(first / last)
    if first * math.cos(start) + last * math.cos(end) <= 0.96 * chord:
        assert handle[0].tolist() == [first, last]


@given(steps(3.0), st.sets(st.integers(0, 5), max_size=3), st.sets(st.integers(0, 5), max_size=3))
def test_a_step_is_taken_back_to_the_last_digit(step, lines, corners):
    ring = Ring(tuple(lines), tuple(corners))
    kept = np.empty((NODES + 1, 6))
    keep(kept, 0, NODES, NODES, ring.node, ring.angle, ring.handle)
    before = [array.copy() for array in (ring.node, ring.angle, ring.handle)]
    ring.stepped(step)
    bring_back(kept, 0, NODES, NODES, ring.node, ring.angle, ring.handle)
    for array, old in zip((ring.node, ring.angle, ring.handle), before, strict=True):
        assert (array == old).all()


@given(steps(3.0), st.integers(0, 5))
def test_what_joins_a_line_smoothly_goes_its_way(step, k):
    ring = Ring((k,))
    ring.stepped(step)
    way = ring.node[(k + 1) % NODES] - ring.node[k]
    along = math.atan2(way[1], way[0])
    for found in (*ring.angle[k], ring.angle[k - 1, 1], ring.angle[(k + 1) % NODES, 0]):
        assert math.remainder(found - along, 2 * math.pi) == pytest.approx(0.0, abs=1e-9)


@given(st.floats(-12, 12))
def test_points_change_to_the_segment_they_lie_beside(move):
    """Three nodes along a straight row; the middle one moves, and its segment begins at the next point along."""
    row = np.column_stack([np.arange(60.0), np.zeros(60)])
    node = np.array([[0.0, 0.0], [30.3 + move, 0.0], [59.0, 0.0]])
    first = np.array([0, 30, 60])
    angle = np.zeros((2, 2))
    weight, place = np.ones(60), np.full(60, 0.5)
    move_split(row, weight, place, 1, node, first, np.zeros(3, np.bool_), angle, False)
    assert first.tolist() == [0, math.ceil(30.3 + move), 60]


def test_points_without_say_stay_with_their_segment():
    row = np.column_stack([np.arange(60.0), np.zeros(60)])
    node = np.array([[0.0, 0.0], [40.5, 0.0], [59.0, 0.0]])
    first = np.array([0, 30, 60])
    weight = np.ones(60)
    weight[34:] = 0.02
    move_split(row, weight, np.full(60, 0.5), 1, node, first, np.zeros(3, np.bool_), np.zeros((2, 2)), False)
    assert first.tolist() == [0, 34, 60]
