"""What a round pen that goes along a polyline leaves on the sheet, against the ink that is there."""

import math

import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.values import FloatArray


@counted(cache=True)
def mismatch(
    ink: FloatArray, way: FloatArray, width: float, low: FloatArray, high: FloatArray, every: int
) -> float:
    """Return the sum of squared differences between a pen's ink and the picture's, px².

    Parameters
    ----------
    ink : (height, width) float array
        How much ink each pixel holds.
    way : (n, 2) float array, px
        The pen's way, n at least 2.
    width : float, px
        The pen's.
    low, high : (2,) float arrays, px
        The window that is looked at.
    every : int
        Only every so manieth row and column is.
    """
    first_column, last_column = max(0, math.floor(low[0])), min(ink.shape[1], math.ceil(high[0]))
    first_row, last_row = max(0, math.floor(low[1])), min(ink.shape[0], math.ceil(high[1]))
    total = 0.0
    for row in range(first_row, last_row, every):
        for column in range(first_column, last_column, every):
            off = _from_way(way, column + 0.5, row + 0.5)
            pen = min(1.0, max(0.0, 0.5 + 0.5 * width - off))
            short = ink[row, column] - pen
            total += short * short
    return total * every * every


@uncounted
def _from_way(way: FloatArray, x: float, y: float) -> float:
    """Return how far a place is from a polyline."""
    least = np.inf
    for k in range(len(way) - 1):
        dx, dy = way[k + 1, 0] - way[k, 0], way[k + 1, 1] - way[k, 1]
        px, py = x - way[k, 0], y - way[k, 1]
        square = dx * dx + dy * dy
        t = min(1.0, max(0.0, (px * dx + py * dy) / square)) if square > 0.0 else 0.0
        px, py = px - t * dx, py - t * dy
        least = min(least, px * px + py * py)
    return math.sqrt(least)
