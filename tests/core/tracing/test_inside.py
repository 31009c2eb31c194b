"""Whole figures, and places of the ground's colour inside."""

import cv2
import numpy as np
import pytest
from tests.core.tracing.regions.test_flats import DARK, GREEN, GROUND, RED, painted, plum

from zeichen.core.methods import Figure, Inside, Method
from zeichen.core.raster import Picture
from zeichen.core.tracing.inside_places import InsideAt, inside_places
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace

# The plum: a disc of 80 with a hole of 14, at 200 px.
WHOLE, HOLE = np.pi * 80**2, np.pi * 14**2
PALE = (240, 205, 120)


def solid(picture, **changes):
    return trace(picture, TraceSettings(**changes))


def area(made) -> float:
    return sum(shape.area for shape in made.drawing.shapes)


def two_tones(canvas, s):
    """A pale square beside a dark one: half-way between dark and ground the pale one is lost."""
    canvas[40 * s : 160 * s, 30 * s : 100 * s] = PALE
    canvas[40 * s : 160 * s, 100 * s : 170 * s] = DARK


def outlined(canvas, s):
    """A pale square in a dark outline."""
    canvas[40 * s : 160 * s, 40 * s : 160 * s] = DARK
    canvas[50 * s : 150 * s, 50 * s : 150 * s] = PALE


def test_a_whole_figure_is_all_that_is_not_ground():
    picture = painted(plum)
    assert area(solid(picture, figure=Figure.WHOLE, inside=Inside.OPEN)) == pytest.approx(
        WHOLE - HOLE, rel=0.01
    )
    assert area(solid(picture, figure=Figure.WHOLE, inside=Inside.KEEP)) == pytest.approx(WHOLE, rel=0.01)


def test_pale_parts_are_whole_figure_by_themselves_unless_outlines_are_drawn():
    found = solid(painted(two_tones))
    assert found.figure is Figure.WHOLE
    assert area(found) == pytest.approx(140 * 120, rel=0.01)
    assert area(solid(painted(two_tones), figure=Figure.DARK)) == pytest.approx(70 * 120, rel=0.02)
    lines = solid(painted(outlined))
    assert lines.figure is Figure.DARK
    assert area(lines) == pytest.approx(120 * 120 - 100 * 100, rel=0.02)


def test_whoever_sets_a_level_gets_what_is_darker():
    assert solid(painted(two_tones), level=100).figure is Figure.DARK


def test_a_light_figure_on_a_dark_ground_is_whole_too():
    canvas = np.full((200, 200, 3), 30, np.uint8)
    canvas[40:160, 30:100], canvas[40:160, 100:170] = (250, 240, 200), (120, 160, 90)
    assert area(solid(Picture(canvas), figure=Figure.WHOLE)) == pytest.approx(140 * 120, rel=0.01)


@pytest.mark.parametrize("method", [Method.FLATS, Method.SOLID])
def test_places_inside_are_named_and_turned_one_by_one(method):
    def two_holes(canvas, s):
        plum(canvas, s)
        cv2.circle(canvas, (120 * s, 110 * s), 20 * s, GROUND, -1)

    def made(**changes):
        return trace(painted(two_holes), TraceSettings(method=method, figure=Figure.WHOLE, **changes))

    places = made(inside=Inside.OPEN).inside
    assert sorted(place.area_px2 for place in places) == pytest.approx([HOLE, np.pi * 20**2], rel=0.5)
    assert not any(place.kept for place in places)
    opened = area(made(inside=Inside.OPEN))
    assert area(made(inside=Inside.KEEP)) == pytest.approx(opened + HOLE + np.pi * 20**2, rel=0.01)
    large = max(places, key=lambda place: place.area_px2)
    turned = (InsideAt(large.x_px, large.y_px),)
    assert area(made(inside=Inside.OPEN, turned_inside=turned)) == pytest.approx(
        opened + np.pi * 20**2, rel=0.01
    )
    assert area(made(inside=Inside.KEEP, turned_inside=turned)) == pytest.approx(opened + HOLE, rel=0.01)
    # A place that is none changes nothing.
    assert area(made(inside=Inside.OPEN, turned_inside=(InsideAt(3.0, 3.0), InsideAt(1e9, -5.0)))) == opened


def test_kept_places_have_the_grounds_colour_in_flats():
    made = trace(painted(plum), TraceSettings(method=Method.FLATS, inside=Inside.KEEP))
    fills = {shape.fill for shape in made.drawing.shapes}
    assert "#{:02x}{:02x}{:02x}".format(*GROUND) in fills
    assert len(fills) == 4


def test_the_point_of_a_place_lies_in_it():
    numbers = np.zeros((60, 80), int)
    cv2.ellipse(image := np.zeros((60, 80), np.uint8), (40, 30), (30, 20), 0, 20, 340, 1, 5)
    numbers[image > 0] = 1
    ((number, place),) = inside_places(numbers)
    assert number == 0
    assert numbers[int(place.y_px), int(place.x_px)] == 1
    assert place.area_px2 == np.count_nonzero(image)


def test_the_level_keeps_off_the_tones_of_areas():
    """Ink, a tone half-way and paper: a level in the tone would draw its noise."""
    rng = np.random.default_rng(4)
    grey = np.full((200, 200), 250.0)
    grey[30:100, 30:170], grey[100:170, 30:170] = 10, 130
    noisy = np.clip(grey + rng.normal(0, 4, grey.shape), 0, 255).astype(np.uint8)
    made = solid(Picture(np.repeat(noisy[:, :, None], 3, axis=2)), figure=Figure.DARK)
    assert abs(made.level - 130) > 12
    assert area(made) == pytest.approx(140 * (70 if made.level < 130 else 140), rel=0.02)
    assert made.drawing.node_count < 20


def test_red_and_green_of_one_lightness_are_two_areas_of_one_figure():
    def halves(canvas, s):
        canvas[50 * s : 150 * s, 50 * s : 100 * s], canvas[50 * s : 150 * s, 100 * s : 150 * s] = RED, GREEN

    assert area(solid(painted(halves), figure=Figure.WHOLE)) == pytest.approx(100 * 100, rel=0.01)
