"""Runs of curves cut, placed and closed where borders meet."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import examples
from zeichen.core.geometry import bezier
from zeichen.core.tracing.regions import boundary_chains
from zeichen.core.tracing.regions.planar_map import map_of

ARC = bezier.circle_segments((50.0, 50.0), radius=30.0)


@examples(18)
@given(st.floats(0.0, 3.9), st.floats(0.05, 3.9))
def test_a_piece_is_as_long_as_the_arc_it_spans(first, span):
    """Closed form: a quarter of a circle of radius 30 has length 15 pi, here cut by its parameter."""
    cut = bezier.piece(ARC, first, first + span)
    points = bezier.flatten(cut, tolerance=1e-4)
    assert np.allclose(np.hypot(*(points - 50.0).T), 30.0, atol=0.02)
    turn = np.unwrap(np.arctan2(*(points - 50.0)[:, ::-1].T))
    assert bezier.arc_lengths(cut).sum() == pytest.approx(30.0 * abs(turn[-1] - turn[0]), rel=1e-3)


def test_pieces_of_a_loop_put_together_are_the_loop():
    cuts = [0.3, 1.7, 2.0, 3.6, 4.3]
    whole = np.concatenate([bezier.piece(ARC, a, b) for a, b in pairwise(cuts)])
    assert abs(bezier.signed_area(whole)) == pytest.approx(abs(bezier.signed_area(ARC)), rel=1e-9)
    assert np.allclose(whole[0, 0], whole[-1, 3], atol=1e-9)


@examples(14)
@given(st.lists(st.floats(0.02, 3.98), min_size=1, max_size=5, unique=True))
def test_places_on_a_run_are_found_again(where):
    run = ARC[:3]
    true = np.sort(np.array(where)) * 3.0 / 4.0
    points = np.array(
        [bezier.evaluate(run[int(u) : int(u) + 1], np.array([u - int(u)])).reshape(2) for u in true]
    )
    lengths = np.array([bezier.arc_lengths(bezier.piece(run, 0.0, u)).sum() for u in true])
    found = boundary_chains.nearest_places(run, points, lengths, closed=False)
    for place, u in zip(points, found, strict=True):
        k = min(int(u), 2)
        there = bezier.evaluate(run[k : k + 1], np.array([u - k])).reshape(2)
        assert np.linalg.norm(there - place) < 0.03


def test_a_run_that_comes_by_twice_is_met_where_it_is_expected():
    """A hairpin: both legs pass the place; how far along decides."""
    hairpin = bezier.line_segments(np.array([[0.0, 0.0], [100.0, 0.0], [100.0, 1.0], [0.0, 1.0]]))
    place = np.array([[50.0, 0.5]])
    early = boundary_chains.nearest_places(hairpin, place, np.array([50.0]), closed=False)
    late = boundary_chains.nearest_places(hairpin, place, np.array([151.0]), closed=False)
    assert (int(early[0]), int(late[0])) == (0, 2)


def test_an_end_moved_a_little_bends_only_the_last_pixels():
    line = bezier.line_segments(np.array([[0.0, 0.0], [60.0, 0.0]]))
    moved = boundary_chains.with_end_at(line, 1, np.array([60.0, 1.0]))
    assert np.array_equal(moved[-1, 3], [60.0, 1.0])
    points = bezier.flatten(moved, tolerance=1e-3)
    assert np.abs(points[points[:, 0] < 50.0, 1]).max() < 1e-9
    slight = boundary_chains.with_end_at(line, 0, np.array([0.0, 0.01]))
    assert len(slight) == 1 and bezier.is_straight(slight, tolerance=1e-6).all()


def test_two_opposite_borders_at_a_junction_are_one_course_and_the_third_ends_on_it():
    labels = np.zeros((20, 20), np.int32)
    labels[10:, :10] = 1
    labels[10:, 10:] = 2
    planar = map_of(labels)
    leaving = {}
    for arc in range(len(planar)):
        if planar.right[arc] < 0 or planar.left[arc] < 0:
            continue
        corners = planar.corners(arc).astype(float)
        for end, junction in ((0, planar.start[arc]), (1, planar.end[arc])):
            if tuple(planar.junctions[junction]) == (10, 10):
                direction = corners[1] - corners[0] if end == 0 else corners[-2] - corners[-1]
                unit = direction / np.linalg.norm(direction)
                leaving[arc, end] = boundary_chains.Leaving(np.array([10.0, 10.0]), unit)
    assert len(leaving) == 3
    courses = boundary_chains.courses_of(planar, leaving)
    assert sorted(arc for course in courses for arc, _ in course.arcs) == list(range(len(planar)))
    inner = [
        len(course.arcs)
        for course in courses
        if any((arc, e) in leaving for arc, _ in course.arcs for e in (0, 1))
    ]
    assert sorted(inner) == [1, 2]
