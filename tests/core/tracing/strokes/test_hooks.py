"""Short last pieces of lines that turn sharply: known ones drawn with a pen and traced back."""

import math

import cv2
import numpy as np
import pytest
import shapely

from samples import pen
from zeichen.core.geometry import bezier
from zeichen.core.methods import Method
from zeichen.core.raster import Picture
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.strokes.hooks import with_hooks
from zeichen.core.tracing.strokes.meetings import Stroke
from zeichen.core.tracing.strokes.pen_turn import Corner
from zeichen.core.tracing.trace import trace

WIDTH = 12.0
CORNER = np.array([140.3, 110.6])


def foot(turn_deg: float, reach: float) -> np.ndarray:
    """Where a hook of so many widths ends that turns by so much from a line that comes from the left."""
    turn = math.radians(turn_deg)
    return CORNER + reach * WIDTH * np.array([math.cos(turn), math.sin(turn)])


def hooked(end: np.ndarray) -> Picture:
    return pen(
        [[(30.0, 110.6), (float(CORNER[0]), float(CORNER[1])), (float(end[0]), float(end[1]))]], width=WIDTH
    )


def drafted(end: np.ndarray, corner: np.ndarray | None) -> Stroke:
    """A line as it is known before: plain up to shortly before it turned, and an end that is roughly right."""
    run = np.column_stack([np.arange(30.0, CORNER[0] - WIDTH), np.full(int(CORNER[0] - WIDTH - 29.0), 110.6)])
    middle = [] if corner is None else [corner]
    corners = [] if corner is None else [Corner(corner)]
    return Stroke(np.vstack([run, *middle, end]), False, WIDTH, (None, None), corners)


@pytest.mark.parametrize("turn_deg", [-150, -120, 100, 140, 155])
@pytest.mark.parametrize("reach", [0.8, 1.1])
@pytest.mark.parametrize("known", [True, False])
def test_a_hook_is_drawn_where_its_ink_is(turn_deg, reach, known):
    """Whether its corner was known two pixels off or not at all, and its end three."""
    end = foot(turn_deg, reach)
    ink = np.ascontiguousarray(1.0 - hooked(end).grey() / 255.0)
    (found,) = with_hooks(
        [drafted(end + np.array([2.0, -2.2]), CORNER + np.array([-6.0, 2.0]) if known else None)], ink
    )
    assert math.dist(found.corners[-1].place, CORNER) < 0.7
    assert math.dist(found.points[-1], end) < 0.7
    # And the same from the other end.
    stroke = drafted(end + np.array([2.0, -2.2]), CORNER + np.array([-6.0, 2.0]) if known else None)
    turned = Stroke(stroke.points[::-1], False, WIDTH, (None, None), stroke.corners)
    assert with_hooks([turned], ink)[0].points[::-1] == pytest.approx(found.points)


def test_what_is_right_stays_as_it_is():
    end = foot(120, 1.0)
    ink = np.ascontiguousarray(1.0 - hooked(end).grey() / 255.0)
    stroke = drafted(end, CORNER)
    assert with_hooks([stroke], ink)[0] is stroke


def test_what_no_hook_explains_stays_as_it_is():
    """Where the line ends in a blot, not in a piece of line."""
    picture = pen([[(30.0, 110.6), (140.3, 110.6)]], width=WIDTH).grey().copy()
    cv2.circle(picture, (150, 110), 22, 0, -1)
    stroke = drafted(np.array([146.0, 122.0]), CORNER)
    assert with_hooks([stroke], np.ascontiguousarray(1.0 - picture / 255.0))[0] is stroke


def test_closed_strokes_and_those_with_long_last_pieces_have_no_hooks():
    ink = np.zeros((200, 200))
    square = Stroke(np.array([[20.0, 20.0], [60.0, 20.0], [60.0, 60.0]]), True, WIDTH)
    plain = Stroke(np.column_stack([np.arange(30.0, 150.0), np.full(120, 110.6)]), False, WIDTH, (None, None))
    assert with_hooks([square, plain], ink) == [square, plain]


@pytest.mark.parametrize("turn_deg", [-140, 125, 150])
@pytest.mark.parametrize("soft", [False, True])
def test_a_traced_hook_is_the_drawn_one(turn_deg, soft):
    end = foot(turn_deg, 1.1)
    picture = hooked(end)
    if soft:
        half = cv2.resize(picture.rgb, (100, 100), interpolation=cv2.INTER_AREA)
        picture = Picture(cv2.resize(half, (200, 200), interpolation=cv2.INTER_CUBIC))
    (path,) = trace(picture, TraceSettings(method=Method.CENTRELINE)).drawing.paths
    drawn = shapely.LineString([(30.0, 110.6), CORNER, end])
    run = shapely.LineString(bezier.flatten(path.segments, tolerance=0.01))
    off = shapely.hausdorff_distance(shapely.segmentize(run, 0.25), shapely.segmentize(drawn, 0.25))
    assert off < (0.2 if soft else 0.12) * WIDTH
