"""Steps of the refinement: kept sane, taken back whole; points that change segments with the nodes."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.fitting.refinement_step import (
    _MOST_CORNER_STEP_PX,
    _MOST_STEP_PX,
    _shorten_handles,
    apply_step,
    bring_back,
    keep,
    move_split,
    tie_lines,
)
from zeichen.core.fitting.refinement_unknowns import number_unknowns
from zeichen.core.fitting.spline_arrays import SplineArrays, Window

NODES = 6


class Ring:
    """A closed spline of six nodes on a circle of 50 px, its arrays as compiled functions take them."""

    def __init__(self, lines: tuple[int, ...] = (), corners: tuple[int, ...] = ()) -> None:
        turn = np.arange(NODES) * 2 * math.pi / NODES
        self.node = 50.0 * np.column_stack([np.cos(turn), np.sin(turn)])
        self.line, self.corner, self.pinned = np.zeros((3, NODES), np.bool_)
        self.line[list(lines)] = True
        self.corner[list(corners)] = True
        after = np.roll(turn, -1)
        self.angle = np.column_stack([turn, after]) + math.pi / 2
        self.handle = np.full((NODES, 2), 17.0)
        tie_lines(self.spline(), 0, NODES)

    def spline(self) -> SplineArrays:
        """The spline as compiled functions take it; it has no points of its own."""
        none, first = np.zeros(0), np.zeros(NODES, np.int64)
        flags = self.line, self.corner, self.pinned
        return SplineArrays(
            np.zeros((0, 2)), none, none, self.node, first, *flags, self.angle, self.handle, closed=True
        )

    def window(self) -> Window:
        return Window(self.spline(), 0, NODES, NODES, False, np.empty((4, 2)))

    def stepped(self, step: np.ndarray) -> None:
        at, direction, reach = np.empty(NODES + 1, int), np.empty((NODES, 2), int), np.empty(NODES, int)
        size = number_unknowns(self.window(), at, direction, reach)
        apply_step(np.resize(step, size), self.window(), at, direction, reach)


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
    keep(kept, ring.window())
    before = [array.copy() for array in (ring.node, ring.angle, ring.handle)]
    ring.stepped(step)
    bring_back(kept, ring.window())
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


def along_a_row(weight: np.ndarray, node: np.ndarray, first: np.ndarray) -> SplineArrays:
    """An open spline of three nodes along 60 points on the x axis."""
    row = np.column_stack([np.arange(60.0), np.zeros(60)])
    no = np.zeros((3, 3), np.bool_)
    return SplineArrays(
        row, weight, np.full(60, 0.5), node, first, *no, np.zeros((3, 2)), np.zeros((3, 2)), False
    )


@given(st.floats(-12, 12))
def test_points_change_to_the_segment_they_lie_beside(move):
    """Three nodes along a straight row; the middle one moves, and its segment begins at the next point along."""
    node = np.array([[0.0, 0.0], [30.3 + move, 0.0], [59.0, 0.0]])
    first = np.array([0, 30, 60])
    move_split(along_a_row(np.ones(60), node, first), 1)
    assert first.tolist() == [0, math.ceil(30.3 + move), 60]


def test_points_without_say_stay_with_their_segment():
    node = np.array([[0.0, 0.0], [40.5, 0.0], [59.0, 0.0]])
    first = np.array([0, 30, 60])
    weight = np.ones(60)
    weight[34:] = 0.02
    move_split(along_a_row(weight, node, first), 1)
    assert first.tolist() == [0, 34, 60]
