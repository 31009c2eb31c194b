"""Laser work: engraved lines fill the figure, kerf is taken up, engraving comes before cutting."""

import dataclasses
import math
import re

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import Polygon

from samples import circle, drawing, examples, rectangle, ring, star_drawings
from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry import Shape
from zeichen.core.making.laser import CutLine, LaserSettings, laser_gcode, make_laser, plan_laser, scan

ENGRAVE = LaserSettings(cut=CutLine.NONE)
TAG = LaserSettings()


@examples(10)
@given(star_drawings(), st.floats(0.05, 0.4))
def test_engraved_lines_times_spacing_are_the_area(draw, spacing_mm):
    plan = plan_laser(draw, dataclasses.replace(ENGRAVE, spacing_mm=spacing_mm), width_mm=50)
    burned = sum(b - a for _, spans in plan.scan_lines for a, b in spans)
    _, y0, _, y1 = plan.figure.bounds
    pitch = (y1 - y0) / round((y1 - y0) / spacing_mm)
    assert burned * pitch == pytest.approx(plan.figure.area, rel=0.01)


def test_scan_lines_lie_inside_the_figure():
    plan = plan_laser(drawing(ring(100, 100, 80, 30)), ENGRAVE, width_mm=60)
    grown = plan.figure.buffer(1e-6)
    for y, spans in plan.scan_lines[::7]:
        for a, b in spans:
            assert grown.contains(shapely.LineString([(a, y), (b, y)]))


def test_a_rectangle_of_ten_mm_takes_a_hundred_lines_at_a_tenth():
    lines = scan(shapely.MultiPolygon([shapely.box(0, 0, 30, 10)]), spacing_mm=0.1)
    assert len(lines) == 100
    assert lines[0][0] == pytest.approx(0.05) and lines[-1][0] == pytest.approx(9.95)


def test_kerf_makes_outer_contours_larger_and_holes_smaller():
    """Outer contours grow by kerf / 2, holes shrink by kerf / 2 (derived)."""
    settings_ = LaserSettings(cut=CutLine.SHAPES, kerf_mm=0.4)
    inner, outer = plan_laser(drawing(ring(100, 100, 80, 40)), settings_, width_mm=80).cuts
    assert Polygon(outer).area == pytest.approx(math.pi * 40.2**2, rel=2e-3)
    assert Polygon(inner).area == pytest.approx(math.pi * 19.8**2, rel=2e-3)


def test_inner_cuts_come_before_outer_ones():
    nested = drawing(ring(100, 100, 90, 60), circle(100, 100, 30), rectangle(0, 0, 4, 4))
    cuts = plan_laser(nested, LaserSettings(cut=CutLine.SHAPES), width_mm=90).cuts
    for number, contour in enumerate(cuts):
        assert not any(Polygon(contour).contains(Polygon(later)) for later in cuts[number + 1 :])


def test_all_passes_of_a_contour_come_before_the_next_contour():
    settings_ = LaserSettings(cut=CutLine.SHAPES, engrave=False, cut_passes=3)
    plan = plan_laser(drawing(ring(100, 100, 80, 40)), settings_, width_mm=60)
    comments = re.findall(r"\(pass (\d) of 3\)", laser_gcode(plan, settings_, title="t"))
    assert comments == ["1", "2", "3", "1", "2", "3"]


def test_a_tag_keeps_its_border_and_its_hole_stays_on_the_page():
    settings_ = LaserSettings(margin_mm=5, kerf_mm=0, hole_mm=4)
    plan = plan_laser(drawing(circle(100, 100, 80)), settings_, width_mm=60)
    hole, tag = (Polygon(contour) for contour in plan.cuts)
    assert hole.area == pytest.approx(math.pi * 4, rel=0.01)
    assert tag.contains(hole) and tag.contains(plan.figure)
    assert tag.exterior.distance(plan.figure) == pytest.approx(5, abs=0.01)
    x0, y0, x1, y1 = tag.bounds
    assert (x0, y0) == (pytest.approx(0, abs=1e-6), pytest.approx(0, abs=1e-6))
    assert (x1, y1) == (pytest.approx(plan.page.width), pytest.approx(plan.page.height))


def test_a_tag_around_loose_pieces_is_one_piece():
    plan = plan_laser(drawing(circle(30, 100, 20), circle(170, 100, 20)), TAG, width_mm=80)
    assert len(plan.cuts) == 1


def test_work_is_centred_on_its_blank():
    plan = plan_laser(drawing(rectangle(0, 0, 100, 50)), ENGRAVE, width_mm=40, blank_mm=(100, 60))
    assert plan.figure.bounds == pytest.approx((30, 20, 70, 40), abs=1e-6)
    assert (plan.page.width, plan.page.height) == (100, 60)


