"""The picture turned, mirrored, moved, enlarged or inverted: the drawing likewise, by every method."""

import cv2
import numpy as np
import pytest
import shapely

from samples import disc_mask, picture_of
from zeichen.core.formats.render import render_drawing
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing
from zeichen.core.methods import Method
from zeichen.core.raster import Picture
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace

SIZE = 160


def canvas_with(draw, size: int = SIZE) -> np.ndarray:
    fine = np.full((size * 4, size * 4, 3), 255, np.uint8)
    draw(fine, 4)
    return cv2.resize(fine, (size, size), interpolation=cv2.INTER_AREA)


def pear(canvas, s):
    """A pear in two colours with a stalk: nothing about it is symmetric."""
    cv2.ellipse(canvas, (70 * s, 100 * s), (44 * s, 40 * s), 10, 0, 360, (70, 160, 190), -1)
    cv2.ellipse(canvas, (76 * s, 62 * s), (24 * s, 30 * s), 20, 0, 360, (70, 160, 190), -1)
    cv2.ellipse(canvas, (84 * s, 106 * s), (20 * s, 24 * s), -15, 0, 360, (60, 60, 170), -1)
    cv2.line(canvas, (78 * s, 36 * s), (92 * s, 14 * s), (30, 40, 40), 6 * s)


def trowel(canvas, s):
    """A closed line, an open one and one that ends on it."""
    blade = np.array([(40, 30), (90, 26), (110, 70), (66, 96)]) * s
    cv2.polylines(canvas, [blade], True, (0, 0, 0), 6 * s)
    cv2.line(canvas, (88 * s, 84 * s), (124 * s, 140 * s), (0, 0, 0), 6 * s)
    cv2.line(canvas, (108 * s, 114 * s), (140 * s, 102 * s), (0, 0, 0), 6 * s)


def in_black(figure, canvas, s):
    figure(canvas, s)
    canvas[canvas.min(axis=2) < 250] = 0


PICTURES = {
    Method.SOLID: canvas_with(lambda c, s: in_black(pear, c, s)),
    Method.FLATS: canvas_with(pear),
    Method.CENTRELINE: canvas_with(trowel),
}
METHODS = pytest.mark.parametrize("method", list(Method))


def drawn(array: np.ndarray, method: Method, **changes) -> Drawing:
    return trace(Picture(np.ascontiguousarray(array)), TraceSettings(method=method, **changes)).drawing


def apart(one: Drawing, other: Drawing, move) -> float:
    """Return within what distance 95 % of two drawings are of each other once the first is moved, px.

    Where a fit has a choice it may fall out otherwise; a rounded end of a line is all choice.
    """

    def lines(drawing: Drawing, change):
        return shapely.MultiLineString(
            [
                bezier.flatten(change(path.segments.reshape(-1, 2)).reshape(-1, 4, 2), tolerance=0.01)
                for path in drawing.paths
            ]
        )

    a, b = lines(one, move), lines(other, lambda points: points)
    off = [
        shapely.distance(shapely.points(shapely.get_coordinates(shapely.segmentize(x, 0.25))), y)
        for x, y in ((a, b), (b, a))
    ]
    return float(max(np.percentile(distances, 95) for distances in off))


NEAR_PX = {Method.SOLID: 0.2, Method.FLATS: 0.48, Method.CENTRELINE: 0.3}


@METHODS
def test_turning_the_picture_turns_the_drawing(method):
    array = PICTURES[method]
    turned = drawn(np.rot90(array), method)
    # A quarter turn against the clock takes (x, y) to (y, size - x).
    off = apart(
        drawn(array, method), turned, lambda points: np.stack([points[:, 1], SIZE - points[:, 0]], axis=1)
    )
    assert off < NEAR_PX[method]


