"""What a picture shows beside a border: how much of each pixel holds the colour on its right."""

from collections.abc import Callable

import numpy as np

from zeichen.core.tracing.edges.subpixel_edges import Edges
from zeichen.core.values import FloatArray

# The share of the right-hand colour in the square of pixels around a row and a column, half a size either way.
Seen = Callable[[int, int, int], FloatArray]


def seen_along(edges: Edges, colours: list[tuple[int, int]], middles: list[FloatArray]) -> Seen:
    """Return what shows the share of the right-hand colour around a place on a run of borders.

    Parameters
    ----------
    edges : Edges
        The picture, its labels and its colours.
    colours : list of (right, left)
        The colours beside each of the borders.
    middles : list of (n, 2) float arrays, px
        Points along each of them: the nearest border's colours count.
    """
    if len(set(colours)) == 1:
        return _two_colours(edges, *colours[0])
    views = [_two_colours(edges, *pair) for pair in colours]

    def seen(row: int, column: int, half: int) -> FloatArray:
        place = np.array([column + 0.5, row + 0.5])
        nearest = min(range(len(middles)), key=lambda k: float(np.abs(middles[k] - place).sum(axis=1).min()))
        return views[nearest](row, column, half)

    return seen


def _two_colours(edges: Edges, right: int, left: int) -> Seen:
    """Return what shows the share of the right-hand colour around a place."""
    height, width = edges.labels.shape
    base = edges.palette[left]
    towards = edges.palette[right] - base
    square = max(float(towards @ towards), 1e-9)

    def seen(row: int, column: int, half: int) -> FloatArray:
        rows = np.clip(np.arange(row - half, row + half + 1), 0, height - 1)
        columns = np.clip(np.arange(column - half, column + half + 1), 0, width - 1)
        grid = np.ix_(rows, columns)
        labels = edges.labels[grid]
        share = (edges.picture[grid] - base) @ towards / square
        return np.where((labels == right) | (labels == left), np.clip(share, 0.0, 1.0), np.nan)

    return seen
