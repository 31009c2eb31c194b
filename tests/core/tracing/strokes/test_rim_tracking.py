"""Lines measured and followed: rims, skeletons, widths, and what goes on beyond them."""

import math

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import examples
from zeichen.core.raster.ink import ink_at
from zeichen.core.tracing.strokes.medial_graph import medial_graph, skeleton_edges
from zeichen.core.tracing.strokes.rim_tracking import follow, rim_along, rims_along
from zeichen.core.tracing.strokes.rims import measured_runs
from zeichen.core.tracing.strokes.shared_ink import own_stretches
from zeichen.core.tracing.strokes.widths import half_widths, widths_of

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


@examples(11)
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
    both = rims_along(ink, np.stack([place, place]), np.stack([normal, -normal]), 30.0)
    assert both == pytest.approx([there, back])


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
    track = follow(ink, lead, 9.0, 60.0, 20.0)
    assert track[-1, 0] > 110
    assert np.abs(track[:, 1] - 80.0).max() < 0.5
    assert len(track) > 45


def test_following_stops_where_the_ink_does():
    ink = inked(lambda c, f: line(c, f, (15, 80), (100, 80), 9))
    lead = np.stack([np.arange(60.0, 90.0), np.full(30, 80.0)], axis=1)
    track = follow(ink, lead, 9.0, 60.0, 20.0)
    assert 100 <= track[-1, 0] <= 104.5


def test_a_bent_line_is_followed_round_its_bend():
    """Closed form: a ring of radius 45; what is followed stays on it."""

    def ring(canvas, fine):
        cv2.circle(canvas, (80 * fine, 80 * fine), round((45 + 4.5) * fine), 255, -1)
        cv2.circle(canvas, (80 * fine, 80 * fine), round((45 - 4.5) * fine), 0, -1)

    turn = np.arange(0, 0.7, 1 / 45)
    lead = 80 + 45 * np.stack([np.cos(turn), np.sin(turn)], axis=1)
    track = follow(inked(ring), lead, 9.0, 50.0, 10.0)
    assert len(track) >= 49
    assert np.abs(np.hypot(*(track - 80).T) - 45).max() < 0.3


def edges_of(ink: np.ndarray, pen_px: float | None = None):
    mask = ink > 0.5
    return medial_graph(*skeleton_edges(mask), half_widths(mask), pen_px)


def test_a_crossing_is_four_edges_that_meet_in_one_place():
    edges, meetings = edges_of(inked(crossing))
    assert len(edges) == 4 and len(meetings) == 1
    (number,) = meetings
    assert sorted(end for edge in edges for end in edge.ends) == [-1] * 4 + [number] * 4
    assert np.linalg.norm(meetings[number].place - (80, 80)) < 1.5
    for edge in edges:
        assert edge.from_side(1) == pytest.approx(edge.from_side(0)[::-1])


def test_half_widths_of_a_bar_are_half_its_width_in_the_middle():
    """cv2's distance counts from pixel centres: half a pixel more than the half width (common practice)."""
    mask = np.zeros((40, 40), bool)
    mask[14:25, 5:35] = True
    assert half_widths(mask)[19, 20] == pytest.approx(6, abs=0.1)


def test_the_skeleton_of_a_bar_has_no_spurs():
    ink = inked(lambda c, f: line(c, f, (20, 40), (140, 110), 12))
    edges, meetings = edges_of(ink)
    assert len(edges) == 1 and not meetings
    widths = widths_of(ink, edges, half_widths(ink > 0.5))
    assert widths.usual_px == pytest.approx(12 + RIM_PX, abs=0.25)
    assert widths.pen_px == widths.usual_px


@pytest.mark.parametrize("out_px", [1.0, 14.0])
def test_what_sticks_out_of_a_line_is_one_only_if_it_is_as_thick(out_px):
    """A pen's cap a little beside the middle of a line, and well beyond it."""

    def bumped(canvas, fine):
        line(canvas, fine, (20, 80), (140, 80), 12)
        line(canvas, fine, (80, 80), (80, 80 - out_px), 12)

    edges, _ = edges_of(inked(bumped), 12.0)
    assert len(edges) == (1 if out_px < 2 else 3)


def test_lines_of_two_widths_have_no_pen():
    def two(canvas, fine):
        line(canvas, fine, (20, 40), (140, 40), 6)
        line(canvas, fine, (20, 100), (140, 100), 14)

    ink = inked(two)
    assert widths_of(ink, edges_of(ink)[0], half_widths(ink > 0.5)).pen_px is None


def test_a_thick_line_between_thin_ones_stays_whole():
    def two_pens(canvas, fine):
        line(canvas, fine, (20, 80), (140, 80), 14)
        for x in (40, 120):
            line(canvas, fine, (x, 20), (x, 140), 6)

    ink = inked(two_pens)
    edges, meetings = edges_of(ink, 6.0)
    runs = measured_runs(ink, edges, meetings, half_widths(ink > 0.5))
    kept, _ = own_stretches(runs, meetings, 6.0)
    longest = max(runs, key=lambda run: len(run.points) * run.half.mean())
    assert np.median(longest.half) == pytest.approx(7 + RIM_PX / 2, abs=0.2)
    assert any(run is longest for run in kept)


def test_where_two_lines_run_into_one_another_is_neither_ones_own():
    """Two lines that meet at 20 degrees: each is its own up to where the other's ink begins."""

    def merging(canvas, fine):
        line(canvas, fine, (20, 80), (140, 80), 9)
        line(canvas, fine, (20, 80 - 80 * math.tan(math.radians(20))), (100, 80), 9)

    ink = inked(merging)
    edges, meetings = edges_of(ink, 9.0)
    runs, meetings = own_stretches(
        measured_runs(ink, edges, meetings, half_widths(ink > 0.5)), meetings, 9.0 + RIM_PX
    )
    assert len(runs) == 3 and len(meetings) == 1
    for run in runs:
        assert np.median(run.half) == pytest.approx(4.5 + RIM_PX / 2, abs=0.15)
        assert run.half.max() < 5.5
    # The rims part where the middles are as far apart as the pen is wide.
    part_px = 9.0 / math.sin(math.radians(20))
    starts = sorted(run.points[:, 0].max() for run in runs)[:2]
    assert starts == pytest.approx([100 - part_px] * 2, abs=9)
