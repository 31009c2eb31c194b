"""The curve fit on contours whose curves are known."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import examples
from zeichen.core.errors import InvalidInputError
from zeichen.core.fitting.corner_search import arc_rms, corner_angles, pick_corners, sharpen
from zeichen.core.fitting.cubic_fit import Ends, fit_cubic, line_error, room_for
from zeichen.core.fitting.curve_fit import fit_contour
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.fitting.local_polynomial import Stretch, cumulative_length, polyline_of
from zeichen.core.geometry import bezier
from zeichen.core.geometry.bezier import ellipse_segments, flatten
from zeichen.core.tracing.deviation import measure_deviation
from zeichen.core.tracing.outlines.non_crossing_fit import count_crossings, fit_soundly


def even_loop(segments: np.ndarray, spacing: float = 0.7) -> np.ndarray:
    """A closed contour sampled along curves, as a boundary would be."""
    return flatten(segments, tolerance=0.001, longest=spacing)[:-1]


def square_loop(side: float, turn: float = 0.3) -> np.ndarray:
    corners = side / math.sqrt(2) * np.exp(1j * (np.arange(5) * math.pi / 2 + turn))
    points = np.stack([corners.real, corners.imag], axis=1) + side
    return even_loop(bezier.line_segments(points))


@examples(14)
@given(st.floats(0.15, 0.6), st.floats(0.15, 0.6), st.floats(0.1, 0.6), st.floats(8, 80))
def test_a_tame_cubic_is_found_again_from_its_points(first, second, height, chord):
    control = chord * np.array([[0.0, 0], [first, height], [1 - second, height], [1, 0]])
    points = bezier.evaluate(control[None], np.linspace(0.02, 0.98, 30))[0]
    room = room_for(len(points))
    start, end = control[1] - control[0], control[2] - control[3]
    start, end = start / np.hypot(*start), end / np.hypot(*end)
    ends = Ends(control[0], control[3], start, end, False, False)
    worst, rms = fit_cubic(points.T.copy(), len(points), ends, 40, room)
    assert worst < 0.01 * chord and rms <= worst


def test_a_chord_is_as_far_off_as_its_furthest_point():
    points = np.array([[1.0, 0.5], [2.0, -2.0], [3.0, 0.0]])
    assert line_error(points.T.copy(), 3, np.array([0.0, 0.0]), np.array([4.0, 0.0])) == pytest.approx(2.0)


@examples(14)
@given(st.floats(6, 120), st.floats(6, 120))
def test_an_ellipse_has_no_corners_and_is_fitted_within_the_tolerance(rx, ry):
    loop = even_loop(ellipse_segments((150.0, 150.0), radius_x=rx, radius_y=ry))
    path = fit_contour(loop, FitSettings(tolerance_px=0.3))
    # An ellipse of a pointed end bends tighter than any window can tell from a corner.
    if min(rx, ry) ** 2 / max(rx, ry) > 4:
        assert measure_deviation([path], [loop]).largest_px < 0.5
        assert len(path.segments) <= 16
        assert path.area == pytest.approx(math.pi * rx * ry, rel=0.03)


@examples(10)
@given(st.floats(20, 200), st.floats(0, 1.5))
def test_a_square_at_any_turn_is_four_straight_lines(side, turn):
    path = fit_contour(square_loop(side, turn), FitSettings())
    assert len(path.segments) == 4 and bezier.is_straight(path.segments, tolerance=0.05).all()
    assert abs(path.area) == pytest.approx(side**2, rel=0.02)


def test_corners_are_found_once_and_where_the_sides_meet():
    loop = square_loop(80)
    polyline = polyline_of(loop, True)
    angles = corner_angles(polyline, Stretch(1.2, 5.4), 0.08)
    at = np.nonzero(pick_corners(polyline, angles, 32.0, 3.8))[0]
    assert len(at) == 4 and angles[at] == pytest.approx([90] * 4, abs=1)
    corners = np.array([sharpen(polyline, k, Stretch(1.2, 5.4), 3.0)[:2] for k in at])
    assert np.linalg.norm(corners - 80, axis=1) == pytest.approx([80 / math.sqrt(2)] * 4, abs=0.05)


@pytest.mark.parametrize("radius", [4, 8, 15, 60])
def test_one_arc_fits_a_circle_and_not_a_corner(radius):
    """Radius 4 and up: the window on either side is 5.4 px."""
    circle = even_loop(ellipse_segments((100.0, 100.0), radius_x=radius, radius_y=radius))
    assert arc_rms(polyline_of(circle, True), 3, 5.4) < 0.01
    square = polyline_of(square_loop(60), True)
    corner = int(corner_angles(square, Stretch(1.2, 5.4), 0.08).argmax())
    assert arc_rms(square, corner, 5.4) > 0.2


def test_the_length_of_a_loop_includes_its_way_back():
    triangle = np.array([[0.0, 0], [3, 0], [3, 4]])
    assert cumulative_length(triangle).tolist() == [0, 3, 7, 12]


def test_thin_lines_side_by_side_do_not_cross():
    """Two contours 0.4 px apart, which smoothing over the usual window would pull across each other."""
    t = np.linspace(0, 2 * math.pi, 400, endpoint=False)
    wave = 100 + 6 * np.sin(9 * t)
    outer = np.stack([150 + wave * np.cos(t), 150 + wave * np.sin(t)], axis=1)
    inner = np.stack([150 + (wave - 0.4) * np.cos(t), 150 + (wave - 0.4) * np.sin(t)], axis=1)[::-1]
    relevant_points: list[float] = []
    paths, crossings = fit_soundly([outer, inner], FitSettings(tolerance_px=2.0), step=relevant_points.append)
    assert crossings == 0 == count_crossings(paths) and relevant_points == [0.0]
    assert measure_deviation(paths, [outer, inner]).p95_px < 2.0


def test_deviation_is_measured_both_ways_and_placed():
    circle = ellipse_segments((50.0, 50.0), radius_x=30.0, radius_y=30.0)
    from zeichen.core.geometry import Path

    larger = even_loop(ellipse_segments((50.0, 50.0), radius_x=30.5, radius_y=30.5))
    off = measure_deviation([Path(circle)], [larger])
    assert off.mean_px == pytest.approx(0.5, abs=0.01) and off.largest_px == pytest.approx(0.5, abs=0.02)
    assert np.hypot(off.place_px[0] - 50, off.place_px[1] - 50) == pytest.approx(30.25, abs=0.3)
    assert measure_deviation([], []).largest_px == 0


@pytest.mark.parametrize(
    "changes", [{"tolerance_px": 0.0}, {"corner_deg": 5.0}, {"blur_px": -0.1}, {"tolerance_px": math.inf}]
)
def test_impossible_fit_settings_are_refused(changes):
    with pytest.raises(InvalidInputError, match="must be"):
        FitSettings(**changes)
