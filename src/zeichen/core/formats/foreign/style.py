"""Computed style: what elements inherit, in numbers and colours.

Sources: SVG 2, chapters 13 (painting) and 14 (paint servers); CSS Cascade 4, section 7 (inherit, initial, unset).
"""

import math
import re
from dataclasses import dataclass

from zeichen.core.formats.foreign.cascade import Declarations
from zeichen.core.formats.foreign.values import NUMBERS, colour_of, length_px, number_or
from zeichen.core.geometry.offsetting import Nib

Rgba = tuple[float, float, float, float]
BLACK: Rgba = (0.0, 0.0, 0.0, 1.0)
_INHERITED = frozenset(
    (
        "clip-rule", "color", "fill", "fill-opacity", "fill-rule", "font-size", "marker-end", "marker-mid",
        "marker-start", "paint-order", "stroke", "stroke-dasharray", "stroke-dashoffset", "stroke-linecap",
        "stroke-linejoin", "stroke-miterlimit", "stroke-opacity", "stroke-width", "visibility",
    )
)  # fmt: skip
_FONT_PX = 16.0
# CSS Fonts 4, section 2.5.1: absolute sizes as shares of the usual one.
_FONT_SIZES = {
    "xx-small": 0.6, "x-small": 0.75, "small": 8 / 9, "medium": 1.0, "large": 1.2, "x-large": 1.5, "xx-large": 2.0,
}  # fmt: skip
_JOINS = {"miter": "mitre", "round": "round", "bevel": "bevel", "miter-clip": "mitre", "arcs": "mitre"}
_URL = re.compile(r"\s*url\(\s*(['\"]?)\s*#(.*?)\s*\1\s*\)\s*(.*)", re.DOTALL)


@dataclass(frozen=True, slots=True)
class Server:
    """A paint that another element serves: a gradient or a pattern, and the colour to take if there is none."""

    id: str
    fallback: Rgba | None


@dataclass(frozen=True, slots=True)
class Stroke:
    """How lines are drawn, in user units. dashes: lengths of ink and gap, taken in turn; none for a whole line."""

    width: float
    nib: Nib
    dashes: tuple[float, ...]
    offset: float


