"""Where elements stand on the page, and how large a page is."""

import math
from dataclasses import dataclass, replace

import numpy as np

from zeichen.core.formats.foreign.pieces import Box, Piece
from zeichen.core.formats.foreign.style import Style
from zeichen.core.formats.foreign.tree import Element
from zeichen.core.formats.foreign.values import IDENTITY, Matrix, after, length_px

# Copies of copies are followed so far.
DEEPEST_LINKS = 32


@dataclass(frozen=True, slots=True)
class Place:
    """Where an element stands: the map to the page, the nearest frame's size, and through how many links."""

    matrix: Matrix
    view: tuple[float, float]
    links: int = 0

    def within(self, inner: Matrix) -> "Place":
        """Return the place of what stands here under one more map."""
        if inner is IDENTITY:
            return self
        return replace(self, matrix=after(self.matrix, inner))

    def size(self, node: Element, key: str, style: Style, side: int) -> float:
        """Return a length of an element, 0 if it has none; a share is one of the frame's width (side 0) or height."""
        return length_px(node.get(key), font_px=style.font_px, whole=self.view[side], default=0.0)


def page_size(
    root: Element, box: tuple[float, float, float, float] | None, font_px: float
) -> tuple[float | None, float | None]:
    """Return width and height of the page; None for what only its content can tell."""
    sides: list[float | None] = []
    for side, key in enumerate(("width", "height")):
        whole = box[2 + side] if box is not None else math.nan
        size = length_px(root.get(key), font_px=font_px, whole=whole)
        sides.append(size if math.isfinite(size) else None)
    width, height = sides
    if box is not None:
        if width is None and height is None:
            return box[2], box[3]
        if width is None and height is not None:
            width = height * box[2] / box[3]
        elif height is None and width is not None:
            height = width * box[3] / box[2]
    return width, height


def whole_box(pieces: list[Piece]) -> Box:
    """Return the box around pieces; an empty one without any."""
    boxes = np.array([piece.box for piece in pieces if piece.paths])
    if not len(boxes):
        return 0.0, 0.0, 0.0, 0.0
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])
