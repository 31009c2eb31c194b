"""From text to placed glyphs: HarfBuzz chooses and kerns them, their outlines become cubic paths."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import uharfbuzz as hb

from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry.bezier import line_segments
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.overlay import Region, untangled
from zeichen.core.lettering.accents import accented
from zeichen.core.lettering.fonts import Font, cap_height, characters, font_bytes, stroke_letters
from zeichen.core.values import FloatArray

# The capitals of the Hershey letters are this high in their own units: from 12 above to 9 below the middle.
_HERSHEY_CAPITAL = 21.0


@dataclass(frozen=True, slots=True)
class PlacedGlyph:
    """One letter: its paths with the baseline at y = 0 (y down), where its origin is, and how far it reaches.

    All in parts of the font's cap height.
    """

    paths: tuple[Path, ...]
    x: float
    advance: float


def shaped(text: str, font: Font, *, tracking: float = 0.0) -> list[PlacedGlyph]:
    """Return the letters of one line of text.

    Parameters
    ----------
    tracking : float
        Added between letters, in parts of the cap height.

    Raises
    ------
    InvalidInputError
        If the font lacks a letter, or the text is empty.
    """
    if not text.strip():
        raise InvalidInputError("There is nothing to set: the text is empty.")
    return _strokes(text, tracking) if font.strokes else _outlines(text, font, tracking)


def _outlines(text: str, font: Font, tracking: float) -> list[PlacedGlyph]:
    missing = sorted({letter for letter in text if ord(letter) not in characters(font.key) and letter != " "})
    if missing:
        raise InvalidInputError(
            f"{font.title} has no {' '.join(missing)}. Choose another font, or leave it out."
        )
    scale = 1.0 / cap_height(font.key)
    buffer = hb.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    hb.shape(_harfbuzz(font.key), buffer, {"kern": True, "liga": True})
    out: list[PlacedGlyph] = []
    x = 0.0
    for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
        shift = np.array([position.x_offset * scale, -position.y_offset * scale])
        paths = tuple(Path(path.segments * scale + shift) for path in glyph_paths(font.key, info.codepoint))
        advance = position.x_advance * scale
        out.append(PlacedGlyph(paths, x, advance))
        x += advance + tracking
    return out


@lru_cache(maxsize=16)
def _harfbuzz(key: str) -> Any:
    return hb.Font(hb.Face(font_bytes(key)))


@lru_cache(maxsize=4096)
def glyph_paths(key: str, glyph: int) -> tuple[Path, ...]:
    """Return a glyph's outlines in font units, y down, overlaps within it removed."""
    pen = _Pen()
    _harfbuzz(key).draw_glyph_with_pen(glyph, pen)
    runs = [Path(np.array(run)) for run in pen.runs if run]
    if not runs:
        return ()
    return untangled(Region(tuple(runs), "nonzero"))


class _Pen:
    """Collects cubics from the calls of a drawn glyph; fonts have y up."""

    def __init__(self) -> None:
        self.runs: list[list[FloatArray]] = []
        self._at = np.zeros(2)
        self._start = np.zeros(2)

    def moveTo(self, to: tuple[float, float]) -> None:  # noqa: N802
        self._at = self._start = _down(to)
        self.runs.append([])

    def lineTo(self, to: tuple[float, float]) -> None:  # noqa: N802
        end = _down(to)
        if not np.array_equal(end, self._at):
            self.runs[-1].append(line_segments(np.stack([self._at, end]))[0])
        self._at = end

    def curveTo(self, *points: tuple[float, float]) -> None:  # noqa: N802
        c1, c2, end = (_down(point) for point in points)
        self.runs[-1].append(np.stack([self._at, c1, c2, end]))
        self._at = end

    def qCurveTo(self, *points: tuple[float, float]) -> None:  # noqa: N802
        control, end = (_down(point) for point in points)
        third = 2.0 / 3.0
        self.runs[-1].append(
            np.stack([self._at, self._at + third * (control - self._at), end + third * (control - end), end])
        )
        self._at = end

    def closePath(self) -> None:  # noqa: N802
        if not np.array_equal(self._at, self._start):
            self.runs[-1].append(line_segments(np.stack([self._at, self._start]))[0])
        self._at = self._start

    def endPath(self) -> None:  # noqa: N802
        self._at = self._start


def _down(point: tuple[float, float]) -> FloatArray:
    return np.array([float(point[0]), -float(point[1])])


def _strokes(text: str, tracking: float) -> list[PlacedGlyph]:
    letters = stroke_letters()
    scale = 1.0 / _HERSHEY_CAPITAL
    out: list[PlacedGlyph] = []
    x = 0.0
    for letter in text:
        glyph = letters.get(letter) or accented(letter, letters)
        if glyph is None:
            raise InvalidInputError(f"The single-stroke letters have no {letter}. Choose another font.")
        origin = np.array([glyph["left"], glyph["base"]], dtype=np.float64)
        lines = [np.array(stroke, dtype=np.float64) for stroke in glyph["strokes"] if len(stroke) > 1]
        paths = tuple(Path(line_segments((line - origin) * scale), closed=False) for line in lines)
        advance = glyph["width"] * scale
        out.append(PlacedGlyph(paths, x, advance))
        x += advance + tracking
    return out