class Style:
    """The properties of one element, inherited ones included."""

    __slots__ = ("_own", "_values", "font_px")

    def __init__(self, values: Declarations, own: Declarations, font_px: float) -> None:
        self._values, self._own, self.font_px = values, own, font_px

    @classmethod
    def of_root(cls) -> "Style":
        """Return the style nothing is declared in."""
        return cls({}, {}, _FONT_PX)

    def within(self, own: Declarations) -> "Style":
        """Return the style of a child for which some declarations hold."""
        if not own:
            return self if not self._own else Style(self._values, {}, self.font_px)
        values, mine = dict(self._values), {}
        for key, value in own.items():
            word = value.lower()
            if word == "inherit":
                if key not in _INHERITED and key in self._own:
                    mine[key] = self._own[key]
            elif word in ("initial", "unset"):
                if key in _INHERITED and word == "initial":
                    values.pop(key, None)
            elif key in _INHERITED:
                if _holds(key, value):
                    values[key] = value
            else:
                mine[key] = value
        font_px = self.font_px
        if "font-size" in own:
            font_px = _font_px(own["font-size"], font_px)
        return Style(values, mine, font_px)

    @property
    def drawn(self) -> bool:
        """Whether the element, and what is in it, is drawn at all."""
        return self._own.get("display") != "none"

    @property
    def visible(self) -> bool:
        """Whether the element itself shows."""
        return self._values.get("visibility", "visible") not in ("hidden", "collapse")

    @property
    def opacity(self) -> float:
        """Of the element as a whole."""
        return _share(self._own.get("opacity"))

    @property
    def clipped_overflow(self) -> bool:
        """Whether what reaches out of the element's frame is cut off."""
        return self._own.get("overflow", "hidden") not in ("visible", "auto")

    @property
    def blended(self) -> bool:
        """Whether it is mixed with what lies below in another way than laid over it."""
        return self._own.get("mix-blend-mode", "normal") != "normal"

    @property
    def line_first(self) -> bool:
        """Whether the line lies below the area."""
        order = self._values.get("paint-order", "normal").split()
        return "stroke" in order and ("fill" not in order or order.index("stroke") < order.index("fill"))

    def link(self, key: str) -> str:
        """Return the id that a property refers to, or ""."""
        found = _URL.match(self._own.get(key, "none"))
        return found[2] if found else ""

    def marker(self, key: str) -> str:
        """Return the id of a marker: of marker-start, marker-mid or marker-end."""
        found = _URL.match(self._values.get(key, "none"))
        return found[2] if found else ""

    def word(self, key: str, default: str) -> str:
        """Return what an inherited property says."""
        return self._values.get(key, default)

    def rule(self, key: str) -> str:
        """Return a fill rule: of fill-rule or clip-rule."""
        return "evenodd" if self._values.get(key) == "evenodd" else "nonzero"

    def paint(self, key: str) -> Rgba | Server | None:
        """Return what fill or stroke paint with, its opacity in it; None if nothing."""
        text = self._values.get(key, "black" if key == "fill" else "none")
        opacity = _share(self._values.get(f"{key}-opacity"))
        found = _URL.match(text)
        if found:
            fallback = self._colour(found[3].strip() or "none")
            return Server(found[2], None if fallback is None else _faded(fallback, opacity))
        colour = self._colour(text)
        return None if colour is None else _faded(colour, opacity)

    def share(self, key: str) -> float:
        """Return an opacity by its name."""
        return _share(self._values.get(key))

    def stop(self) -> Rgba:
        """Return the colour of a gradient's stop."""
        colour = self._colour(self._own.get("stop-color", "black")) or BLACK
        return _faded(colour, _share(self._own.get("stop-opacity")))

    def stroke(self, view: tuple[float, float]) -> Stroke:
        """Return how lines are drawn.

        Parameters
        ----------
        view : (width, height)
            Of the nearest frame, for percentages.
        """
        diagonal = math.hypot(*view) / math.sqrt(2.0)

        def size(text: str | None, default: float) -> float:
            return length_px(text, font_px=self.font_px, whole=diagonal, default=default)

        values = self._values
        cap = values.get("stroke-linecap", "butt")
        limit = number_or(values.get("stroke-miterlimit"), 4.0)
        nib = Nib(
            cap if cap in ("butt", "round", "square") else "butt",
            _JOINS.get(values.get("stroke-linejoin", "miter"), "mitre"),
            limit if limit >= 1 else 1.0,
        )
        dashes = [
            size(each, math.nan)
            for each in re.split(r"[\s,]+", values.get("stroke-dasharray", "none").strip())
        ]
        usable = all(each >= 0 for each in dashes) and sum(dashes) > 0
        pattern = tuple(dashes) * (2 if len(dashes) % 2 else 1) if usable else ()
        return Stroke(
            max(0.0, size(values.get("stroke-width"), 1.0)),
            nib,
            pattern,
            size(values.get("stroke-dashoffset"), 0.0),
        )

    def _colour(self, text: str) -> Rgba | None:
        """Return a colour; None for "none" and for what is none."""
        word = text.strip().split(" icc-color")[0]
        if word.lower() == "currentcolor":
            found = colour_of(self._values.get("color", "black"))
            return found if isinstance(found, tuple) else BLACK
        found = colour_of(word)
        return found if isinstance(found, tuple) else None


def _holds(key: str, value: str) -> bool:
    """Return whether a paint is one; what is none leaves what was inherited."""
    if key not in ("fill", "stroke"):
        return True
    word = value.strip().split(" icc-color")[0]
    if word.lower() in ("none", "currentcolor", "context-fill", "context-stroke") or _URL.match(value):
        return True
    return colour_of(word) is not None


def _share(text: str | None) -> float:
    return min(1.0, max(0.0, number_or(text, 1.0)))


def _faded(colour: Rgba, share: float) -> Rgba:
    return colour[0], colour[1], colour[2], colour[3] * share


def _font_px(text: str, parent_px: float) -> float:
    word = text.strip().lower()
    if word in _FONT_SIZES:
        return _FONT_PX * _FONT_SIZES[word]
    if word in ("larger", "smaller"):
        return parent_px * (1.2 if word == "larger" else 1 / 1.2)
    if not NUMBERS.match(word):
        return parent_px
    size = length_px(text, font_px=parent_px, whole=parent_px, default=parent_px)
    return size if size > 0 else parent_px
