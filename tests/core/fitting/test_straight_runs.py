"""Straight runs along boundaries: their ends, what is no run, and figures made of lines and arcs."""

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from samples import exact, examples, spun
from zeichen.core.fitting.curve_fit import fit_open
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.fitting.local_polynomial import polyline_of
from zeichen.core.fitting.straight_runs import relevant_points, with_straight_ends
from zeichen.core.geometry import bezier
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace

CLOSEST_PX, OFF_PX = 3.0, 0.042


def bent_line(before: float, radius: float, turn: float, after: float) -> np.ndarray:
    """A line, an arc that touches it and a line that touches the arc, a point every 0.7 px."""
    arc = radius * turn
    s = np.arange(0.0, before + arc + after, 0.7)
    t = np.clip((s - before) / radius, 0.0, turn)
    x, y = radius * np.sin(t), radius * (1.0 - np.cos(t))
    x += np.minimum(s - before, 0.0) + np.maximum(s - before - arc, 0.0) * math.cos(turn)
    y += np.maximum(s - before - arc, 0.0) * math.sin(turn)
    return np.column_stack([x, y])


def ends_of(points: np.ndarray, every: int = 20) -> tuple[list[int], np.ndarray]:
    """The candidates found along an open run whose first ones are evenly spaced, and the lines that go with them."""
    nodes = np.unique([*range(0, len(points) - 1, every), len(points) - 1])
    out, pieces, lines = with_straight_ends(
        polyline_of(points, True), np.ones(len(points)), nodes, len(nodes) - 1, CLOSEST_PX, OFF_PX
    )
    return out[: pieces + 1].tolist(), lines[: pieces + 1]


@examples(27)
@given(st.floats(30, 120), st.floats(8, 40), st.floats(0.5, 2.5), st.floats(30, 120))
def test_where_a_line_meets_an_arc_there_is_a_candidate_on_the_line_and_in_its_direction(
    before, radius, turn, after
):
    points = bent_line(before, radius, turn, after)
    # The arc leaves the line by what points may be off after the root of twice that times the radius.
    slack = math.sqrt(8.0 * OFF_PX * radius) + 2.0
    assume(radius * turn > 2.0 * slack)
    found, lines = ends_of(points)
    for place, way in ((before, 0.0), (before + radius * turn, turn)):
        near = [k for k, i in enumerate(found) if abs(0.7 * i - place) < slack and not np.isnan(lines[k, 0])]
        assert len(near) == 1
        # The same before the place and after it: it is no angle.
        assert lines[near[0], 2:] == pytest.approx([math.cos(way), math.sin(way)] * 2, abs=0.01)
    assert found == sorted(set(found)) and found[0] == 0 and found[-1] == len(points) - 1


@given(st.floats(60, 3000))
def test_an_arc_has_no_straight_runs_however_gentle_it_is(radius):
    t = np.linspace(0.0, min(2.8, 600 / radius), 900)
    found, lines = ends_of(radius * np.column_stack([np.cos(t), np.sin(t)]))
    assert np.isnan(lines).all() and len(found) > 20


def test_where_a_curve_changes_its_side_there_hardly_ever_is_a_straight_run():
    x = np.linspace(-400.0, 400.0, 1100)
    runs = [
        not np.isnan(ends_of(np.column_stack([x, x**3 / (6.0 * reach**2)]))[1]).all()
        for reach in np.linspace(60, 900, 43)
    ]
    assert sum(runs) <= 4


def test_noise_within_what_points_may_be_off_does_not_end_a_run():
    points = bent_line(80, 15, 1.2, 80)
    points += np.random.default_rng(3).uniform(-0.5, 0.5, points.shape) * OFF_PX
    _, lines = ends_of(points)
    assert np.count_nonzero(~np.isnan(lines[:, 0])) == 2


def test_what_a_corner_s_blur_took_the_say_from_is_not_heard():
    weight = np.array([0.0, 0.02, 1.0, 1.0, 0.02, 1.0, 0.0])
    assert relevant_points(weight, 0, 6) == (2, 5)
    first, last = relevant_points(np.zeros(5), 1, 3)
    assert first >= last


def rounded_rectangle(radius: float, wide: float = 80.0, high: float = 60.0) -> np.ndarray:
    quarter = np.linspace(0, math.pi / 2, 200)
    corner = np.column_stack([np.cos(quarter), np.sin(quarter)]) * radius
    middles = [(wide, high), (-wide, high), (-wide, -high), (wide, -high)]
    spins = [np.linalg.matrix_power(np.array([[0, -1], [1, 0]]), k) for k in range(4)]
    return np.vstack(
        [
            corner @ spin.T + np.sign(middle) * (np.abs(middle) - radius)
            for spin, middle in zip(spins, middles, strict=True)
        ]
    )


@examples(11)
@given(st.floats(14, 40), st.floats(0, math.pi / 2))
def test_a_rounded_rectangle_is_four_lines_and_four_arcs_however_it_lies(radius, turn):
    ring = spun(rounded_rectangle(radius), turn, (128.3, 127.8))
    (path,) = trace(exact(ring, 256), TraceSettings()).drawing.paths
    straight = bezier.is_straight(path.segments, tolerance=1e-4)
    assert len(straight) == 8 and straight.sum() == 4
    # By turns, and the lines are as long as drawn.
    assert (straight != np.roll(straight, 1)).all()
    sizes = np.hypot(*(path.segments[straight, 3] - path.segments[straight, 0]).T)
    wanted = np.array([160.0, 120.0]) - 2.0 * radius
    assert np.sort(sizes) == pytest.approx(np.sort([*wanted, *wanted]), abs=0.6)


@examples(18)
@given(st.floats(6, 20), st.floats(40, 90), st.floats(40, 90), st.floats(0, 2 * math.pi))
def test_lines_that_meet_in_a_slight_angle_make_a_corner_where_they_meet(turn_deg, before, after, way):
    """Less than what counts as a corner anywhere else."""
    turn = math.radians(turn_deg)
    come, go = (np.array([math.cos(a), math.sin(a)]) for a in (way, way + turn))
    first = -come * np.arange(before, 0.4, -0.8)[:, None]
    points = np.vstack([first, go * np.arange(0.1, after, 0.8)[:, None]]) + 200.0
    spline = fit_open(points, FitSettings())
    assert spline.segments == 2 and spline.line[:2].all() and spline.corner[1]
    assert np.hypot(*(spline.node[1] - 200.0)) < 0.1


@pytest.mark.parametrize("sides", [20, 24, 30])
def test_a_polygon_of_many_sides_has_its_corners_and_a_circle_has_none(sides):
    turn = np.arange(sides) * 2 * math.pi / sides + 0.1
    corners = np.column_stack([np.cos(turn), np.sin(turn)]) * 240.0 + 256.0
    (path,) = trace(exact(corners, 512), TraceSettings()).drawing.paths
    assert len(path.segments) == sides
    gaps = np.hypot(*(path.segments[:, None, 0] - corners[None]).transpose(2, 0, 1)).min(axis=1)
    assert gaps.max() < 0.4
    round_about = np.linspace(0, 2 * math.pi, 2000, endpoint=False)
    disc = np.column_stack([np.cos(round_about), np.sin(round_about)]) * 240.0 + 256.0
    (circle,) = trace(exact(disc, 512), TraceSettings()).drawing.paths
    assert len(circle.segments) == 4 and not bezier.is_straight(circle.segments, tolerance=1e-3).any()
