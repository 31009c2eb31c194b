"""Edits of a spline: lines where curves draw nothing else, nodes put in, left out, moved."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import examples
from zeichen.core.fitting.curve_fit import fit_spline
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.fitting.node_insertion import drop_node, smooth_spikes, wrapped
from zeichen.core.fitting.spline import Spline
from zeichen.core.fitting.spline_geometry import same_way_round
from zeichen.core.geometry import bezier
from zeichen.core.geometry.nearest import nearest_on


def circle(radius: float, step: float = 0.8) -> np.ndarray:
    count = round(2 * math.pi * radius / step)
    t = np.arange(count) * 2 * math.pi / count
    return np.column_stack([radius * np.cos(t), radius * np.sin(t)]) + 150.0


def drawn(points: np.ndarray, nodes: int) -> Spline:
    """A closed spline of evenly spaced nodes on the points, their handles a third of the chord along the points."""
    n = len(points)
    spline = Spline(points, np.ones(n), closed=True, room=n)
    spline.count = nodes
    spline.first[:nodes] = np.arange(nodes) * n // nodes
    for k in range(nodes):
        i, j = spline.first[k], spline.first[(k + 1) % nodes]
        for end, at in enumerate((i, j)):
            way = points[(at + 1) % n] - points[(at - 1) % n]
            spline.angle[k, end] = math.atan2(way[1], way[0])
        spline.node[k] = points[i]
        spline.handle[k] = math.dist(points[i], points[j]) / 3
    return spline


def off(spline: Spline) -> float:
    rim = bezier.flatten(spline.curves(), tolerance=1e-3)
    return float(np.hypot(*nearest_on(spline.points, rim[:-1], rim[1:])[0].T).max())


@examples(10)
@given(st.floats(20, 90), st.integers(3, 5))
def test_a_chain_of_too_few_nodes_gets_more_and_fits(radius, nodes):
    spline = drawn(circle(radius), nodes)
    assert off(spline) > 0.3
    spline.polish(0.05)
    assert off(spline) < 0.12
    # Four quarters of a circle are 0.03 % of the radius off it: nobody needs twice as many.
    assert 3 <= spline.count <= 8 and not spline.line[: spline.count].any()


@examples(10)
@given(st.floats(20, 90), st.integers(12, 24))
def test_a_chain_of_too_many_nodes_loses_most_and_still_fits(radius, nodes):
    spline = drawn(circle(radius), nodes)
    spline.polish(0.1)
    assert spline.count <= 7 and off(spline) < 0.25


def test_curves_along_a_square_become_its_four_lines():
    corners = np.array([[0.0, 0.0], [60.0, 0.0], [60.0, 60.0], [0.0, 60.0]]) + 20.0
    share = np.linspace(0, 1, 75, endpoint=False)[:, None]
    points = np.concatenate(
        [a + (b - a) * share for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True)]
    )
    spline = drawn(points, 4)
    spline.corner[:4] = True
    for k in range(4):
        way = corners[(k + 1) % 4] - corners[k]
        spline.angle[k] = math.atan2(way[1], way[0])
    spline.polish(0.1)
    assert spline.count == 4 and spline.line[:4].all()
    assert spline.node[:4] == pytest.approx(corners, abs=0.02)


@given(st.integers(0, 5))
def test_a_node_is_left_out_and_the_rest_stays_in_order(k):
    spline = drawn(circle(40.0), 6)
    before = [array[:6].copy() for array in (spline.node, spline.first, spline.angle, spline.handle)]
    drop_node(spline.arrays(), k, 6)
    for array, old in zip((spline.node, spline.first, spline.angle, spline.handle), before, strict=True):
        assert (array[:5] == np.delete(old, k, axis=0)).all()


@given(st.floats(0.2, 0.9), st.integers(1, 4))
def test_a_node_put_into_a_curve_leaves_its_shape(t, k):
    spline = fit_spline(circle(50.0), FitSettings(tolerance_px=0.1))
    count, k = spline.count, k % spline.count
    before = spline.curves()
    spline.pin_node_at(k, t)
    assert spline.count == count + 1 and spline.pinned[k + 1] and not spline.corner[k + 1]
    place = bezier.evaluate(before[k : k + 1], np.array([t]))[0, 0]
    assert spline.node[k + 1] == pytest.approx(place, abs=1e-9)
    rim = bezier.flatten(before, tolerance=1e-4)
    now = bezier.flatten(spline.curves(), tolerance=1e-4)
    assert np.hypot(*nearest_on(now, rim[:-1], rim[1:])[0].T).max() < 1e-3
    # The new segment begins at the measured point nearest to it.
    near = np.linalg.norm(spline.points - place, axis=1)
    assert near[spline.first[k + 1] % len(spline.points)] == pytest.approx(near.min())


def test_a_spike_on_a_smooth_run_goes_and_a_true_corner_stays():
    spline = drawn(circle(40.0), 6)
    smooth = spline.angle[:6].copy()
    # A right angle where the points go straight on.
    spline.corner[2] = True
    spline.node[2] += (9.0, -4.0)
    spline.angle[2, 0] += math.radians(60)
    spline.angle[1, 1] -= math.radians(60)
    made = smooth_spikes(spline.arrays(spare=False), 1)
    assert made.tolist() == [2] and not spline.corner[2]
    assert spline.node[2] == pytest.approx(spline.points[spline.first[2]])
    assert np.abs([wrapped(a) for a in (spline.angle[:6] - smooth).ravel()]).max() < 0.03
    side = np.column_stack([np.arange(0, 50, 0.8), np.zeros(63)])
    corner = np.vstack([side, side[-1] + np.array((0.0, 0.8)) + side[:, ::-1], [[0.0, 50.4]]])
    sharp = drawn(corner, 3)
    sharp.corner[1], sharp.first[1] = True, 62
    sharp.node[1] = corner[62]
    sharp.angle[0], sharp.angle[1] = (0.0, 0.0), (math.pi / 2, math.pi / 2)
    assert not len(smooth_spikes(sharp.arrays(spare=False), 1))
    assert sharp.corner[1]


@given(st.floats(5, 80), st.booleans(), st.booleans())
def test_runs_are_told_to_go_the_same_way_round(radius, backwards, mirrored):
    loop = circle(radius)
    run = bezier.circle_segments((150.0, 150.0), radius=radius)
    if mirrored:
        loop = loop[::-1].copy()
    if backwards:
        run = bezier.reverse(run)
    same = bezier.signed_area(run) * bezier.signed_area(bezier.line_segments(np.vstack([loop, loop[:1]]))) > 0
    assert same_way_round(np.ascontiguousarray(run), loop) == same == (backwards == mirrored)


@given(st.floats(-50, 50))
def test_angles_are_brought_between_half_turns(angle):
    found = wrapped(angle)
    assert -math.pi <= found <= math.pi
    assert math.remainder(found - angle, 2 * math.pi) == pytest.approx(0.0, abs=1e-9)
