"""The fonts that ship with Zeichen. All are under the SIL Open Font License 1.1; its text lies beside each.

Single strokes are the Hershey letters (A. V. Hershey, U.S. National Bureau of Standards, 1967), which may be
used freely.
"""

import io
import json
import re
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path as FilePath
from typing import Any

from fontTools.pens.boundsPen import BoundsPen
from fontTools.ttLib import TTFont

from zeichen.core.errors import InvalidInputError

_FOLDER = FilePath(__file__).parent / "files"
SINGLE_STROKE = "single-stroke"


@dataclass(frozen=True, slots=True)
class Font:
    """A font: its name on the command line, what it is called, what it is good for.

    stencil: letters have no islands. strokes: single lines, not outlines.
    """

    key: str
    title: str
    good_for: str
    stencil: bool = False
    strokes: bool = False

    def licence(self) -> str:
        """Return the text of the font's licence."""
        if self.strokes:
            return "Hershey fonts: A. V. Hershey, U.S. National Bureau of Standards, 1967. Free to use."
        return (_FOLDER / f"{self.key}.LICENSE.txt").read_text(encoding="utf-8")

    @property
    def licence_name(self) -> str:
        """What the licence is called."""
        return "Hershey letters, free to use" if self.strokes else "SIL Open Font License 1.1"

    def holder(self) -> str:
        """Return whose font it is, in the licence's words, without addresses.

        Examples
        --------
        >>> font_named("lilita-one").holder()
        'Copyright (c) 2011 Juan Montoreano, with Reserved Font Names "Lilita One"'
        """
        line = self.licence().splitlines()[0].split(". All rights")[0]
        return re.sub(r"\s+(?=[,.])", "", without_addresses(line)).strip()


FONTS = (
    Font("alfa-slab-one", "Alfa Slab One", "heavy slab: signs, carving"),
    Font("bebas-neue", "Bebas Neue", "tall capitals: slogans"),
    Font("bitter", "Bitter", "sturdy book face: labels"),
    Font("caveat-brush", "Caveat Brush", "brush hand: cards, aprons"),
    Font("fredoka", "Fredoka", "round: children's things"),
    Font("josefin-sans", "Josefin Sans", "light and wide: markers"),
    Font("lilita-one", "Lilita One", "fat and friendly: shirts"),
    Font("lobster-two", "Lobster Two", "flowing script: lids, signs"),
    Font("oswald", "Oswald", "narrow: long names"),
    Font("abril-fatface", "Abril Fatface", "fat and thin: posters"),
    Font("saira-stencil-one", "Saira Stencil One", "stencil, plain", stencil=True),
    Font("stardos-stencil", "Stardos Stencil", "stencil, with serifs", stencil=True),
    Font(SINGLE_STROKE, "Single stroke", "one line a stroke: engraving", strokes=True),
)


def without_addresses(text: str) -> str:
    """Return a text with its mail and web addresses left out: none stands on a screen.

    Examples
    --------
    >>> without_addresses("by A (www.a.example a@b.example), see http://c.example/d")
    'by A , see …'
    """
    text = re.sub(r"\((?:[^()]*(?:@|://|www\.)[^()]*)\)", "", text)
    return re.sub(r"\S*(?:@|://|www\.)\S+", "…", text)


def font_named(key: str) -> Font:
    """Return a font by its name.

    Raises
    ------
    InvalidInputError
        If there is none of that name.
    """
    for font in FONTS:
        if key.lower() in (font.key, font.title.lower()):
            return font
    raise InvalidInputError(f"There is no font {key}. Known are: {', '.join(font.key for font in FONTS)}.")


@lru_cache(maxsize=16)
def font_bytes(key: str) -> bytes:
    """Return a font's file, unpacked, as shaping needs it."""
    font = TTFont(_FOLDER / f"{key}.woff")
    font.flavor = None
    out = io.BytesIO()
    font.save(out)
    return out.getvalue()


@lru_cache(maxsize=16)
def cap_height(key: str) -> float:
    """Return how high a font's capitals are, in its own units: the height of its H, whatever it says of itself."""
    font = TTFont(io.BytesIO(font_bytes(key)))
    glyphs = font.getGlyphSet()
    pen = BoundsPen(glyphs)
    glyphs[font.getBestCmap()[ord("H")]].draw(pen)
    low, high = pen.bounds[1], pen.bounds[3]
    return float(high - low)


@lru_cache(maxsize=16)
def characters(key: str) -> frozenset[int]:
    """Return the code points a font has."""
    return frozenset(TTFont(io.BytesIO(font_bytes(key))).getBestCmap())


@lru_cache(maxsize=1)
def stroke_letters() -> dict[str, Any]:
    """Return the single-stroke letters: for each its left edge, width, baseline and strokes, y down."""
    letters: dict[str, Any] = json.loads((_FOLDER / f"{SINGLE_STROKE}.json").read_text(encoding="utf-8"))
    return letters
