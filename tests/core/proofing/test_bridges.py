"""Bridges: short, square to the rims, symmetric where the figure is, not across eyes; each in the report."""

import math

import numpy as np
import pytest

from samples import circle, drawing, hole, rectangle, ring
from zeichen.core.geometry import Drawing, Shape
from zeichen.core.geometry.polygons import drawing_area
from zeichen.core.proofing import Kind, Process, Yardstick, mend_all
from zeichen.core.proofing.bridges import bridge_bars

CUT = Yardstick.usual(Process.LASER_CUT, width_mm=100)
STENCIL = Yardstick.usual(Process.STENCIL, width_mm=100)


def bars(draw, place, *, islands=False, width=4.0):
    return bridge_bars(draw, place, width=width, islands=islands, tolerance=0.01)


def test_a_bar_between_two_straight_rims_is_square_to_both():
    two = drawing(rectangle(0, 0, 80, 100), rectangle(90, 20, 110, 60))
    (bar,) = bars(two, (140, 50))
    assert bar.length == pytest.approx(10) and bar.start[1] == pytest.approx(bar.end[1], abs=1e-6)


def test_a_bar_meets_a_disc_along_its_radius():
    """A disc over a sloping beam: what is square to both is the way from the disc's middle to the beam."""
    beam = Shape("b", (rectangle(0, 150, 200, 40),))
    disc = Shape("d", (circle(100, 80, 30),))
    (bar,) = bars(Drawing(200, 200, (beam, disc)), (100, 80))
    assert bar.start[0] == pytest.approx(100, abs=1.0) and bar.end == pytest.approx(
        (bar.start[0], 150), abs=0.01
    )


def test_twins_of_a_symmetric_figure_get_mirrored_bars():
    head = rectangle(60, 20, 80, 150)
    ears = circle(35, 60, 14), circle(165, 60, 14)
    face = drawing(head, *ears)
    (left,), (right,) = (bars(face, place) for place in ((35, 60), (165, 60)))
    mirrored = [(200 - x, y) for x, y in (right.start, right.end)]
    assert np.allclose(mirrored, [left.start, left.end], atol=0.02)


def test_an_island_on_the_axis_is_held_on_it_or_from_both_sides_alike():
    # A ring taller than wide hangs at its sides, where the ring is thin; a wide one from above and below.
    for rx, ry in ((60, 90), (90, 60)):
        outer = circle(100, 100, 1.0).moved(lambda p, rx=rx, ry=ry: (p - 100) * (rx, ry) + 100)
        opening = Shape("o", (outer, hole(circle(100, 100, 40))))
        first, second = bars(Drawing(200, 200, (opening,)), (100, 100), islands=True)
        middles = sorted((a + b) / 2 for a, b in zip(first.start, first.end, strict=True))
        assert middles[0] < middles[1]
        twin = [(200 - x, y) for x, y in (first.start, first.end)]
        same = [first.start, first.end]
        upside = [(x, 200 - y) for x, y in same]
        found = [second.start, second.end]
        assert np.allclose(found, twin, atol=1.5) or np.allclose(found, upside, atol=1.5)


def test_a_bar_does_not_run_across_an_eye():
    # A cap over a head whose eye lies just below the shortest way.
    head = Shape("h", (rectangle(40, 60, 120, 120), hole(circle(100, 67, 5))))
    cap = Shape("c", (rectangle(60, 30, 80, 24),))
    both = Drawing(200, 200, (head, cap))
    (bar,) = bars(both, (100, 40), width=6.0)
    assert bar.length == pytest.approx(6, abs=0.01) and abs((bar.start[0] + bar.end[0]) / 2 - 100) > 7


def test_every_bridge_is_in_the_report_with_its_place_and_size():
    two = drawing(rectangle(0, 0, 80, 100), rectangle(90, 0, 110, 100))
    mended = mend_all(two, CUT)
    (done,) = [each for each in mended.done if each.finding.kind is Kind.LOOSE_PIECE]
    (bridge,) = done.bridges
    # 200 px are 100 mm: a gap of 10 px, a bar a tenth wider than the thinnest part.
    assert (bridge.length_mm, bridge.width_mm) == (pytest.approx(5, abs=0.02), pytest.approx(1.65, abs=0.01))
    assert bridge.x_mm == pytest.approx(42.5, abs=0.05) and 0 < bridge.y_mm < 50
    added = drawing_area(mended.drawing, tolerance=0.01).difference(drawing_area(two, tolerance=0.01))
    assert math.dist((added.centroid.x / 2, added.centroid.y / 2), (bridge.x_mm, bridge.y_mm)) < 0.1


def test_an_island_reports_both_of_its_bridges():
    mended = mend_all(drawing(ring(100, 100, 90, 40)), STENCIL)
    assert [len(each.bridges) for each in mended.done if each.finding.kind is Kind.LOOSE_PIECE] == [2]
