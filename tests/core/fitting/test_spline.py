"""A spline between its fits: how it turns, where its windows lie, spikes made smooth."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.fitting.curve_fit import fit_open, fit_spline
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.fitting.node_insertion import drop_node
from zeichen.core.fitting.refinement import WINDOW, sweep_starts
from zeichen.core.fitting.spline_geometry import node_off
from zeichen.core.geometry import bezier
from zeichen.core.geometry.nearest import nearest_on
from zeichen.core.tracing.outlines.non_crossing_fit import following_points, outliers


def furthest(spline) -> float:
    """How far the furthest of a spline's points is from its curves."""
    rim = bezier.flatten(spline.curves(), tolerance=1e-3)
    return float(np.hypot(*nearest_on(spline.points, rim[:-1], rim[1:])[0].T).max())


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
    spline = fit_spline(even(polygon(sides)), FitSettings())
    turns = np.degrees(spline.turns())
    assert spline.count == sides and turns == pytest.approx(np.full(sides, 360 / sides), abs=1.5)


def test_an_open_chain_does_not_turn_at_its_ends():
    corner = np.vstack([np.linspace((0, 0), (30, 0), 40), np.linspace((30, 0), (30, 30), 40)[1:]])
    spline = fit_open(corner, FitSettings())
    turns = np.degrees(spline.turns())
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
    spline = fit_spline(points, FitSettings())
    k = 1
    spline.corner[k] = spline.pinned[k] = True
    spline.weight[:] = np.where(np.linalg.norm(points - spline.node[k], axis=1) < 6, 0.02, 1.0)
    spline.angle[k - 1, 1] += 1.3
    spline.angle[k, 0] -= 1.3
    assert spline.smooth_spikes(1.0) == 1
    assert not spline.corner[k] and not spline.pinned[k]
    assert spline.weight[np.linalg.norm(points - spline.node[k], axis=1) < 3].min() == 1.0
    assert spline.turns()[k] < 0.05 and furthest(spline) < 0.2


def test_a_corner_that_the_points_show_is_no_spike():
    spline = fit_spline(even(polygon(4)), FitSettings())
    before = spline.curves()
    assert spline.smooth_spikes(1.0) == 0
    assert (spline.curves() == before).all()


def test_segments_that_went_astray_are_named_and_start_over_on_their_points():
    points = even(polygon(5, turn=0.0))
    settings = FitSettings()
    spline = fit_spline(points, settings)
    assert outliers(spline, settings) == []
    spline.line[2] = False
    spline.handle[2] = 60.0
    spline.angle[2, 0] += 1.5
    assert outliers(spline, settings) == [2]
    spline.start_over([2], settings.allowed_px)
    assert outliers(spline, settings) == [] and furthest(spline) < 1.0


def test_only_what_is_near_moves_when_a_part_is_refined():
    points = even(polygon(16, radius=80.0))
    spline = fit_spline(points, FitSettings())
    assert spline.count == 16
    before = spline.node[:16].copy()
    spline.node[8] += 0.4
    spline.refine(near=[8])
    moved = np.linalg.norm(spline.node[:16] - before, axis=1)
    assert moved[8] < 0.3
    assert (moved[:3] == 0.0).all() and (moved[13:] == 0.0).all()


def test_a_dropped_node_leaves_its_points_to_the_segment_before():
    spline = fit_spline(even(polygon(6)), FitSettings())
    first = spline.first[:6].copy()
    drop_node(spline.arrays(), 3, spline.count)
    spline.count -= 1
    assert spline.count == 5 and spline.first[:5].tolist() == np.delete(first, 3).tolist()


def wavy(count=700):
    """Points along an outline that swings in and out five times."""
    t = np.linspace(0, 2 * math.pi, count, endpoint=False)
    radius = 80 + 14 * np.sin(5 * t)
    return np.column_stack([120 + radius * np.cos(t), 120 + radius * np.sin(t)])


@given(st.lists(st.tuples(st.integers(0, 30), st.floats(0.2, 0.8)), min_size=1, max_size=4))
def test_pinned_nodes_keep_the_shape_and_stay_when_a_chain_is_thinned(places):
    spline = fit_spline(wavy(), FitSettings())
    before = spline.curves()
    count = spline.segments
    pinned = []
    for k, t in places:
        at = k % spline.segments
        pinned.append(bezier.evaluate(spline.curves()[at : at + 1], np.array([t])).reshape(2))
        spline.pin_node_at(at, t)
    assert spline.segments == count + len(places)
    # Halves of a curve are the curve.
    old, new = (bezier.flatten(curves, tolerance=1e-3) for curves in (before, spline.curves()))
    off, _ = nearest_on(new, old[:-1], old[1:])
    assert np.hypot(*off.T).max() < 5e-3
    spline.thin(0.2)
    assert spline.segments <= count + len(places)
    left = spline.node[: spline.count]
    for place in pinned:
        assert np.hypot(*(left - place).T).min() < 1e-9
    rim = bezier.flatten(spline.curves(), tolerance=1e-3)
    off, _ = nearest_on(spline.points, rim[:-1], rim[1:])
    assert np.hypot(*off.T).max() < 0.25


