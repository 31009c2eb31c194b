"""Lines measured and followed: rims, middles, knots and what goes on beyond them."""

import math

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zeichen.core.raster.ink import ink_at
from zeichen.core.tracing.strokes.follow import follow
from zeichen.core.tracing.strokes.knots import sound_runs
from zeichen.core.tracing.strokes.skeleton import half_widths, skeleton_of
from zeichen.core.tracing.strokes.stroke_middle import ink_across, rim_along

SIZE = 160
RIM_PX = 1 / 8


def inked(draw, *, fine: int = 8) -> np.ndarray:
    """Share of ink in each pixel of a picture drawn finely and averaged."""
    canvas = np.zeros((SIZE * fine, SIZE * fine), np.uint8)
    draw(canvas, fine)
    return cv2.resize(canvas, (SIZE, SIZE), interpolation=cv2.INTER_AREA).astype(np.float64) / 255


def line(canvas, fine, first, last, width):
    """A bar with round ends; its rim of fine pixels makes it an eighth of a pixel wider."""
    a, b = np.array(first, float), np.array(last, float)
    across = np.array([-(b - a)[1], (b - a)[0]]) / np.linalg.norm(b - a) * width / 2
    corners = np.array([a + across, b + across, b - across, a - across]) * fine - 0.5
    cv2.fillPoly(canvas, [np.round(corners * 16).astype(np.int32)], 255, shift=4)
    for end in (a, b):
        place = np.round((end * fine - 0.5) * 16).astype(int)
        cv2.circle(canvas, (int(place[0]), int(place[1])), round(width / 2 * fine * 16), 255, -1, shift=4)


@settings(max_examples=25)
@given(st.floats(0, 2 * math.pi), st.floats(6, 14), st.floats(-1, 1))
def test_rim_and_width_across_a_bar_are_its_own(angle, width, off):
    way = np.array([math.cos(angle), math.sin(angle)])
    middle = np.array([80.3, 79.6])
    ink = inked(lambda c, f: line(c, f, middle - 50 * way, middle + 50 * way, width))
    normal = np.array([-way[1], way[0]])
    place = middle + off * normal
    there = rim_along(ink, *place, *normal, 30.0)
    back = rim_along(ink, *place, *-normal, 30.0)
    assert there == pytest.approx(width / 2 + RIM_PX / 2 - off, abs=0.15)
    assert there + back == pytest.approx(width + RIM_PX, abs=0.2)
    assert ink_across(ink, *middle, *normal, 12.0) == pytest.approx(width + RIM_PX, abs=0.2)


def test_ink_that_does_not_end_has_no_rim():
    assert rim_along(np.ones((SIZE, SIZE)), 80.0, 80.0, 1.0, 0.0, 20.0) == -1.0


def test_ink_between_pixel_centres_is_interpolated():
    ink = np.zeros((10, 10))
    ink[4, 4] = 1.0
    assert ink_at(ink, 4.5, 4.5) == pytest.approx(1.0)
    assert ink_at(ink, 5.0, 4.5) == pytest.approx(0.5)
    assert ink_at(ink, 5.0, 5.0) == pytest.approx(0.25)


def crossing(canvas, fine):
    line(canvas, fine, (15, 80), (145, 80), 9)
    line(canvas, fine, (74, 20), (86, 140), 9)


def test_a_line_is_followed_straight_through_a_crossing():
    """Closed form: the axis is y = 80; over the shared ink only one rim, or none, is seen."""
    ink = inked(crossing)
    lead = np.stack([np.arange(30.0, 60.0), np.full(30, 80.0)], axis=1)
    track, seen = follow(ink, lead, 9.0, 60.0, 20.0)
    assert track[-1, 0] > 110
    assert np.abs(track[:, 1] - 80.0).max() < 0.5
    assert seen.sum() > 25 and not seen.all()


def test_following_stops_where_the_ink_does():
    ink = inked(lambda c, f: line(c, f, (15, 80), (100, 80), 9))
    lead = np.stack([np.arange(60.0, 90.0), np.full(30, 80.0)], axis=1)
    track, _ = follow(ink, lead, 9.0, 60.0, 20.0)
    assert 100 <= track[-1, 0] <= 104.5


def test_a_bent_line_is_followed_round_its_bend():
    """Closed form: a ring of radius 45; what is followed stays on it."""

    def ring(canvas, fine):
        cv2.circle(canvas, (80 * fine, 80 * fine), round((45 + 4.5) * fine), 255, -1)
        cv2.circle(canvas, (80 * fine, 80 * fine), round((45 - 4.5) * fine), 0, -1)

    turn = np.arange(0, 0.7, 1 / 45)
    lead = 80 + 45 * np.stack([np.cos(turn), np.sin(turn)], axis=1)
    track, _ = follow(inked(ring), lead, 9.0, 50.0, 10.0)
    assert len(track) >= 49
    assert np.abs(np.hypot(*(track - 80).T) - 45).max() < 0.3


def test_a_crossing_is_four_sound_runs_that_meet_in_one_knot():
    ink = inked(crossing)
    skeleton = skeleton_of(ink > 0.5, half_widths(ink > 0.5))
    runs, knots = sound_runs(ink, skeleton)
    ends = [knot for run in runs for knot in (run.start, run.end)]
    assert len(runs) == 4 and len(knots) == 1
    assert sorted(ends) == [-1] * 4 + [0] * 4
    assert np.linalg.norm(knots[0] - (80, 80)) < 1.5
    for run in runs:
        assert run.width == pytest.approx(9 + RIM_PX, abs=0.25)
        assert run.towards(True) == pytest.approx(run.towards(False)[::-1])


def test_half_widths_of_a_bar_are_half_its_width_in_the_middle():
    """cv2's distance counts from pixel centres: half a pixel more than the half width (common practice)."""
    mask = np.zeros((40, 40), bool)
    mask[14:25, 5:35] = True
    assert half_widths(mask)[19, 20] == pytest.approx(6, abs=0.1)


def test_the_skeleton_of_a_bar_has_no_spurs():
    ink = inked(lambda c, f: line(c, f, (20, 40), (140, 110), 12))
    skeleton = skeleton_of(ink > 0.5, half_widths(ink > 0.5))
    assert len(skeleton.branches) == 1
    assert skeleton.width_px == pytest.approx(12, abs=1.5)
