"""Arcs between lines, against roundings of a known radius."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import examples, spun
from zeichen.core.fitting.curve_fit import fit_spline
from zeichen.core.fitting.fit_settings import FitSettings


def rounded(sides: int, radius: float, step: float = 0.8) -> np.ndarray:
    """Points along a regular polygon of 60 px from its middle to its sides' own corners, these rounded."""
    inner = math.pi - 2 * math.pi / sides
    tips = [60.0 * np.array([math.cos(a), math.sin(a)]) for a in np.arange(sides) * 2 * math.pi / sides]
    back, turn = radius / math.tan(inner / 2), math.pi - inner
    out = []
    for k in range(sides):
        before, tip = tips[k - 1], tips[k]
        come = (tip - before) / np.hypot(*(tip - before))
        start, end = before + back * come, tip - back * come
        count = max(2, round(math.dist(start, end) / step))
        out.append(start + (end - start) * np.linspace(0, 1, count, endpoint=False)[:, None])
        centre = end + radius * np.array([-come[1], come[0]])
        count = max(2, round(radius * turn / step))
        angle = math.atan2(*(end - centre)[::-1]) + turn * np.linspace(0, 1, count, endpoint=False)
        out.append(centre + radius * np.stack([np.cos(angle), np.sin(angle)], axis=1))
    return np.concatenate(out)


@examples(14)
@given(st.sampled_from([4, 5, 6]), st.floats(7.0, 14.0), st.floats(0, 1.5), st.booleans())
def test_a_rounded_corner_is_one_true_arc_that_touches_both_lines(sides, radius, turn, backwards):
    points = spun(rounded(sides, radius), turn, (100.0, 100.0))
    spline = fit_spline(points[::-1].copy() if backwards else points, FitSettings(tolerance_px=0.2))
    m = spline.count
    assert m == 2 * sides and np.count_nonzero(spline.line[:m]) == sides
    arcs = np.nonzero(~spline.line[:m])[0]
    bend = 2 * math.pi / sides
    # The usual cubic for an arc: both handles are 4/3 tan(turn / 4) radii.
    assert spline.handle[arcs] == pytest.approx(4 / 3 * math.tan(bend / 4) * radius, rel=0.03)
    assert spline.handle[arcs, 0] == pytest.approx(spline.handle[arcs, 1], abs=1e-9)
    for k in arcs:
        assert spline.angle[k, 0] == pytest.approx(spline.angle[(k - 1) % m, 1], abs=1e-9)
        assert spline.angle[k, 1] == pytest.approx(spline.angle[(k + 1) % m, 0], abs=1e-9)
    assert not spline.corner[:m].any()


@pytest.mark.parametrize(
    ("sides", "radius"), [(6, 9.0), (6, 20.0), (8, 9.0), (8, 20.0), (10, 12.0), (10, 20.0), (12, 20.0)]
)
def test_arcs_of_little_turn_are_found_though_far_smaller_ones_fit_their_like(sides, radius):
    """The search began at the tip's mean distance, from where it slid to a circle of a fifth of the radius."""
    spline = fit_spline(spun(rounded(sides, radius), 0.2, (100.0, 100.0)), FitSettings(tolerance_px=0.2))
    m = spline.count
    arcs = ~spline.line[:m]
    assert arcs.sum() == sides
    usual = 4 / 3 * math.tan(math.pi / 2 / sides) * radius
    assert spline.handle[:m][arcs] == pytest.approx(np.full((sides, 2), usual), rel=0.05)


def test_a_sharp_polygon_has_no_arcs():
    tips = 60.0 * np.array([[math.cos(a), math.sin(a)] for a in np.arange(5) * 2 * math.pi / 5])
    after = np.roll(tips, -1, axis=0)
    share = np.linspace(0, 1, 80, endpoint=False)[:, None]
    sides = [a + (b - a) * share for a, b in zip(tips, after, strict=True)]
    spline = fit_spline(np.concatenate(sides) + 100.0, FitSettings(tolerance_px=0.2))
    assert spline.count == 5 and spline.line[:5].all() and spline.corner[:5].all()
