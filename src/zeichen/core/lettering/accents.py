"""Accents for the single-stroke letters, which have none: drawn here, in their units, and set on their letters.

Which letter is made of which is Unicode's (canonical decomposition, UAX 15).
"""

import unicodedata
from typing import Any

import numpy as np

from zeichen.core.values import FloatArray

Stroke = list[list[float]]
# Room between a letter and what stands above it, in the letters' units (a capital is 21 high): our own rule.
_ROOM = 3.0
# y down; above: (0, 0) is the middle of the mark's lower edge; below: of its upper edge.
_DOT: Stroke = [[-1, -1], [0, 0], [1, -1], [0, -2], [-1, -1]]


def _beside(stroke: Stroke, away: float) -> list[Stroke]:
    return [[[x + side * away, y] for x, y in stroke] for side in (-1, 1)]


_ABOVE: dict[str, list[Stroke]] = {
    "\u0300": [[[-3, -4], [1, 0]]],
    "\u0301": [[[3, -4], [-1, 0]]],
    "\u0302": [[[-4, 0], [0, -4], [4, 0]]],
    "\u0303": [[[-5, -1], [-4, -3], [-2, -4], [2, -1], [4, -1], [5, -3]]],
    "\u0304": [[[-5, -1], [5, -1]]],
    "\u0306": [[[-4, -4], [-3, -1], [0, 0], [3, -1], [4, -4]]],
    "\u0307": [_DOT],
    "\u0308": _beside(_DOT, 4.0),
    "\u030a": [[[-2, -2], [-1, 0], [1, 0], [2, -2], [1, -4], [-1, -4], [-2, -2]]],
    "\u030b": [[[0, -4], [-3, 0]], [[5, -4], [2, 0]]],
    "\u030c": [[[-4, -4], [0, 0], [4, -4]]],
}
_BELOW: dict[str, list[Stroke]] = {
    "\u0326": [[[1, 2], [-1, 6]]],
    "\u0327": [[[0, 0], [0, 2], [2, 3], [2, 5], [0, 6], [-2, 5]]],
    "\u0328": [[[2, 0], [0, 3], [1, 6], [4, 5]]],
}
# Letters that Unicode does not take apart: the one they are made of, and what is drawn across it in shares of its box.
_ACROSS: dict[str, tuple[str, Stroke]] = {
    "ø": ("o", [[0.0, 1.05], [1.0, -0.05]]),
    "Ø": ("O", [[0.0, 1.05], [1.0, -0.05]]),
    "ł": ("l", [[-2.0, 0.6], [2.0, 0.4]]),
    "Ł": ("L", [[-0.25, 0.6], [0.45, 0.4]]),
    "đ": ("d", [[0.5, 0.2], [1.3, 0.2]]),
    "Đ": ("D", [[-0.2, 0.5], [0.4, 0.5]]),
}
_SHARP_S: dict[str, Any] = {
    "left": -9, "width": 19, "base": 9,
    "strokes": [
        [[-5, 9], [-5, -7], [-4, -10], [-2, -12], [1, -12], [4, -10], [4, -7], [2, -4], [0, -3], [3, -2], [6, 1],
         [6, 5], [4, 8], [1, 9], [-1, 8]],
    ],
}  # fmt: skip


def accented(letter: str, letters: dict[str, Any]) -> dict[str, Any] | None:
    """Return a letter with its accents as the letters are given: left edge, width, baseline, strokes; None if unknown.

    Examples
    --------
    >>> letters = {"a": {"left": -9, "width": 18, "base": 9, "strokes": [[[-4, -5], [4, 9]]]}}
    >>> len(accented("ä", letters)["strokes"]), accented("ж", letters)
    (3, None)
    """
    if letter == "ß":
        return _SHARP_S
    if letter in _ACROSS:
        base, line = _ACROSS[letter]
        if base not in letters:
            return None
        low, high = _box(letters[base]["strokes"])
        return _with(letters[base], [(low + np.array(line) * (high - low)).tolist()])
    parts = list(unicodedata.normalize("NFD", letter))
    base, marks = parts[0], parts[1:]
    if base not in letters or not marks or not all(mark in _ABOVE or mark in _BELOW for mark in marks):
        return None
    out: dict[str, Any] = letters[base]
    if base in "ij" and any(mark in _ABOVE for mark in marks):
        # The accent takes the place of the dot.
        dotless = [stroke for stroke in out["strokes"] if min(y for _, y in stroke) > -10]
        out = {**out, "strokes": dotless}
    for mark in marks:
        low, high = _box(out["strokes"])
        middle = (low[0] + high[0]) / 2.0
        place = [middle, low[1] - _ROOM] if mark in _ABOVE else [middle, float(out["base"])]
        strokes = _ABOVE.get(mark) or _BELOW[mark]
        out = _with(out, [(np.array(stroke) + place).tolist() for stroke in strokes])
    return out


def _box(strokes: list[Stroke]) -> tuple[FloatArray, FloatArray]:
    points = np.concatenate([np.array(stroke, dtype=np.float64) for stroke in strokes])
    return points.min(axis=0), points.max(axis=0)


def _with(letter: dict[str, Any], strokes: list[Stroke]) -> dict[str, Any]:
    return {**letter, "strokes": [*letter["strokes"], *strokes]}
