"""Areas by fill rule: crossing and overlapping paths are resolved as a renderer resolves them."""

import numpy as np
import pytest
import shapely
from hypothesis import given

from samples import (
    circle,
    drawing,
    examples,
    hole,
    polygon,
    rectangle,
    rendered,
    ring,
    star_drawings,
    star_points,
)
from zeichen.core.geometry import Path, Shape, drawing_area, is_simple, shape_area
from zeichen.core.geometry.bezier import line_segments
from zeichen.core.geometry.polygons import as_multipolygon, is_light

PENTAGRAM = polygon(*[star_points(5, 80, 80, 0.3)[2 * (2 * k % 5)] for k in range(5)])


def test_a_pentagram_is_hollow_by_even_odd_and_full_by_nonzero():
    hollow = shape_area(Shape("a", (PENTAGRAM,), fill_rule="evenodd"), tolerance=0.01)
    full = shape_area(Shape("a", (PENTAGRAM,), fill_rule="nonzero"), tolerance=0.01)
    middle = shapely.Point(100, 100)
    assert not hollow.contains(middle) and full.contains(middle)
    assert hollow.area < full.area


@examples(10)
@given(star_drawings())
def test_area_is_what_a_renderer_paints(draw):
    """resvg is the reference: the share of ink in its picture is the drawing's area."""
    area = drawing_area(draw, tolerance=0.01).area
    inked = rendered(draw, width_px=800)
    # INK is not quite black; its own darkness is 1.
    dark = 1 - np.mean([0x24, 0x27, 0x2B]) / 255
    assert inked.sum() / dark * (200 / 800) ** 2 == pytest.approx(area, rel=0.004)


def test_a_light_shape_wipes_out_what_lies_below_it():
    plain = drawing(rectangle(0, 0, 100, 100))
    wiped = drawing(
        Shape("d", (rectangle(0, 0, 100, 100),)), Shape("w", (rectangle(20, 20, 50, 50),), "#ffffff")
    )
    assert drawing_area(plain, tolerance=0.1).area == pytest.approx(10_000)
    assert drawing_area(wiped, tolerance=0.1).area == pytest.approx(7_500)


def test_overlapping_dark_shapes_count_once():
    both = drawing(rectangle(0, 0, 60, 60), rectangle(30, 0, 60, 60))
    assert drawing_area(both, tolerance=0.1).area == pytest.approx(90 * 60)


def test_a_hole_wound_like_its_outline_is_still_a_hole_by_even_odd():
    same_way = Shape("a", (rectangle(0, 0, 50, 50), rectangle(10, 10, 20, 20)))
    assert shape_area(same_way, tolerance=0.1).area == pytest.approx(2500 - 400)


def test_a_drawn_line_covers_its_stroke():
    line = Shape(
        "l", (Path(line_segments(np.array([[0.0, 0.0], [100.0, 0.0]])), closed=False),), stroke_width=4
    )
    assert shape_area(line, tolerance=0.01).area == pytest.approx(400 + np.pi * 4, rel=0.01)


@pytest.mark.parametrize(
    ("path", "simple"),
    [
        pytest.param(circle(0, 0, 5), True, id="circle"),
        pytest.param(PENTAGRAM, False, id="pentagram"),
        pytest.param(polygon((0, 0), (10, 10), (10, 0), (0, 10)), False, id="bow tie"),
        pytest.param(
            Path(line_segments(np.array([[0.0, 0], [5, 5], [0, 5], [5, 0]])), closed=False),
            False,
            id="open, crossing",
        ),
        pytest.param(Path(line_segments(np.array([[0.0, 0], [5, 5]])), closed=False), True, id="open line"),
        pytest.param(Path(np.zeros((0, 4, 2))), True, id="nothing"),
    ],
)
def test_self_crossing_is_seen(path, simple):
    assert is_simple(path, tolerance=0.01) is simple


def test_only_all_but_white_counts_as_light():
    assert is_light("#ffffff") and is_light("#f8f6f5")
    assert not is_light("#f4f4f4") and not is_light("#fff") and not is_light("#24272b")


def test_lines_and_points_are_left_out_of_areas():
    mixed = shapely.GeometryCollection(
        [shapely.Point(0, 0), shapely.LineString([(0, 0), (1, 1)]), shapely.box(0, 0, 2, 2)]
    )
    assert as_multipolygon(mixed).area == pytest.approx(4)


def test_nested_rings_alternate():
    target = drawing(Shape("t", (circle(100, 100, 90), hole(circle(100, 100, 60)), circle(100, 100, 30))))
    expected = np.pi * (90**2 - 60**2 + 30**2)
    assert drawing_area(target, tolerance=0.01).area == pytest.approx(expected, rel=1e-3)
    assert len(drawing_area(drawing(ring(100, 100, 50, 20)), tolerance=0.1).geoms) == 1