@given(st.floats(25, 75), st.floats(60, 400), st.floats(0, 2 * math.pi), st.sampled_from([0.2, 0.54]))
def test_corners_stay_near_their_points_however_wide_the_tolerance(inner_deg, radius, way, tolerance):
    """A line and an arc that meet in a slender tip: no end of it runs off."""
    inner = math.radians(inner_deg)
    along = np.arange(70.0, 0.0, -0.8)
    line = np.column_stack([along, np.zeros_like(along)])
    s = np.arange(0.8, 70.0, 0.8)
    arc = np.column_stack([radius * np.sin(s / radius), radius * (1 - np.cos(s / radius))])
    turn = np.array([[math.cos(inner), math.sin(inner)], [-math.sin(inner), math.cos(inner)]])
    spin = np.array([[math.cos(way), math.sin(way)], [-math.sin(way), math.cos(way)]])
    spline = fit_open(
        np.vstack([line, [[0.0, 0.0]], arc @ turn]) @ spin + 150.0, FitSettings(tolerance_px=tolerance)
    )
    for (x, y), at in zip(spline.node[: spline.count - 1], spline.first, strict=False):
        assert node_off(spline.points, x, y, at, spline.closed) < 2.0
    assert np.hypot(*(spline.node[: spline.count] - 150.0).T).min() < 0.8


@pytest.mark.parametrize("far", [(400.0, -90.0), (-300.0, 12.0)])
def test_a_node_that_both_its_segments_left_behind_is_put_onto_the_points(far):
    """Four sides of a square, one of whose nodes ran off: what follows the points goes round the square."""
    corners = np.array([[0.0, 0.0], [40.0, 0.0], [40.0, 40.0], [0.0, 40.0]])
    loop = even(corners)
    nodes = corners.copy()
    nodes[2] = far
    curve = bezier.line_segments(np.vstack([nodes, nodes[:1]]))
    followed = following_points(curve, np.vstack([loop, loop]), {1, 2}, turns=len(loop))
    assert (followed[1:, 0] == followed[:-1, 3]).all() and (followed[0, 0] == followed[-1, 3]).all()
    assert followed.min() > -0.5 and followed.max() < 40.5
    off, _ = nearest_on(loop, followed[:, 0], followed[:, 3])
    assert np.hypot(*off.T).max() < 0.3
    # One segment alone keeps its ends: they are its neighbours', too.
    kept = following_points(curve, np.vstack([loop, loop]), {1}, turns=len(loop))
    assert (np.abs(kept - nodes[2]).sum(axis=2) == 0).any()


def test_a_curve_all_lost_at_one_place_becomes_the_points():
    loop = even(np.array([[0.0, 0.0], [10.0, 0.0], [10.0, 10.0], [0.0, 10.0]]))
    curve = bezier.line_segments(np.array([[-90.0, -90.0], [-91.0, -90.0], [-90.0, -90.0]]))
    followed = following_points(curve, np.vstack([loop, loop]), {0, 1}, turns=len(loop))
    assert (followed[:, 0] == loop).all() and (followed[-1, 3] == loop[0]).all()


@pytest.mark.parametrize("corner", [0, 1, 3])
@pytest.mark.parametrize("radius", [3.0, 6.0])
def test_any_corner_can_be_rounded_off_also_the_one_the_points_begin_at(corner, radius):
    """The arc before the first point was left to the last segment, which then was far from its own points."""
    spline = fit_spline(even(polygon(4)), FitSettings())
    tips = spline.node[:4].copy()
    spline.round_off(corner, radius)
    m = spline.count
    assert m == 5
    # An arc that touches both sides of a right angle begins and ends a radius from the tip.
    arc = np.nonzero(~spline.line[:m])[0]
    assert len(arc) == 1
    ends = spline.node[[arc[0], (arc[0] + 1) % m]]
    away = np.hypot(*(ends[:, None] - tips).transpose(2, 0, 1)).min(axis=1)
    assert away == pytest.approx(np.full(2, radius), abs=0.05)
    # Every segment's points are those beside it, the rounded tip's apart.
    assert 0 <= spline.first[0] < len(spline.points)
    assert (np.diff(spline.first[:m]) > 0).all() and spline.first[m - 1] < spline.first[0] + len(
        spline.points
    )
    for k in range(m):
        begins = spline.points[spline.first[k] % len(spline.points)]
        assert math.dist(begins, spline.node[k]) < 1.0
    assert len(spline.weight) == len(spline.points) == len(spline.at)


def test_a_corner_with_too_short_sides_for_its_arc_stays():
    spline = fit_spline(even(polygon(5)), FitSettings())
    side = float(np.linalg.norm(spline.node[1] - spline.node[0]))
    before = spline.curves().copy()
    assert not spline.round_off(2, 0.95 * side / math.tan(math.radians(36)))
    assert spline.count == 5 and (spline.curves() == before).all()
    assert spline.round_off(2, 0.3 * side) and spline.count == 6


@pytest.mark.parametrize("near", [None, [8]])
def test_what_is_nearly_straight_becomes_lines_all_over_or_near_some_nodes(near):
    spline = fit_spline(even(polygon(16, radius=80.0)), FitSettings())
    spline.line[8] = spline.line[1] = False
    spline.straighten(0.2, near=near)
    assert spline.line[: spline.count].all() and furthest(spline) < 0.1


@given(st.integers(3, 40), st.lists(st.integers(0, 39), min_size=1, max_size=12))
def test_windows_near_some_nodes_have_each_of_them_inside(sides, nodes):
    spline = fit_spline(even(polygon(sides, radius=20.0 + 4.0 * sides)), FitSettings())
    asked = sorted({k % spline.count for k in nodes})
    starts = spline._windows_around(asked)
    if spline.count <= WINDOW:
        assert starts.tolist() == [0]
        return
    # A window moves its inner nodes.
    inside = {int(start + i) % spline.count for start in starts for i in range(1, WINDOW)}
    assert set(asked) <= inside and len(starts) <= len(asked)
    assert len(spline._windows_around(None)) == 0
