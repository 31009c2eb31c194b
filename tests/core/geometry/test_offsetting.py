"""Areas grown and shrunk, lines drawn with a pen: against Steiner's formula and shapely."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from core.geometry.test_overlay import area, polygons, region
from samples import blob, circle, examples, hole, polygon, rectangle
from zeichen.core.errors import InvalidInputError
from zeichen.core.formats.render import render_drawing
from zeichen.core.geometry import Drawing, Path, Shape
from zeichen.core.geometry.bezier import arc_lengths, ellipse_segments, line_segments
from zeichen.core.geometry.drawing import CAPS, JOINS
from zeichen.core.geometry.offsetting import Nib, offset, pen_area, stroked
from zeichen.core.geometry.overlay import Region
from zeichen.core.geometry.polygons import shape_area


@pytest.mark.parametrize(
    "shape",
    [
        rectangle(0, 0, 30, 20),
        polygon((0, 0), (40, 5), (25, 30)),
        Path(ellipse_segments((0, 0), radius_x=30, radius_y=12)),
    ],
    ids=["rectangle", "triangle", "ellipse"],
)
@pytest.mark.parametrize("distance", [0.5, 4.0, 20.0])
def test_what_is_convex_grows_by_steiners_formula(shape, distance):
    """A + P r + pi r^2 (J. Steiner, 1840)."""
    length = float(arc_lengths(shape.segments).sum())
    truth = shape.area + length * distance + math.pi * distance**2
    assert area(offset(region(shape), distance, tolerance=1e-3)) == pytest.approx(truth, rel=1e-4)


def test_a_square_shrinks_to_a_square_and_then_to_nothing():
    square = region(rectangle(0, 0, 10, 10))
    (inner,) = offset(square, -2.0, tolerance=1e-4)
    assert inner.area == pytest.approx(36.0) and len(inner.segments) == 4
    assert offset(square, -5.1, tolerance=1e-4) == ()


def test_mitres_keep_corners_and_too_sharp_ones_are_cut_off():
    (grown,) = offset(region(rectangle(0, 0, 10, 10)), 1.0, join="mitre", tolerance=1e-4)
    assert grown.area == pytest.approx(144.0)
    needle = polygon((0, 0), (100, 1), (0, 2))
    (cut,) = offset(region(needle), 1.0, join="mitre", tolerance=1e-4)
    assert cut.segments[:, 0, 0].max() < 106


def test_a_hole_shrinks_where_the_area_grows():
    ring = Region((circle(0, 0, 30), hole(circle(0, 0, 10))))
    grown = offset(ring, 2.0, tolerance=1e-3)
    assert area(grown) == pytest.approx(math.pi * (32**2 - 8**2), rel=1e-3)


@examples(10)
@given(st.integers(0, 5000), st.floats(2.0, 20.0))
def test_grown_and_shrunk_as_shapely_does_with_fine_polygons(seed, distance):
    shape = region(blob(seed, 0, 0))
    truth = polygons(shape.paths)
    for sign in (1.0, -1.0):
        expected = truth.buffer(sign * distance, quad_segs=64)
        got = offset(shape, sign * distance, tolerance=2e-3)
        assert polygons(got).symmetric_difference(expected).area < 2e-3 * truth.area


def test_a_pen_draws_a_capsule_and_a_ring():
    line = Path(line_segments(np.array([[0.0, 0.0], [10.0, 0.0]])), closed=False)
    (capsule,) = stroked((line,), 2.0, tolerance=1e-4)
    assert capsule.area == pytest.approx(20 + math.pi, rel=1e-4)
    ring = stroked((circle(0, 0, 20),), 4.0, tolerance=1e-4)
    assert len(ring) == 2 and area(ring) == pytest.approx(2 * math.pi * 20 * 4, rel=1e-3)


def test_a_line_that_crosses_itself_is_one_area():
    turns = np.linspace(0, 6 * math.pi, 90)
    points = np.stack([turns * 3 * np.cos(turns), 40 * np.sin(turns / 2)], axis=1)
    paths = stroked((Path(line_segments(points), closed=False),), 3.0, tolerance=1e-3)
    assert area(paths) == pytest.approx(shapely.LineString(points).buffer(1.5, quad_segs=64).area, rel=1e-3)


@pytest.mark.parametrize("cap", CAPS)
@pytest.mark.parametrize("join", JOINS)
@pytest.mark.parametrize("limit", [1.5, 10.0])
def test_ends_and_corners_are_what_resvg_and_shapely_draw(cap, join, limit):
    """SVG 2, section 13.5; two other programs draw the same line, one as a picture, one as a polygon."""
    bent = Path(line_segments(np.array([[15.0, 15], [70, 20], [30, 55], [80, 80]])), closed=False)
    corner = Path(line_segments(np.array([[60.0, 40], [85, 40], [85, 62], [60, 40]])))
    shape = Shape("line", (bent, corner), stroke_width=8.0, cap=cap, join=join, mitre_limit=limit)
    outlines = pen_area(shape, tolerance=1e-3)
    drawn = render_drawing(Drawing(100, 100, (shape,)), width_px=800)[..., 3] / 255.0
    as_area = render_drawing(Drawing(100, 100, (Shape("area", outlines),)), width_px=800)[..., 3] / 255.0
    assert np.abs(drawn - as_area).sum() < 5e-4 * drawn.sum()
    assert area(outlines) == pytest.approx(float(drawn.sum()) / 64, rel=2e-3)
    # GEOS cuts a mitre off at its limit instead of making the corner blunt.
    if join != "mitre" or limit > 2:
        assert shape_area(shape, tolerance=1e-3).area == pytest.approx(area(outlines), rel=3e-3)
    assert Nib.of(shape) == Nib(cap, join, limit)


def test_a_pen_needs_a_width_and_a_known_join():
    with pytest.raises(InvalidInputError, match="Pen width"):
        stroked((circle(0, 0, 5),), 0.0, tolerance=1e-3)
    with pytest.raises(InvalidInputError, match="round or mitre"):
        offset(region(circle(0, 0, 5)), 1.0, join="bevel", tolerance=1e-3)
