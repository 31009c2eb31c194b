"""Values check themselves, never change, and keep their area under moves."""

import dataclasses
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from samples import circle, drawing, hole, polygon, rectangle, ring, star_drawings
from zeichen.core.errors import InvalidInputError, NotFoundError
from zeichen.core.geometry import Drawing, Path, Scale, Shape, at_true_size


def test_points_of_a_path_cannot_be_changed_from_outside():
    segments = np.array([[[0.0, 0], [1, 0], [2, 0], [3, 0]]])
    path = Path(segments)
    segments[0, 0] = 99
    assert path.segments[0, 0, 0] == 0
    with pytest.raises(ValueError, match="read-only"):
        path.segments[0, 0] = 1


@pytest.mark.parametrize(
    ("segments", "message"),
    [
        pytest.param(np.zeros((3, 2)), "needs an", id="points instead of segments"),
        pytest.param(np.full((1, 4, 2), np.nan), "not a finite number", id="not a number"),
        pytest.param(np.full((1, 4, 2), np.inf), "not a finite number", id="infinite"),
    ],
)
def test_a_path_refuses_what_it_cannot_hold(segments, message):
    with pytest.raises(InvalidInputError, match=message):
        Path(segments)


def test_a_wrong_fill_rule_names_the_right_ones():
    with pytest.raises(InvalidInputError, match="evenodd, nonzero"):
        Shape("a", (), fill_rule="odd")


def test_two_shapes_cannot_share_an_id():
    with pytest.raises(InvalidInputError, match="same id"):
        Drawing(10, 10, (Shape("a", ()), Shape("a", ())))


def test_deleting_an_unknown_shape_says_which():
    with pytest.raises(NotFoundError, match="ghost"):
        drawing(circle(5, 5, 3)).without(["ghost"])


def test_deleting_leaves_the_rest_as_it_was():
    before = drawing(circle(5, 5, 3), rectangle(20, 20, 5, 5))
    after = before.without(["s1"])
    assert [shape.id for shape in after.shapes] == ["s2"]
    assert after.shapes[0] is before.shapes[1]
    assert len(before.shapes) == 2


def test_outer_paths_have_positive_area_and_holes_negative():
    outer = rectangle(0, 0, 10, 10)
    assert outer.area == pytest.approx(100)
    assert hole(outer).area == pytest.approx(-100)


def test_a_ring_has_the_area_of_disc_less_hole():
    shape = ring(0, 0, 10, 4)
    assert shape.area == pytest.approx(math.pi * (100 - 16), rel=1e-3)


def test_an_empty_drawing_has_no_bounds():
    with pytest.raises(InvalidInputError, match="empty"):
        Drawing(10, 10).bounds()


@pytest.mark.parametrize(("width", "height"), [(0, 5), (5, -1), (math.nan, 5)])
def test_a_drawing_needs_a_frame(width, height):
    with pytest.raises(InvalidInputError, match=r"Drawing (width|height) must be above 0"):
        Drawing(width, height)


@given(star_drawings(), st.floats(5, 500), st.floats(0, 20))
def test_true_size_is_the_width_asked_for_and_keeps_proportions(draw, width_mm, margin_mm):
    placed = at_true_size(draw, width_mm=width_mm, margin_mm=margin_mm)
    x0, y0, x1, y1 = placed.bounds()
    assert x1 - x0 == pytest.approx(width_mm, rel=1e-9)
    assert (x0, y0) == (pytest.approx(margin_mm, abs=1e-6), pytest.approx(margin_mm, abs=1e-6))
    assert placed.width == pytest.approx(width_mm + 2 * margin_mm)
    assert placed.height == pytest.approx(y1 - y0 + 2 * margin_mm)
    ratio = (width_mm / (draw.bounds()[2] - draw.bounds()[0])) ** 2
    assert sum(s.area for s in placed.shapes) == pytest.approx(
        sum(s.area for s in draw.shapes) * ratio, rel=1e-6
    )


def test_stroke_widths_grow_with_the_drawing():
    line = Shape("l", (Path(rectangle(0, 0, 50, 50).segments[:1], closed=False),), stroke_width=2.0)
    assert at_true_size(drawing(line), width_mm=100).shapes[0].stroke_width == pytest.approx(4.0)


@pytest.mark.parametrize("width_mm", [0, -3, math.inf, 10_001])
def test_an_impossible_width_is_refused(width_mm):
    with pytest.raises(InvalidInputError, match=r"Width must be above 0 mm and at most 10000 mm"):
        Scale.from_width(drawing(circle(5, 5, 3)), width_mm=width_mm)


def test_an_upright_line_is_sized_by_its_height():
    upright = drawing(Path(polygon((5, 0), (5, 40), (5, 0)).segments))
    assert Scale.from_width(upright, width_mm=80).mm_per_px == pytest.approx(2.0)


@given(st.floats(1e-3, 1e3), st.floats(1e-3, 1e3))
def test_scale_goes_there_and_back(mm_per_px, length):
    scale = Scale(mm_per_px)
    assert scale.to_px(scale.to_mm(length)) == pytest.approx(length)
    assert scale.to_mm2(1.0) == pytest.approx(scale.to_mm(1.0) ** 2)


def test_values_are_frozen():
    with pytest.raises(dataclasses.FrozenInstanceError):
        drawing(circle(1, 1, 1)).width = 5  # type: ignore[misc]
