"""The language of machines, by what NISTIR 6556 asks of it (from memory)."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zeichen.core.errors import FormatError
from zeichen.standins.machines.rs274 import Beam, Kind, read_program


def test_words_may_stand_in_any_order_and_in_either_case_with_spaces_anywhere():
    tidy = read_program("G1 X10 Y-2.5 F600")
    for line in (
        "F600Y-2.5X10G1",
        "g 1 x 1 0 f6 0 0 y - 2 . 5",
        "N40 G01 X+10. Y-2.50 F600 (go)",
        "/G1 X10 Y-2.5 F600",
    ):
        other = read_program(line)
        assert other.end.tolist() == tidy.end.tolist() == [[10.0, -2.5, 0.0]]
        assert other.feed_mm_s.tolist() == [10.0]


def test_what_was_said_lasts_until_its_group_says_otherwise():
    program = read_program("G21 G90 M3 S500\nG1 X10 F60\nY10\nG0 X0\nM5\nG1 Y0\nG91 X1\nX1")
    assert program.kind.tolist() == [Kind.LINE, Kind.LINE, Kind.RAPID, Kind.LINE, Kind.LINE, Kind.LINE]
    assert program.end[:, :2].tolist() == [[10, 0], [10, 10], [0, 10], [0, 0], [1, 0], [2, 0]]
    assert program.beam.tolist() == [Beam.CONSTANT] * 3 + [Beam.OFF] * 3
    assert program.burns.tolist() == [True, True, False, False, False, False]
    assert program.line.tolist() == [2, 3, 4, 6, 7, 8]


def test_an_inch_is_25_4_mm_also_of_the_feed():
    program = read_program("G20\nG1 X1 F60\nG21\nX1")
    assert program.end[:, 0].tolist() == [25.4, 1.0]
    assert program.feed_mm_s.tolist() == pytest.approx([25.4, 25.4])


def test_inverse_time_is_how_many_such_moves_fit_into_a_minute():
    program = read_program("G93 G1 X30 F2\nG2 X30 Y0 I5 J0 F1")
    assert program.feed_mm_s[0] == pytest.approx(1.0)
    assert program.feed_mm_s[1] == pytest.approx(2 * math.pi * 5 / 60)


def test_messages_name_operations_and_other_comments_do_not():
    program = read_program(
        "(made for a slate)\n(MSG, engrave areas)\nG1 X1 F60\n(msg,cut)\nX2 ; done\n(MSG, engrave areas)\nX3"
    )
    assert program.names == ("engrave areas", "cut")
    assert program.operation.tolist() == [0, 1, 0]


def test_dwells_tools_air_and_the_end():
    program = read_program("T2 M6\nM7\nG4 P1.5\nG1 X1 F60\nM9\nX2\nM2\nX3")
    assert program.kind.tolist() == [Kind.DWELL, Kind.LINE, Kind.LINE]
    assert program.seconds.tolist() == [1.5, 0.0, 0.0]
    assert program.tool.tolist() == [2, 2, 2] and program.air.tolist() == [True, True, False]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("G1 G2 X1 F60", "two G words of one group"),
        ("M3 M5", "two M words of one group"),
        ("G1 X1 X2 F60", "X twice"),
        ("G1 X1", "without a feed"),
        ("X1 Y1", "none of G0 to G3"),
        ("G0", "not where to"),
        ("G17 G18", "G18"),
        ("G41", "G41"),
        ("M98", "M98"),
        ("G1 X[1+2] F60", "cannot be read"),
        ("G1 X1.2.3 F60", "cannot be read"),
        ("Q5", "the word Q"),
        ("G1 X1 F-3", "negative F"),
        ("G4", "how many seconds"),
        ("G93 G1 X1 F2\nX2", "Line 2 works without a feed"),
        ("G2 X2 F60", "without centre"),
        ("G2 X2 I1 R1 F60", "both a radius and a centre"),
        ("G2 X2 Y0.1 I1 F60", "not on its circle"),
        ("G2 X10 R1 F60", "less than half the way"),
        ("G2 X0 R1 F60", "ends where it starts"),
        ("G2 I1 F60", "not where to"),
        ("G2 X2 I1 F60\nI1", "Line 2 gives an arc no end"),
        ("G2 Z2 I1 F60", "without X or Y"),
        ("M3 M8 M48 M6 M0", "more than 4 M words"),
        ("G1 X" + "1" * 300, "longer than 256"),
    ],
)
def test_what_the_language_does_not_allow_is_said_with_its_line(text, words):
    with pytest.raises(FormatError, match=r"^Line \d+ ") as caught:
        read_program(text)
    assert words in str(caught.value)


@given(st.floats(0, 2 * math.pi), st.floats(0.05, 2 * math.pi - 0.05), st.floats(1, 200), st.booleans())
def test_an_arc_by_radius_is_the_one_by_centre(begin, turn, radius, clockwise):
    """The radius is negative for the longer of the two."""
    stop = begin - turn if clockwise else begin + turn
    centre = np.array([30.0, -20.0])
    start = centre + radius * np.array([math.cos(begin), math.sin(begin)])
    end = centre + radius * np.array([math.cos(stop), math.sin(stop)])
    go = f"G0 X{start[0]:.9f} Y{start[1]:.9f}\nG{2 if clockwise else 3} X{end[0]:.9f} Y{end[1]:.9f} F600 "
    signed = -radius if turn > math.pi else radius
    by_radius = read_program(go + f"R{signed:.9f}").centre[1]
    by_centre = read_program(go + f"I{centre[0] - start[0]:.9f} J{centre[1] - start[1]:.9f}").centre[1]
    assert by_centre == pytest.approx(centre, abs=1e-6)
    # Near half a turn the chord hardly tells where the centre is.
    assert by_radius == pytest.approx(centre, abs=1e-6 + 3e-4 * (abs(turn - math.pi) < 0.05) * radius)
