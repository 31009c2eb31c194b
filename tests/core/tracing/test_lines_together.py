"""Lines that meet in known ways: traced, each is where it was drawn, thin, wide, and enlarged from half the size."""

import math

import cv2
import pytest
import shapely

from samples import pen
from zeichen.core.geometry import bezier
from zeichen.core.methods import Method
from zeichen.core.raster import Picture
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace

WIDTH = 12.0
MIDDLE = (100.3, 100.6)
Ways = list[list[tuple[float, float]]]


def from_middle(degrees: float, reach: float, start: tuple[float, float] = MIDDLE) -> tuple[float, float]:
    turn = math.radians(degrees)
    return start[0] + reach * math.cos(turn), start[1] + reach * math.sin(turn)


def star(count: int) -> Ways:
    return [[MIDDLE, from_middle(17 + 360 * k / count, 75)] for k in range(count)]


def crossing(degrees: float) -> Ways:
    half = degrees / 2
    return [[from_middle(side * half, 80), from_middle(180 + side * half, 80)] for side in (1, -1)]


def letter_k(degrees: float) -> Ways:
    waist = (80.0, 100.0)
    return [
        [(80.0, 20.0), (80.0, 180.0)],
        [from_middle(-degrees, 90, waist), waist, from_middle(degrees, 90, waist)],
    ]


def step(widths: float) -> Ways:
    rise = 90 + widths * WIDTH
    return [[(20.0, 90.0), (100.0, 90.0), (100.0, rise), (180.0, rise)]]


def picture(ways: Ways, kind: str) -> tuple[Picture, float]:
    """A pen's picture, and how much larger than life it is."""
    if kind == "thin":
        return pen([[(x / 2, y / 2) for x, y in way] for way in ways], width=WIDTH / 2, size=100), 0.5
    drawn = pen(ways, width=WIDTH)
    if kind == "wide":
        return drawn, 1.0
    half = cv2.resize(drawn.rgb, (100, 100), interpolation=cv2.INTER_AREA)
    return Picture(cv2.resize(half, (200, 200), interpolation=cv2.INTER_CUBIC)), 1.0


DRAWN = {
    "star 3": star(3),
    "star 5": star(5),
    "star 6": star(6),
    "cross 35": crossing(35),
    "cross 60": crossing(60),
    "cross 90": crossing(90),
    "K 20": letter_k(20),
    "K 35": letter_k(35),
    "K 60": letter_k(60),
    "low step": step(0.8),
    "step": step(1.1),
    "high step": step(1.8),
}


# Measured: two corners nearer than 1.1 widths become one bend; in thin and soft pictures a few lines at one place are
# known to a quarter of a width.
FURTHEST = {"wide": 0.085, "thin": 0.23, "soft": 0.28}
NEAR_CORNERS = ("low step", "step")


@pytest.mark.parametrize("kind", ["wide", "thin", "soft"])
@pytest.mark.parametrize("name", DRAWN)
def test_lines_are_where_they_were_drawn_also_where_they_meet(name, kind):
    ways = DRAWN[name]
    drawn, scale = picture(ways, kind)
    paths = trace(drawn, TraceSettings(method=Method.CENTRELINE)).drawing.paths
    lines = shapely.MultiLineString([bezier.flatten(path.segments, tolerance=0.01) / scale for path in paths])
    true = shapely.MultiLineString(ways)
    off = shapely.hausdorff_distance(shapely.segmentize(lines, 0.25), shapely.segmentize(true, 0.25))
    assert off < (0.31 if name in NEAR_CORNERS else FURTHEST[kind]) * WIDTH
