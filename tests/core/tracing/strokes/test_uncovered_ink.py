"""Ink that strokes leave uncovered, against drawings whose strokes are known."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import examples, pen
from zeichen.core.tracing.strokes.pairing import PenLine
from zeichen.core.tracing.strokes.rims import resampled
from zeichen.core.tracing.strokes.uncovered_ink import dashes, with_uncovered

WIDTH = 12.0


def inked(strokes) -> np.ndarray:
    return np.ascontiguousarray(1.0 - pen(strokes, width=WIDTH).grey() / 255.0)


def line(points) -> PenLine:
    dense = resampled(np.array(points, float), closed=False)
    return PenLine(dense, np.full(len(dense), WIDTH / 2), False, [])


def test_lines_that_cover_all_ink_stay_as_they_are():
    drawn = [[(30.0, 50.0), (170.0, 50.0)], [(100.0, 50.0), (100.0, 160.0)]]
    ink, lines = inked(drawn), [line(way) for way in drawn]
    assert with_uncovered(ink, ink > 0.5, lines, WIDTH) == lines


@examples(12)
@given(st.floats(0.9, 1.4), st.sampled_from([-150, -120, 90, 125, 150]), st.booleans())
def test_an_end_that_turned_is_found_with_its_corner(reach, turn_deg, turned_round):
    corner = np.array([140.3, 110.6])
    turn = math.radians(turn_deg)
    end = corner + reach * WIDTH * np.array([math.cos(turn), math.sin(turn)])
    ink = inked([[(30.0, 110.6), tuple(corner), tuple(end)]])
    known = line([(30.0, 110.6), (138.0, 110.6)])
    if turned_round:
        known = PenLine(known.points[::-1], known.half, False, [])
    (found,) = with_uncovered(ink, ink > 0.5, [known], WIDTH)
    points = found.points[::-1] if turned_round else found.points
    assert math.dist(points[-1], end) < 0.7
    assert math.dist(found.corners[-1], corner) < 1.0


def test_a_line_beside_another_is_found():
    drawn = [[(30.0, 100.0), (170.0, 100.0)], [(80.0, 90.4), (125.0, 90.4)]]
    ink = inked(drawn)
    _, found = with_uncovered(ink, ink > 0.5, [line(drawn[0])], WIDTH)
    ends = sorted(found.points[[0, -1]].tolist())
    assert ends == pytest.approx(np.array(drawn[1]), abs=1.0)


def test_a_blot_is_explained_by_no_stroke():
    drawn = [[(30.0, 100.0), (170.0, 100.0)]]
    ink = inked(drawn)
    y, x = np.mgrid[0 : ink.shape[0], 0 : ink.shape[1]]
    ink[np.hypot(x - 100, y - 50) < 30] = 1.0
    lines = [line(drawn[0])]
    assert with_uncovered(ink, ink > 0.5, lines, WIDTH) == lines


@examples(10)
@given(st.floats(0.5, 2.0), st.floats(0, math.pi))
def test_a_dash_is_a_stroke_and_a_dot_is_none(share, angle):
    along = 0.5 * share * WIDTH * np.array([math.cos(angle), math.sin(angle)])
    middle = np.array([90.3, 120.7])
    true = np.array([middle - along, middle + along])
    ink = inked([true.tolist(), [(40.0, 40.0), (40.0, 40.0)]])
    (dash,), rest = dashes(ink, ink > 0.5, WIDTH)
    ends = dash.points[[0, -1]]
    assert min(np.abs(ends - true).max(), np.abs(ends[::-1] - true).max()) < 0.4
    assert rest[40, 40] and not rest[120, 90]
