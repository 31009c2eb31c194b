"""Widths measured against shapes whose narrowest place is known."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import MultiPolygon, Point, Polygon, box

from samples import examples
from zeichen.core.geometry.polygons import as_multipolygon
from zeichen.core.proofing import narrow_places


def multi(*polygons: Polygon) -> MultiPolygon:
    return as_multipolygon(shapely.union_all(list(polygons)))


def dumbbell(waist: float) -> MultiPolygon:
    """Two squares of 40 joined by a bridge 30 long."""
    return multi(box(0, 0, 40, 40), box(70, 0, 110, 40), box(39, 20 - waist / 2, 71, 20 + waist / 2))


@examples(14)
@given(st.floats(0.02, 3.9))
def test_a_bridge_is_measured_exactly(waist):
    found = narrow_places(dumbbell(waist), limit=4.0, inside=True)
    assert [place.width for place in found.places] == [pytest.approx(waist, rel=1e-3)]
    assert found.narrowest == pytest.approx(waist, rel=1e-3)
    (place,) = found.places
    assert 39 <= place.x <= 71 and abs(place.y - 20) <= waist
    assert place.length == pytest.approx(30, rel=0.25)


@examples(14)
@given(st.floats(0.02, 3.9), st.floats(0, 3.1))
def test_turning_and_moving_change_nothing(waist, turn):
    turned = shapely.affinity.translate(
        shapely.affinity.rotate(dumbbell(waist), turn, use_radians=True), 17, -5
    )
    found = narrow_places(as_multipolygon(turned), limit=4.0, inside=True)
    assert [place.width for place in found.places] == [pytest.approx(waist, rel=1e-3)]


@examples(14)
@given(st.floats(0.2, 20))
def test_widths_scale_with_the_drawing(factor):
    scaled = as_multipolygon(shapely.affinity.scale(dumbbell(2.0), factor, factor, origin=(0, 0)))
    found = narrow_places(scaled, limit=4.0 * factor, inside=True)
    assert [place.width for place in found.places] == [pytest.approx(2.0 * factor, rel=1e-3)]


def test_a_wide_enough_bridge_is_read_but_not_reported():
    found = narrow_places(dumbbell(5.0), limit=4.0, inside=True)
    assert found.places == () and found.narrowest == pytest.approx(5.0, rel=1e-3)


def test_a_figure_with_nothing_narrow_reads_as_infinitely_wide():
    found = narrow_places(multi(box(0, 0, 50, 50)), limit=2.0, inside=True)
    assert found.places == () and found.narrowest == math.inf


@examples(14)
@given(st.floats(0.02, 3.9))
def test_a_gap_between_two_pieces_is_measured(gap):
    pieces = multi(box(0, 0, 40, 60), box(40 + gap, 0, 80, 60))
    found = narrow_places(pieces, limit=4.0, inside=False)
    assert [place.width for place in found.places] == [pytest.approx(gap, rel=1e-3)]
    assert narrow_places(pieces, limit=4.0, inside=True).places == ()


def test_a_slit_into_a_piece_is_a_gap():
    slit = multi(box(0, 0, 60, 60).difference(box(29, 20, 31, 61)))
    (place,) = narrow_places(slit, limit=4.0, inside=False).places
    assert place.width == pytest.approx(2.0, rel=1e-3)


def test_the_wall_of_a_ring_is_thin_all_round():
    wall = multi(Point(0, 0).buffer(50, quad_segs=64).difference(Point(0, 0).buffer(48.5, quad_segs=64)))
    (place,) = narrow_places(wall, limit=2.0, inside=True).places
    assert place.width == pytest.approx(1.5, rel=0.02)
    assert place.length == pytest.approx(2 * math.pi * 49.25, rel=0.1)


@pytest.mark.parametrize("angle_deg", [20, 45, 60, 90, 120])
def test_an_ordinary_corner_is_not_a_thin_part(angle_deg):
    """A pointed tip is thin for a moment at its very end; a maker does not mend that."""
    half = math.radians(angle_deg / 2)
    tip = Polygon(
        [(0, 0), (60 * math.cos(half), 60 * math.sin(half)), (60 * math.cos(half), -60 * math.sin(half))]
    )
    assert narrow_places(multi(tip), limit=1.0, inside=True).places == ()


def test_a_long_needle_is_a_thin_part():
    needle = multi(box(0, 0, 30, 30), Polygon([(29, 14), (29, 16), (80, 15)]))
    assert len(narrow_places(needle, limit=1.5, inside=True).places) == 1


def test_a_tapering_prong_is_read_above_its_tip():
    """The tip is no thin part, but the prong must not read as if nothing were narrow at all."""
    prong = multi(box(0, 0, 40, 10), Polygon([(16, 9), (19, 9), (17.5, 40)]))
    found = narrow_places(prong, limit=0.7, inside=True)
    assert found.narrowest < 2.1
    assert narrow_places(prong, limit=2.0, inside=True).places


def test_round_ends_of_a_wide_stroke_are_not_thin():
    stroke = multi(shapely.LineString([(0, 0), (60, 0)]).buffer(5, quad_segs=32))
    assert narrow_places(stroke, limit=2.0, inside=True).places == ()


def test_nothing_has_no_narrow_places():
    assert narrow_places(MultiPolygon(), limit=1.0, inside=True).narrowest == math.inf


def test_leaving_out_lonely_walls_changes_nothing(monkeypatch):
    """Only walls that face another are triangulated; a triangulation of all samples finds the same."""
    from zeichen.core.proofing import narrow

    comb = multi(box(0, 0, 100, 20), *(box(x, 19, x + 1.2 + x / 100, 60) for x in range(0, 100, 9)))
    for inside in (True, False):
        pruned = narrow_places(comb, limit=2.0, inside=inside)
        with monkeypatch.context() as patch:
            patch.setattr(narrow, "_near_another", lambda walls, *_: np.ones(len(walls.points), bool))
            whole = narrow_places(comb, limit=2.0, inside=inside)
        assert [p.width for p in pruned.places] == pytest.approx([p.width for p in whole.places])
        assert pruned.narrowest == pytest.approx(whole.narrowest)


@pytest.mark.parametrize("height_mm", [0.4, 1.0, 1.7])
def test_a_rectangle_is_as_thick_as_its_short_side(height_mm):
    """Medial axis of a rectangle (textbook): its width along the middle is the short side."""
    found = narrow_places(multi(box(0, 0, 100, height_mm)), limit=2.0, inside=True)
    assert found.narrowest == pytest.approx(height_mm, abs=0.01)


@pytest.mark.parametrize(("outer", "inner"), [(20.0, 19.2), (30.0, 28.5), (9.0, 8.75)])
def test_a_ring_is_as_thick_as_its_radii_differ(outer, inner):
    """Medial axis of a ring (textbook): a circle, everywhere as far from both walls."""
    around, hole = Point(0, 0).buffer(outer, quad_segs=200), Point(0, 0).buffer(inner, quad_segs=200)
    found = narrow_places(as_multipolygon(around.difference(hole)), limit=2.0, inside=True)
    assert found.narrowest == pytest.approx(outer - inner, abs=0.01)


@pytest.mark.parametrize("cut", [0.5, 1.2, 1.9])
def test_a_triangle_that_goes_on_as_a_bar_is_as_thick_as_the_bar(cut):
    """Across an isosceles triangle the width grows evenly from the tip (medial axis of a wedge: its bisector)."""
    base, height = 12.0, 90.0
    at, left, right = height * (1 - cut / base), base / 2 - cut / 2, base / 2 + cut / 2
    neck = Polygon([(0, 0), (base, 0), (right, at), (right, at + 20), (left, at + 20), (left, at)])
    found = narrow_places(multi(neck), limit=2.0, inside=True)
    assert found.narrowest == pytest.approx(cut, abs=0.01)


@pytest.mark.parametrize("neck", [0.6, 1.0, 1.8])
def test_between_two_notches_of_a_star_it_is_as_thick_as_they_are_apart(neck):
    """Notches that face each other (medial axis: the middle between two reflex corners)."""
    half = neck / 2
    star = Polygon([(0, 0), (20, 0), (10 + half, 15), (20, 30), (0, 30), (10 - half, 15)])
    found = narrow_places(multi(star), limit=2.0, inside=True)
    assert found.narrowest == pytest.approx(neck, abs=0.01)
