"""Lengths, colours, transforms and frames as SVG writes them.

Sources: CSS Values 4, sections 5.2 and 6.1 (lengths); CSS Color 4 through tinycss2; CSS Transforms 1, section 8
(transform functions); SVG 2, section 8.6 (viewBox) and 8.7 (preserveAspectRatio).
"""

import math
import re
from functools import lru_cache

import numpy as np
from tinycss2.color4 import parse_color

from zeichen.core.values import FloatArray

# An affine map as (2, 3): the linear part and what is added.
Matrix = FloatArray
IDENTITY: Matrix = np.array([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0]])
_NUMBER = r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?"
NUMBERS = re.compile(_NUMBER)
_LENGTH = re.compile(rf"\s*({_NUMBER})\s*(%|[a-zA-Z]*)\s*")
_FUNCTION = re.compile(r"\s*,?\s*([a-zA-Z]+)\s*\(([^()]*)\)")
_PX = {
    "": 1.0,
    "px": 1.0,
    "pt": 96 / 72,
    "pc": 16.0,
    "mm": 96 / 25.4,
    "cm": 96 / 2.54,
    "in": 96.0,
    "q": 24 / 25.4,
}
# Of fonts that nobody knows: what CSS says to assume (CSS Values 4, 6.1.1).
_OF_FONT = {"em": 1.0, "ex": 0.5, "ch": 0.5}
_ROOT_FONT_PX = 16.0
_ALIGNED = re.compile(r"\s*(?:defer\s+)?(none|x(Min|Mid|Max)Y(Min|Mid|Max))\s*(meet|slice)?\s*")
_PLACE = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}


def length_px(text: str | None, *, font_px: float, whole: float = 0.0, default: float = math.nan) -> float:
    """Return a length in user units; the default if there is none or it is not one.

    Parameters
    ----------
    font_px : float
        Size of the font, for em and ex.
    whole : float
        What 100 % stand for.
    """
    found = _LENGTH.fullmatch(text) if text else None
    if found is None:
        return default
    value, unit = float(found[1]), found[2].lower()
    if unit == "%":
        return value * whole / 100.0
    if unit == "rem":
        return value * _ROOT_FONT_PX
    if unit in _OF_FONT:
        return value * _OF_FONT[unit] * font_px
    return value * _PX[unit] if unit in _PX else default


def number_or(text: str | None, default: float) -> float:
    """Return a number or a percentage as a share; the default if it is neither."""
    found = _LENGTH.fullmatch(text) if text else None
    if found is None or found[2] not in ("", "%"):
        return default
    return float(found[1]) / (100.0 if found[2] else 1.0)


@lru_cache(maxsize=4096)
def colour_of(text: str) -> tuple[float, float, float, float] | str | None:
    """Return red, green, blue and alpha as shares of 1; "currentcolor"; None if the text is no colour.

    Examples
    --------
    >>> colour_of("#f00"), colour_of("nonsense")
    ((1.0, 0.0, 0.0, 1.0), None)
    """
    parsed = parse_color(text)
    if parsed is None or isinstance(parsed, str):
        return parsed
    try:
        red, green, blue = (
            min(1.0, max(0.0, float(value or 0.0))) for value in parsed.to("srgb").coordinates
        )
    except (NotImplementedError, ValueError, ZeroDivisionError):
        return None
    alpha = 1.0 if parsed.alpha is None else min(1.0, max(0.0, float(parsed.alpha)))
    return red, green, blue, alpha


def moved(matrix: Matrix, points: FloatArray) -> FloatArray:
    """Return points (n, 2) under a map."""
    return np.asarray(points @ matrix[:, :2].T + matrix[:, 2])


def after(outer: Matrix, inner: Matrix) -> Matrix:
    """Return the map that does the inner one first, then the outer."""
    return np.column_stack([outer[:, :2] @ inner[:, :2], outer[:, :2] @ inner[:, 2] + outer[:, 2]])


