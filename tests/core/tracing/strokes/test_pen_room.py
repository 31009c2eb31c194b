"""Corners and stubs of strokes keep the pen inside the ink."""

import cv2
import numpy as np

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.tracing.strokes.pen_room import within_ink

WIDTH = 12.0
MIDDLE = np.stack([np.arange(16.0, 85.0), np.full(69, 30.0)], axis=1)


def bar() -> np.ndarray:
    """Half widths of a bar from (10, 24) to (90, 36)."""
    mask = np.zeros((60, 100), np.uint8)
    mask[24:36, 10:90] = 1
    return cv2.distanceTransform(mask, cv2.DIST_L2, 5).astype(np.float64)


def lines(*points) -> Path:
    return Path(bezier.line_segments(np.array(points, dtype=float)), closed=False)


def test_a_corner_at_the_rim_moves_to_the_middle_and_its_sides_stay_straight():
    path = within_ink(lines((16, 30), (50, 25), (84, 30)), MIDDLE, bar(), WIDTH)
    assert abs(path.segments[0, 3, 1] - 30) < 1.0
    assert np.array_equal(path.segments[0, 3], path.segments[1, 0])
    assert bezier.is_straight(path.segments, tolerance=1e-6).all()


def test_a_stub_at_the_rim_is_pulled_in_and_a_long_end_may_be_cut_square():
    stub = within_ink(lines((16, 30), (80, 30), (80, 24.5)), MIDDLE, bar(), WIDTH)
    assert abs(stub.segments[-1, 3, 1] - 30) < 1.0
    square = lines((10, 30), (50, 30), (90, 30))
    assert within_ink(square, MIDDLE, bar(), WIDTH) is square


def test_what_lies_inside_is_left_alone():
    path = lines((16, 30), (50, 29), (84, 30))
    assert within_ink(path, MIDDLE, bar(), WIDTH) is path


def test_a_corner_far_outside_the_ink_finds_back_to_what_was_measured():
    path = within_ink(lines((16, 30), (50, 8), (84, 30)), MIDDLE, bar(), WIDTH)
    assert np.abs(path.segments[0, 3] - (50, 30)).max() < 1.0
    assert bezier.is_straight(path.segments, tolerance=1e-6).all()
