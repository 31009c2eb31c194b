"""Three lines that meet: which two are one is told by the ink of the corner they make."""

import math
from itertools import permutations

import numpy as np
import pytest

from samples import pen
from zeichen.core.methods import Method
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.strokes.pen_turn import Corner, Turn
from zeichen.core.tracing.strokes.three_ends import _Knot, pair_of_three
from zeichen.core.tracing.trace import trace

WIDTH = 14.0
CORNER = np.array([100.3, 120.6])
# From the corner on; the third line ends on the second one.
ENDS = [np.array([96.0, 40.0]), np.array([170.0, 92.0]), np.array([165.0, 165.0])]
MEETS = CORNER + 0.2 * (ENDS[1] - CORNER)


def towards(start: np.ndarray, stop: np.ndarray) -> np.ndarray:
    """Points a pixel apart, up to and without the stop."""
    count = int(math.dist(start, stop))
    return start + np.arange(count)[:, None] * (stop - start) / math.dist(start, stop)


def lead(number: int) -> np.ndarray:
    """What is seen of a line before it comes into the others' ink."""
    goal = MEETS if number == 2 else CORNER
    return towards(ENDS[number], goal)[: -round(1.4 * WIDTH)]


@pytest.fixture(scope="module")
def ink() -> np.ndarray:
    ways = [[tuple(ENDS[0]), tuple(CORNER), tuple(ENDS[1])], [tuple(ENDS[2]), tuple(MEETS)]]
    return np.ascontiguousarray(1.0 - pen(ways, width=WIDTH).grey() / 255.0)


@pytest.mark.parametrize("order", list(permutations(range(3))))
@pytest.mark.parametrize("likely", [None, (0, 2), (1, 2)])
def test_the_two_that_make_the_corner_are_one(ink, order, likely):
    """Whatever came first, and whatever was thought likely."""
    leads = [lead(number) for number in order]
    drafted = None
    if likely is not None:
        i, j = (order.index(number) for number in likely)
        drafted = i, j, Turn(np.array([MEETS]), [Corner(MEETS)])
    found = pair_of_three(ink, leads, WIDTH, drafted)
    assert found is not None
    i, j, turn = found
    assert {order[i], order[j]} == {0, 1}
    assert math.dist(turn.corners[0].place, CORNER) < 0.8


def test_a_pair_that_leaves_the_pictures_ink_stays(ink):
    likely = 0, 1, Turn(np.array([CORNER]), [Corner(CORNER)])
    assert pair_of_three(ink, [lead(number) for number in range(3)], WIDTH, likely) is likely


def test_ends_too_short_to_tell_a_direction_tell_nothing(ink):
    leads = [lead(0), lead(1), lead(2)[-4:]]
    assert pair_of_three(ink, leads, WIDTH, None) is None


def test_the_third_line_is_led_to_where_it_ended(ink):
    knot = _Knot(ink, [lead(number) for number in range(3)], WIDTH)
    knot.look_at(np.array([CORNER, MEETS, lead(2)[-1]]))
    way, off = knot.third((0, 1, Turn(np.array([CORNER]))))
    assert math.dist(way[-1], MEETS) < 0.2 * WIDTH
    assert math.dist(way[0], lead(2)[-1]) < 3.0
    assert off < 4.0


@pytest.mark.parametrize("turned", [0, 1, 2, 3])
def test_traced_it_has_its_corner(ink, turned):
    """By the whole way: two strokes, one of them with the corner, whichever way the picture lies."""
    picture = pen(
        [[tuple(ENDS[0]), tuple(CORNER), tuple(ENDS[1])], [tuple(ENDS[2]), tuple(MEETS)]], width=WIDTH
    )
    rgb = np.ascontiguousarray(np.rot90(picture.rgb, turned))
    drawing = trace(type(picture)(rgb), TraceSettings(method=Method.CENTRELINE)).drawing
    assert len(drawing.paths) == 2
    size = float(rgb.shape[0])
    x, y = CORNER
    place = {0: (x, y), 1: (y, size - x), 2: (size - x, size - y), 3: (size - y, x)}[turned]
    nodes = np.concatenate([path.segments[:, 0] for path in drawing.paths])
    assert np.hypot(*(nodes - place).T).min() < 1.0