def inverse(matrix: Matrix) -> Matrix | None:
    """Return the map that undoes another, or None if nothing can."""
    (a, c, e), (b, d, f) = matrix.tolist()
    determinant = a * d - b * c
    if not math.isfinite(determinant) or abs(determinant) < 1e-30:
        return None
    a, b, c, d = d / determinant, -b / determinant, -c / determinant, a / determinant
    return np.array([[a, c, -a * e - c * f], [b, d, -b * e - d * f]])


def translation(x: float, y: float) -> Matrix:
    """Return a map that moves."""
    return np.array([[1.0, 0.0, x], [0.0, 1.0, y]])


def scaling(x: float, y: float) -> Matrix:
    """Return a map that scales."""
    return np.array([[x, 0.0, 0.0], [0.0, y, 0.0]])


def scaled_from(x: float, y: float, width: float, height: float) -> Matrix:
    """Return the map of the unit square to a box."""
    return np.array([[width, 0.0, x], [0.0, height, y]])


def rotation(angle: float) -> Matrix:
    """Return a map that turns by radians, from x towards y."""
    c, s = math.cos(angle), math.sin(angle)
    return np.array([[c, -s, 0.0], [s, c, 0.0]])


def transform_of(text: str | None) -> Matrix:
    """Return the map of a transform attribute; what cannot be read as one changes nothing."""
    out = IDENTITY
    if not text or text.strip() == "none":
        return out
    at = 0
    while found := _FUNCTION.match(text, at):
        numbers = [float(each) for each in NUMBERS.findall(found[2])]
        step = _function(found[1], numbers)
        if step is None:
            return IDENTITY
        out = after(out, step)
        at = found.end()
    return IDENTITY if text[at:].strip(" \t\r\n,") else out


def _function(name: str, numbers: list[float]) -> Matrix | None:
    count = len(numbers)
    if name == "matrix" and count == 6:
        a, b, c, d, e, f = numbers
        return np.array([[a, c, e], [b, d, f]])
    if name == "translate" and count in (1, 2):
        return translation(numbers[0], numbers[1] if count == 2 else 0.0)
    if name == "scale" and count in (1, 2):
        return scaling(numbers[0], numbers[-1])
    if name == "rotate" and count in (1, 3):
        turn = rotation(math.radians(numbers[0]))
        if count == 1:
            return turn
        x, y = numbers[1:]
        return after(after(translation(x, y), turn), translation(-x, -y))
    if name == "skewX" and count == 1:
        return np.array([[1.0, math.tan(math.radians(numbers[0])), 0.0], [0.0, 1.0, 0.0]])
    if name == "skewY" and count == 1:
        return np.array([[1.0, 0.0, 0.0], [math.tan(math.radians(numbers[0])), 1.0, 0.0]])
    return None


def view_box(text: str | None) -> tuple[float, float, float, float] | None:
    """Return x, y, width and height of a viewBox; None if there is none of some size."""
    numbers = [float(each) for each in NUMBERS.findall(text or "")]
    if len(numbers) != 4 or not (0 < numbers[2] < math.inf and 0 < numbers[3] < math.inf):
        return None
    return numbers[0], numbers[1], numbers[2], numbers[3]


def frame_map(
    box: tuple[float, float, float, float] | None, width: float, height: float, aspect: str | None
) -> Matrix:
    """Return the map from a viewBox to a frame of some size at (0, 0), as preserveAspectRatio asks."""
    if box is None:
        return IDENTITY
    x, y, box_width, box_height = box
    across, down = width / box_width, height / box_height
    found = _ALIGNED.fullmatch(aspect or "")
    if found is None or found[1] != "none":
        scale = max(across, down) if found is not None and found[4] == "slice" else min(across, down)
        place = (_PLACE[found[2]], _PLACE[found[3]]) if found is not None else (0.5, 0.5)
        left = (width - box_width * scale) * place[0]
        top = (height - box_height * scale) * place[1]
        return np.array([[scale, 0.0, left - x * scale], [0.0, scale, top - y * scale]])
    return np.array([[across, 0.0, -x * across], [0.0, down, -y * down]])
