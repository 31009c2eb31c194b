"""Tips of several outlines looked at in one go: each where its own ink is, whatever else is drawn."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import examples, inked, spun
from zeichen.core.fitting.curve_fit import fit_spline
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.tracing.corners import corner_refinement
from zeichen.core.tracing.corners.corner_refinement import refine_corners
from zeichen.core.tracing.edges.marching_squares import find_contours
from zeichen.core.tracing.edges.subpixel_edges import EdgePoints, settle

SIZE = 160
TOLERANCE_PX = 0.14


def wedge(turn: float, at: tuple[float, float], inner_deg: float = 40.0) -> np.ndarray:
    """A triangle whose first corner is slender, 45 px long."""
    half = math.radians(inner_deg) / 2
    far = 45.0 * np.array([[math.cos(half), math.sin(half)], [math.cos(half), -math.sin(half)]])
    return spun(np.vstack([[[0.0, 0.0]], far]), turn, at)


def drawn(*rings: np.ndarray) -> tuple[list, EdgePoints]:
    """Chains along what is seen of filled rings, and the measured edge."""
    grey = np.round(255 * (1 - inked(*rings, size=SIZE))).astype(np.uint8)
    edge = settle(grey, find_contours(grey, level=127), ink=0, paper=255, level=127.5)
    fit = FitSettings(tolerance_px=TOLERANCE_PX, blur_px=edge.blur_px, noise_px=edge.noise_px, aligned=True)
    return [fit_spline(edge.contours[k], fit) for k in range(len(edge.contours))], edge


def settled(splines: list, edge: EdgePoints) -> list[int]:
    return refine_corners(
        splines, edge.ink, pixel_px=edge.pixel_px, blur_px=edge.blur_px, tolerance_px=TOLERANCE_PX
    )


def nearest_node(splines, place: np.ndarray) -> float:
    return min(float(np.hypot(*(spline.node[: spline.count] - place).T).min()) for spline in splines)


@examples(12)
@given(st.floats(0, 6.2), st.floats(30, 75), st.floats(-0.5, 0.5), st.floats(-0.5, 0.5))
def test_a_slender_tip_is_put_where_it_is(turn, inner_deg, dx, dy):
    ring = wedge(turn, (80 + dx, 80 + dy), inner_deg)
    splines, edge = drawn(ring)
    changed = settled(splines, edge)
    assert changed == [0]
    for corner in ring:
        assert nearest_node(splines, corner) < 0.35


def test_several_outlines_have_their_tips_as_each_alone():
    """And however few are looked at in one go."""
    rings = [
        wedge(0.3, (20.0, 22.4)),
        wedge(2.2, (130.3, 30.0)),
        wedge(4.0, (120.0, 140.6)),
        wedge(5.4, (24.0, 138.0)),
    ]
    together, edge = drawn(*rings)
    settled(together, edge)
    for ring in rings:
        alone, own = drawn(ring)
        settled(alone, own)
        nodes = alone[0].node[: alone[0].count]
        assert max(nearest_node(together, node) for node in nodes) < 0.02


@pytest.mark.parametrize("at_once", [1, 2, 5])
def test_tips_are_the_same_however_few_are_looked_at_at_once(monkeypatch, at_once):
    rings = [wedge(0.3, (20.0, 22.4)), wedge(2.2, (130.3, 30.0)), wedge(4.0, (120.0, 140.6))]
    whole, edge = drawn(*rings)
    parts, _ = drawn(*rings)
    first = settled(whole, edge)
    monkeypatch.setattr(corner_refinement, "_TIPS_AT_ONCE", at_once)
    assert settled(parts, edge) == first
    for one, other in zip(whole, parts, strict=True):
        assert (one.node[: one.count] == other.node[: other.count]).all()


def test_round_outlines_have_no_tips_to_settle():
    t = np.arange(200) * 2 * math.pi / 200
    splines, edge = drawn(np.column_stack([80 + 40 * np.cos(t), 80 + 30 * np.sin(t)]))
    before = splines[0].node[: splines[0].count].copy()
    assert settled(splines, edge) == []
    assert (splines[0].node[: splines[0].count] == before).all()


@examples(12)
@given(st.floats(0, 1.5), st.floats(2.0, 4.5))
def test_a_small_round_end_is_not_made_a_tip(turn, radius):
    """A square of 60 px whose corners are rounded by a few pixels: no node lies where the sides would meet."""
    corners = 30.0 * np.array([[1.0, 1.0], [-1.0, 1.0], [-1.0, -1.0], [1.0, -1.0]])
    arcs = []
    for k, corner in enumerate(corners):
        centre = corner * (1 - radius / 30.0)
        angle = math.pi / 4 + k * math.pi / 2 + np.linspace(-math.pi / 4, math.pi / 4, 24)
        arcs.append(centre + radius * np.column_stack([np.cos(angle), np.sin(angle)]))
    splines, edge = drawn(spun(np.concatenate(arcs), turn, (80.2, 79.7)))
    settled(splines, edge)
    short = radius * (math.sqrt(2) - 1)
    for corner in spun(corners, turn, (80.2, 79.7)):
        assert nearest_node(splines, corner) > 0.7 * short