@pytest.mark.parametrize("settings_", [ENGRAVE, TAG])
def test_work_larger_than_the_blank_is_refused_with_sizes(settings_):
    with pytest.raises(InvalidInputError, match=r"does not fit the 50 x 60 mm blank"):
        plan_laser(drawing(rectangle(0, 0, 100, 50)), settings_, width_mm=55, blank_mm=(50, 60))


@examples(10)
@given(star_drawings())
def test_the_program_is_plain_rs274(draw):
    """Words of NISTIR 6556: mm, absolute, inverse of nothing; the beam is off whenever the head travels."""
    plan = plan_laser(draw, TAG, width_mm=40)
    program = laser_gcode(plan, TAG, title="Snail (no. 1)")
    blocks = program.splitlines()
    assert "G21 G90 G17 G94" in blocks and blocks[-1] == "M2" and "M5" in blocks
    power = 0.0
    for block in blocks:
        if block.startswith("("):
            assert block.count("(") == 1 and block.count(")") == 1
            continue
        assert re.fullmatch(r"([GMFSXY]-?\d+(\.\d+)?)( [GMFSXY]-?\d+(\.\d+)?)*", block), block
        found = re.search(r"S([\d.]+)", block)
        power = float(found[1]) if found else power
        assert 0 <= power <= 1000
        if "G0" in block.split():
            assert power == 0
    assert program.index("(MSG, engrave)") < program.index("(MSG, cut)")


def test_run_out_is_speed_squared_over_twice_the_acceleration():
    """v^2 / (2 a) (derived): 300 mm/s at 3000 mm/s² takes 15 mm."""
    assert LaserSettings(engrave_speed_mm_s=300, acceleration_mm_s2=3000).run_out_mm == pytest.approx(15)


def test_readings_follow_the_formulas():
    product = make_laser(
        drawing(rectangle(0, 0, 100, 50)),
        LaserSettings(cut=CutLine.SHAPES, kerf_mm=0),
        width_mm=100,
        title="t",
    )
    readings = {reading.label: reading.value for reading in product.readings}
    assert readings["Line density"] == pytest.approx(254)  # 25.4 / 0.1 mm (derived)
    assert readings["Cut length"] == pytest.approx(300)
    assert readings["Engraved length"] == pytest.approx(500 * 0.1, rel=1e-6)


def test_the_svg_names_its_operations_and_keeps_curves():
    product = make_laser(drawing(circle(100, 100, 80)), TAG, width_mm=60, title="Ring & dot")
    svg = product.files[0].data.decode()
    assert (
        '<g id="engrave">' in svg and '<g id="cut">' in svg and svg.index("engrave") < svg.index('id="cut"')
    )
    assert re.search(r'width="[\d.]+mm"', svg) and "Ring &amp; dot" in svg
    engraved = svg[svg.index('id="engrave"') : svg.index('id="cut"')]
    assert engraved.count("C") == 4


def test_light_shapes_are_taken_out_of_the_engraving():
    wiped = drawing(
        Shape("d", (rectangle(0, 0, 100, 100),)), Shape("w", (rectangle(20, 20, 60, 60),), "#ffffff")
    )
    plan = plan_laser(wiped, ENGRAVE, width_mm=100)
    assert plan.figure.area == pytest.approx(6400)
    svg = make_laser(wiped, ENGRAVE, width_mm=100, title="t").files[0].data.decode()
    assert "#ffffff" not in svg


@pytest.mark.parametrize(
    ("changes", "message"),
    [
        ({"kerf_mm": -0.1}, "Kerf must be at least 0 mm and at most 2 mm; got -0.1 mm"),
        ({"spacing_mm": 0}, "Line spacing must be"),
        ({"engrave_power_percent": 120}, "Engraving power must be above 0 % and at most 100 %"),
        ({"cut_speed_mm_s": math.inf}, "Cutting speed must be"),
        ({"engrave": False, "cut": CutLine.NONE}, "nothing to do"),
    ],
)
def test_impossible_settings_are_refused(changes, message):
    with pytest.raises(InvalidInputError, match=re.escape(message)):
        dataclasses.replace(LaserSettings(), **changes)


def test_too_many_lines_are_refused():
    with pytest.raises(InvalidInputError, match="Use a wider spacing"):
        plan_laser(
            drawing(rectangle(0, 0, 10, 20)), dataclasses.replace(ENGRAVE, spacing_mm=0.02), width_mm=1000
        )


def test_numbers_of_the_program_are_at_true_size():
    plan = plan_laser(
        drawing(rectangle(0, 0, 100, 50)),
        LaserSettings(cut=CutLine.SHAPES, kerf_mm=0, engrave=False),
        width_mm=80,
    )
    x = [float(v) for v in re.findall(r"X(-?[\d.]+)", laser_gcode(plan, TAG, title="t"))]
    assert max(x) == pytest.approx(80, abs=1e-3) and min(x) == 0
    assert np.isclose(plan.page.width, 80)
