"""Slender ends of areas: wedges between neighbours, tips on the ground, rounded corners."""

import cv2
import numpy as np
import pytest

from zeichen.core.methods import Method
from zeichen.core.raster import Picture
from zeichen.core.tracing.regions.labelling import label_pixels
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace

WHITE, DARK, RED = (255, 255, 255), (40, 44, 50), (60, 70, 200)


def painted(draw, *, size: int = 200, quality: int | None = None) -> Picture:
    fine = np.full((size * 8, size * 8, 3), WHITE, np.uint8)
    draw(fine)
    array = cv2.resize(fine, (size, size), interpolation=cv2.INTER_AREA)
    if quality is not None:
        _, data = cv2.imencode(".jpg", array[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, quality])
        array = cv2.imdecode(data, cv2.IMREAD_COLOR)[..., ::-1]
    return Picture(np.ascontiguousarray(array))


def polygon(canvas, points, colour):
    cv2.fillPoly(canvas, [np.round(np.array(points) * 8 - 0.5).astype(np.int32)], colour)


def nodes(drawing) -> np.ndarray:
    return np.concatenate([path.segments[:, 0] for path in drawing.paths])


@pytest.mark.parametrize("turn_deg", [10.0, 34.0, 64.0, 82.0])
def test_a_wedge_between_neighbours_reaches_to_where_its_sides_meet(turn_deg):
    """Red runs out between dark and the ground; its last pixels hold less than half of it."""
    angle = np.radians(turn_deg)
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])

    def at(*points):
        return [turn @ (np.array(point) - 100.0) + 100.0 for point in points]

    def draw(canvas):
        polygon(canvas, at((40, 100), (160, 100), (160, 150), (40, 150)), DARK)
        polygon(canvas, at((40, 100), (130, 100), (40, 88)), RED)

    drawing = trace(painted(draw), TraceSettings(method=Method.FLATS)).drawing
    red = max(drawing.shapes, key=lambda shape: int(shape.fill[5:], 16))
    assert np.linalg.norm(nodes(drawing) - at((130, 100))[0], axis=1).min() < 2.0
    assert red.area == pytest.approx(0.5 * 90 * 12, rel=0.03)


@pytest.mark.parametrize("quality", [None, 70])
def test_a_slender_tip_on_the_ground_is_one_corner(quality):
    tip = (150.0, 100.0)

    def draw(canvas):
        polygon(canvas, [(40, 60), tip, (40, 140)], (90, 160, 80))
        polygon(canvas, [(40, 90), (190, 100), (40, 110)], (90, 160, 80))

    drawing = trace(painted(draw, quality=quality), TraceSettings(method=Method.FLATS)).drawing
    off = np.linalg.norm(nodes(drawing) - (190, 100), axis=1)
    assert off.min() < 2.5
    assert (off < 8).sum() <= 2


def test_what_nothing_around_explains_belongs_to_an_areas_end():
    """A line one pixel wide, grown out of a block: no pixel of it has an inside near."""
    rgb = np.full((40, 60, 3), 255, np.uint8)
    rgb[10:30, 5:25] = (120, 30, 30)
    rgb[20, 25:50] = (130, 40, 40)
    palette = np.array([[255.0, 255, 255], [120, 30, 30]])
    labels = label_pixels(rgb, palette, min_spot_px2=2)
    assert (labels[20, 25:36] == 1).all()
    assert (labels[18, 26:] == 0).all() and (labels[22, 26:] == 0).all()


@pytest.mark.parametrize("radius", [5.0, 8.0, 14.0])
def test_a_rounded_corner_is_round_and_not_a_tip(radius):
    """Four corners rounded by a radius: no node turns by more than 25 degrees, and the area is right."""

    def draw(canvas):
        r = round(radius * 8)
        cv2.rectangle(canvas, (40 * 8 + r, 40 * 8), (160 * 8 - r - 1, 160 * 8 - 1), (0, 0, 0), -1)
        cv2.rectangle(canvas, (40 * 8, 40 * 8 + r), (160 * 8 - 1, 160 * 8 - r - 1), (0, 0, 0), -1)
        for x in (40 * 8 + r, 160 * 8 - r - 1):
            for y in (40 * 8 + r, 160 * 8 - r - 1):
                cv2.circle(canvas, (x, y), r, (0, 0, 0), -1)

    (shape,) = trace(painted(draw), TraceSettings()).drawing.shapes
    (path,) = shape.paths
    leave = path.segments[:, 1] - path.segments[:, 0]
    arrive = np.roll(path.segments[:, 3] - path.segments[:, 2], 1, axis=0)
    turn = np.abs(np.degrees(np.angle((leave @ [1, 1j]) / (arrive @ [1, 1j]))))
    assert turn.max() < 25
    assert path.area == pytest.approx(120**2 - (4 - np.pi) * radius**2, rel=1.5e-3)
