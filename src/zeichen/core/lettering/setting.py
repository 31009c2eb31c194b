"""Setting letters: straight, along an arch or a circle, bulged or in waves, at a true size."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import partial

import numpy as np

from zeichen.core.fitting.simplify import simplified_path
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.overlay import Region, united
from zeichen.core.lettering.fonts import font_named
from zeichen.core.lettering.shaping import PlacedGlyph, shaped
from zeichen.core.values import FloatArray, require_number, require_palette

# From one baseline to the next, in cap heights.
_LINE = 1.7
_MOST_LETTERS = 400
# A full circle of letters leaves this share of itself open between its end and its start.
_CIRCLE_GAP = 0.06
# Bent letters are cut into pieces and these put together again within this share of a cap height.
_HALVINGS = 2
_OFF = 0.002


class Bend(StrEnum):
    """How a line of letters runs."""

    STRAIGHT = "straight"
    ARCH = "arch"
    CIRCLE = "circle"
    BULGE = "bulge"
    WAVE = "wave"


@dataclass(frozen=True, slots=True)
class LetterOrder:
    """What to set and how.

    cap_height_mm: of the capitals. bend_by: of an arch the angle it spans in degrees (below 0 it hangs), of a
    bulge or a wave how much of a cap height it rises. tracking: added between letters, in cap heights.
    stroke_mm: pen width of single strokes.
    """

    text: str
    font: str
    cap_height_mm: float
    bend: Bend = Bend.STRAIGHT
    bend_by: float = 0.0
    tracking: float = 0.0
    fill: str = "#24272b"
    stroke_mm: float = 0.3

    def __post_init__(self) -> None:
        require_number(self.cap_height_mm, "Cap height", least=0.5, most=2000, unit="mm")
        require_number(self.tracking, "Tracking", least=-0.5, most=5)
        require_number(self.stroke_mm, "Pen width", least=0.01, most=50, unit="mm")
        require_palette([self.fill], most=1)
        if self.bend is Bend.ARCH:
            require_number(abs(self.bend_by), "Arch", above=0, most=350, unit="degrees")
        else:
            require_number(self.bend_by, "Bend", least=-3, most=3)
        require_number(len(self.text), "Number of letters", least=0, most=_MOST_LETTERS)


def lettered(order: LetterOrder, *, name: str = "letters") -> Drawing:
    """Return the letters as one shape, mm, in a frame that just holds them.

    Raises
    ------
    InvalidInputError
        If the text is empty, the font unknown or without a letter, or a size impossible.
    """
    font = font_named(order.font)
    placed: list[Path] = []
    for number, line in enumerate(order.text.strip("\n").split("\n")):
        glyphs = shaped(line, font, tracking=order.tracking)
        placed.extend(_set(glyphs, order, number * _LINE))
    paths = tuple(path.moved(lambda points: points * order.cap_height_mm) for path in placed)
    if not font.strokes:
        # Letters that touch, as script does, are one outline; holes run the other way and stay.
        paths = united([Region(paths, "nonzero")])
    stroke = order.stroke_mm if font.strokes else None
    shape = Shape(name, paths, order.fill.lower(), "nonzero", stroke)
    x0, y0, x1, y1 = shape.bounds()
    pad = order.stroke_mm / 2 if font.strokes else 0.0
    shift = np.array([x0 - pad, y0 - pad])
    moved = replace(shape, paths=tuple(path.moved(lambda points: points - shift) for path in shape.paths))
    return Drawing(max(x1 - x0 + 2 * pad, 1e-6), max(y1 - y0 + 2 * pad, 1e-6), (moved,))


def _set(glyphs: list[PlacedGlyph], order: LetterOrder, down: float) -> list[Path]:
    width = max(glyph.x + glyph.advance for glyph in glyphs)
    out: list[Path] = []
    for glyph in glyphs:
        middle = glyph.x + glyph.advance / 2 - width / 2
        for path in glyph.paths:
            start = np.array([glyph.x - width / 2, down])
            if order.bend in (Bend.ARCH, Bend.CIRCLE):
                out.append(path.moved(_around(order, glyph, middle, width, down)))
            elif order.bend is Bend.STRAIGHT or order.bend_by == 0:
                out.append(path.moved(partial(np.add, start)))
            else:
                segments = _in_pieces(path.segments)
                at = segments.reshape(-1, 2) + start
                warped = Path(_warped(at, order, width, down).reshape(-1, 4, 2), path.closed)
                out.append(simplified_path(warped, tolerance=_OFF))
    return out


def _around(
    order: LetterOrder, glyph: PlacedGlyph, middle: float, width: float, down: float
) -> Callable[[FloatArray], FloatArray]:
    """Return what turns a letter onto its place on the arc: rigid, so that letters keep their shape."""
    span = math.radians(order.bend_by) if order.bend is Bend.ARCH else 2 * math.pi * (1 - _CIRCLE_GAP)
    radius = width / abs(span)
    side = 1.0 if span > 0 else -1.0
    angle = side * middle / radius
    turn = np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
    origin = np.array([glyph.advance / 2, 0.0])
    reach = radius - side * down
    place = np.array([side * reach * math.sin(angle), side * (radius - reach * math.cos(angle))])

    def change(points: FloatArray) -> FloatArray:
        return np.asarray((points - origin) @ turn + place)

    return change


def _in_pieces(segments: FloatArray) -> FloatArray:
    for _ in range(_HALVINGS):
        for k in range(len(segments) - 1, -1, -1):
            segments = bezier.split(segments, k, 0.5)
    return segments


def _warped(points: FloatArray, order: LetterOrder, width: float, down: float) -> FloatArray:
    share = 2.0 * points[:, 0] / max(width, 1e-9)
    out = points.copy()
    if order.bend is Bend.BULGE:
        # Stretched about the middle of the capitals, most in the middle of the line.
        middle = down - 0.5
        out[:, 1] = middle + (points[:, 1] - middle) * (
            1.0 + order.bend_by * np.clip(1.0 - share**2, 0.0, None)
        )
    else:
        out[:, 1] -= order.bend_by * np.sin(math.pi * share)
    return out