@METHODS
def test_mirroring_the_picture_mirrors_the_drawing(method):
    array = PICTURES[method]
    off = apart(
        drawn(array, method), drawn(array[:, ::-1], method), lambda p: p * [-1, 1] + np.array([SIZE, 0])
    )
    assert off < NEAR_PX[method]


@METHODS
def test_a_margin_shifts_the_drawing(method):
    array = PICTURES[method]
    wide = np.pad(array, ((7, 4), (11, 3), (0, 0)), constant_values=255)
    off = apart(drawn(array, method), drawn(wide, method), lambda p: p + np.array([11, 7]))
    assert off < NEAR_PX[method]


@METHODS
def test_a_picture_twice_as_large_gives_a_drawing_twice_as_large(method):
    """Drawn at twice the size, not enlarged: both drawings are of one figure."""
    figure = trowel if method is Method.CENTRELINE else pear

    def twice(canvas, s):
        figure(canvas, 2 * s)
        if method is Method.SOLID:
            in_black(lambda c, s: None, canvas, s)

    large = canvas_with(twice, 2 * SIZE)
    off = apart(drawn(PICTURES[method], method), drawn(large, method), lambda p: 2 * p)
    assert off < 2 * NEAR_PX[method]


def test_inverting_swaps_shapes_and_holes_on_the_same_curves(leaf):
    light = drawn(255 - leaf.rgb, Method.SOLID, invert=True)
    assert apart(drawn(leaf.rgb, Method.SOLID), light, lambda p: p) < 0.05
    assert sum(p.area for p in light.paths) == pytest.approx(areas(leaf).sum(), rel=3e-4)


def test_flats_keep_their_colours_when_the_picture_is_turned():
    array = PICTURES[Method.FLATS]
    fills = [sorted(shape.fill for shape in drawn(np.rot90(array, k), Method.FLATS).shapes) for k in range(4)]
    assert fills.count(fills[0]) == 4


@pytest.fixture(scope="module")
def leaf() -> Picture:
    """Two arcs that meet in points, and a round hole: curves, corners and a hole in one figure."""
    left, right = disc_mask(240, (90, 120), 90, fine=8), disc_mask(240, (150, 120), 90, fine=8)
    return picture_of(np.clip(np.minimum(left, right) - disc_mask(240, (121, 133), 21, fine=8), 0, 1))


def areas(picture: Picture, **changes) -> np.ndarray:
    return np.array([path.area for path in trace(picture, TraceSettings(**changes)).drawing.paths])


@pytest.mark.parametrize("turn", [np.rot90, np.fliplr, np.flipud])
def test_turning_keeps_areas_to_a_few_ten_thousandths(leaf, turn):
    turned = Picture(np.ascontiguousarray(turn(leaf.rgb)))
    assert areas(turned) == pytest.approx(areas(leaf), rel=3e-4)
    assert len(trace(turned, TraceSettings()).drawing.paths) == len(
        trace(leaf, TraceSettings()).drawing.paths
    )


def test_a_margin_keeps_areas_and_moves_the_bounds(leaf):
    wide = Picture(np.pad(leaf.rgb, ((17, 5), (11, 3), (0, 0)), constant_values=255))
    before, after = (trace(p, TraceSettings()).drawing.bounds() for p in (leaf, wide))
    assert np.array(after) - np.array([11, 17, 11, 17]) == pytest.approx(np.array(before), abs=0.03)
    assert areas(wide) == pytest.approx(areas(leaf), rel=3e-4)


def test_rendering_the_drawing_and_tracing_again_changes_next_to_nothing(leaf):
    first = trace(leaf, TraceSettings()).drawing
    again = trace(
        Picture(np.ascontiguousarray(render_drawing(first, width_px=240, ground="#ffffff")[..., :3])),
        TraceSettings(),
    )
    assert [p.area for p in again.drawing.paths] == pytest.approx([p.area for p in first.paths], rel=4e-3)
    assert np.array(again.drawing.bounds()) == pytest.approx(np.array(first.bounds()), abs=0.2)
