"""The stand-in laser reads programs with its own parser and says what they do."""

import math

import numpy as np
import pytest
from hypothesis import given, settings

from samples import drawing, ring, star_drawings
from zeichen.core.errors import FormatError, InvalidInputError
from zeichen.core.making.laser import CutLine, LaserSettings, laser_gcode, make_laser, plan_laser
from zeichen.standins.laser import LaserMachine, rehearse

SQUARE = "G21 G90\nM3 S500\n(MSG, cut)\nG1 X10 Y0 F600\nX10 Y10\nX0 Y10\nX0 Y0\nM5\nM2\n"


def burned(text: str) -> float:
    return rehearse(text).burned_mm


def test_a_square_is_forty_mm():
    run = rehearse(SQUARE)
    assert run.burned_mm == pytest.approx(40) and run.bounds_mm == (0, 0, 10, 10)
    assert run.travel_mm == 0


@pytest.mark.parametrize(
    ("text", "length_mm"),
    [
        pytest.param("G20 G90\nM3 S500\nG1 X1 F60\n", 25.4, id="inches"),
        pytest.param("G21 G91\nM3 S500\nG1 X5 F600\nX5\n", 10, id="incremental"),
        pytest.param("G21 G90\nM3 S500\nG3 X0 Y20 I0 J10 F600\n", math.pi * 10, id="half circle"),
        pytest.param("G21 G90\nM3 S500\nG2 X0 Y0 I10 J0 F600\n", math.pi * 20, id="full circle"),
        pytest.param("n10 g21g90\nm3s500\ng1x5.f600(go)\n", 5, id="lower case, close together"),
        pytest.param("G21 G90 ; set up\nM3 S500\nG1 X7 F600 ; burn\nM2\nG1 X99\n", 7, id="comments and end"),
    ],
)
def test_words_of_rs274_are_understood(text, length_mm):
    """NISTIR 6556: units, distance modes, arcs by centre, comments, program end."""
    assert burned(text) == pytest.approx(length_mm, rel=1e-3)


def test_what_it_cannot_run_is_refused_with_the_line():
    with pytest.raises(FormatError, match="Line 2 has the word Q"):
        rehearse("G0 X1\nQ5")


def test_a_program_that_burns_nothing_is_refused():
    with pytest.raises(InvalidInputError, match="burns nothing"):
        rehearse("G21 G90\nG0 X5 Y5\nM2\n")


def test_time_is_a_trapezoid():
    """100 mm from rest to rest at 100 mm/s with 1000 mm/s²: 10 mm up, 80 mm at speed, 10 mm down = 1.1 s (derived)."""
    machine = LaserMachine(acceleration_mm_s2=1000)
    run = rehearse("G21 G90\nM3 S500\nG1 X100 F6000\n", machine)
    assert run.seconds == pytest.approx(1.1)


def test_a_short_move_never_reaches_its_speed():
    """2 mm at 1000 mm/s²: 2 sqrt(s / a) (derived)."""
    machine = LaserMachine(acceleration_mm_s2=1000)
    assert rehearse("G21 G90\nM3 S500\nG1 X2 F60000\n", machine).seconds == pytest.approx(
        2 * math.sqrt(2 / 1000)
    )


def test_going_straight_on_costs_nothing_and_turning_back_does():
    one = rehearse("G21 G90\nM3 S500\nG1 X100 F6000\n").seconds
    two = rehearse("G21 G90\nM3 S500\nG1 X50 F6000\nX100\n").seconds
    back = rehearse("G21 G90\nM3 S500\nG1 X50 F6000\nX0\n").seconds
    assert two == pytest.approx(one) and back > one


@settings(max_examples=10)
@given(star_drawings())
def test_what_was_planned_is_what_is_burned(draw):
    """Two parsers of one program, the writer's own numbers and the machine's, agree."""
    settings_ = LaserSettings(spacing_mm=0.5)
    plan = plan_laser(draw, settings_, width_mm=40)
    run = rehearse(laser_gcode(plan, settings_, title="t"))
    planned = sum(b - a for _, spans in plan.scan_lines for a, b in spans)
    planned += sum(np.linalg.norm(np.diff(contour, axis=0), axis=1).sum() for contour in plan.cuts)
    assert run.burned_mm == pytest.approx(planned, rel=1e-3)
    corners = np.vstack(plan.cuts)
    assert run.bounds_mm == pytest.approx((*corners.min(axis=0), *corners.max(axis=0)), abs=2e-3)
    assert run.engraves_first and run.inner_first


def test_the_burned_picture_is_the_figure():
    product = make_laser(
        drawing(ring(100, 100, 80, 40)), LaserSettings(cut=CutLine.NONE), width_mm=40, title="t"
    )
    run = rehearse(product.files[1].data.decode())
    scale = run.picture.shape[1] / (run.picture_bounds_mm[2] - run.picture_bounds_mm[0])
    dark = (run.picture < 200).sum() / scale**2
    assert dark == pytest.approx(math.pi * (20**2 - 10**2), rel=0.03)
    assert run.picture[run.picture.shape[0] // 2, run.picture.shape[1] // 2] == 255


def test_a_wrong_order_is_seen():
    outer = "(MSG, cut)\nG0 X0 Y0\nG1 X30 Y0 F600 S500\nX30 Y30\nX0 Y30\nX0 Y0\n"
    inner = "(MSG, cut)\nG0 X10 Y10 S0\nG1 X20 Y10 F600 S500\nX20 Y20\nX10 Y20\nX10 Y10\n"
    engrave = "(MSG, engrave)\nG0 X5 Y5 S0\nG1 X8 F600 S300\n"
    start = "G21 G90\nM3 S0\n"
    assert rehearse(start + engrave + inner + outer).inner_first
    assert not rehearse(start + outer + inner).inner_first
    assert rehearse(start + engrave + outer).engraves_first
    assert not rehearse(start + outer + engrave).engraves_first


def test_leaving_the_bed_is_a_warning():
    assert "leaves the 420 x 270 mm bed" in rehearse("G21 G90\nM3 S500\nG1 X500 F600\n").warnings[0]
