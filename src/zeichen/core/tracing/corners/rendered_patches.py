"""What the picture and the drawing show around single places: small patches instead of whole pictures."""

import math
from typing import NamedTuple

import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.raster.coverage import add_edge
from zeichen.core.values import AnyArray, FloatArray


class BandedEdges(NamedTuple):
    """A drawing's edges, (n, 4) of x0, y0, x1, y1, px, by the bands of rows they pass in a picture of some size.

    numbers: of the edges, band after band; starts: where each band's start. band: height of one, px.
    """

    edges: FloatArray
    numbers: AnyArray
    starts: AnyArray
    band: float
    height: int
    width: int


@counted(cache=True)
def sort_into_bands(edges: FloatArray, band: float, height: int, width: int) -> BandedEdges:
    """Return edges by bands of a picture; what lies above the first or below the last is left out."""
    bands = math.ceil(height / band)
    starts = np.zeros(bands + 1, np.int64)
    for k in range(len(edges)):
        low, high = _bands_of(edges, k, band, bands)
        for b in range(low, high + 1):
            starts[b + 1] += 1
    for b in range(bands):
        starts[b + 1] += starts[b]
    numbers = np.empty(starts[bands], np.int64)
    filled = starts[:bands].copy()
    for k in range(len(edges)):
        low, high = _bands_of(edges, k, band, bands)
        for b in range(low, high + 1):
            numbers[filled[b]] = k
            filled[b] += 1
    return BandedEdges(edges, numbers, starts, band, height, width)


@uncounted
def _bands_of(edges: FloatArray, k: int, band: float, bands: int) -> tuple[int, int]:
    low, high = min(edges[k, 1], edges[k, 3]), max(edges[k, 1], edges[k, 3])
    return max(0, math.floor(low / band)), min(bands - 1, math.floor(high / band))


@counted(cache=True)
def drawn_around(drawn: BandedEdges, row: int, column: int, half: int, kernel: FloatArray) -> FloatArray:
    """Return how much of each pixel of a square a drawing covers, blurred; the rim repeated beyond the picture.

    Parameters
    ----------
    drawn : BandedEdges
    row, column : int
        The middle pixel, inside the picture.
    half : int
        The square has 2 half + 1 pixels on either side.
    kernel : (odd,) array
        Taps of the blur.

    Returns
    -------
    (2 half + 1, 2 half + 1) array
    """
    edges, numbers, starts, band, height, width = drawn
    wide = len(kernel) // 2
    size = 2 * (half + wide) + 1
    top, left = row - half - wide, column - half - wide
    acc = np.zeros((size, size + 1))
    first = max(0, math.floor(top / band))
    last = min(len(starts) - 2, math.floor((top + size) / band))
    for b in range(first, last + 1):
        for at in range(starts[b], starts[b + 1]):
            k = numbers[at]
            low = min(edges[k, 1], edges[k, 3])
            # An edge in several bands counts in the first of them that the square reaches.
            if max(first, math.floor(low / band)) != b or low >= top + size:
                continue
            add_edge(acc, edges[k, 0] - left, edges[k, 1] - top, edges[k, 2] - left, edges[k, 3] - top)
    for r in range(size):
        total = 0.0
        for c in range(size):
            total += acc[r, c]
            acc[r, c] = total
    repeat_rim(acc, size, top, left, height, width)
    inner = 2 * half + 1
    across = np.empty((size, inner))
    for r in range(size):
        for c in range(inner):
            value = 0.0
            for k in range(len(kernel)):
                value += kernel[k] * acc[r, c + k]
            across[r, c] = value
    out = np.empty((inner, inner))
    for r in range(inner):
        for c in range(inner):
            value = 0.0
            for k in range(len(kernel)):
                value += kernel[k] * across[r + k, c]
            out[r, c] = value
    return out


@uncounted
def repeat_rim(patch: FloatArray, size: int, top: int, left: int, height: int, width: int) -> None:
    """Give the pixels of a patch (size, size) that lie beyond the picture the value of the nearest one inside."""
    if top >= 0 and left >= 0 and top + size <= height and left + size <= width:
        return
    for r in range(size):
        inner_r = min(max(r, -top), height - 1 - top)
        for c in range(size):
            inner_c = min(max(c, -left), width - 1 - left)
            if inner_r != r or inner_c != c:
                patch[r, c] = patch[inner_r, inner_c]
