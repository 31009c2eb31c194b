"""Uneven light evened out: a photo or scan with a shadow side gets the same paper everywhere.

What is seen is light times what the sheet reflects. Paper reflects the same everywhere, so the light is
read off the paper and divided out; ink then has the same grey everywhere, too.
"""

import cv2
import numpy as np

from zeichen.core.raster.levels import otsu_level
from zeichen.core.values import BoolArray, Bytes8Array, FloatArray

# The light is looked at in a grid of this many cells along the longer side.
_CELLS = 48
_DEGREE = 4
_ROUNDS = 4
# Paper is what reflects more than this share of the light around it.
_PAPER_SHARE = 0.8
_PAPER_GREY = 245.0


def even_light(grey: Bytes8Array) -> Bytes8Array:
    """Return the grey picture as if lit evenly, the paper near white.

    The light is taken to change smoothly: a polynomial of the fourth degree over the sheet, fitted to
    the brightest tenth of each cell that is not ink. Ground and figure keep their order.

    Parameters
    ----------
    grey : (height, width) uint8 array, dark figure on light ground

    Raises
    ------
    InvalidInputError
        If the picture has one tone only.
    """
    height, width = grey.shape
    otsu_level(grey)
    cell = max(4, max(height, width) // _CELLS)
    rows, columns = max(1, height // cell), max(1, width // cell)
    shrunk = cv2.resize(grey, (columns * cell, rows * cell), interpolation=cv2.INTER_AREA)
    blocks = shrunk.reshape(rows, cell, columns, cell).transpose(0, 2, 1, 3).reshape(rows, columns, -1)
    bright = np.percentile(blocks, 90, axis=2)
    y, x = ((np.arange(count) + 0.5) / count * 2.0 - 1.0 for count in (rows, columns))
    terms = _terms(*np.meshgrid(x, y)).reshape(rows * columns, -1)
    seen = bright.ravel()
    paper: BoolArray = seen >= np.percentile(seen, 30)
    light = np.full(len(seen), float(np.median(seen)))
    for _ in range(_ROUNDS):
        # A little ridge keeps the corners of the sheet sane where no paper is seen.
        a = terms[paper]
        weight = np.linalg.solve(a.T @ a + 1e-3 * len(a) * np.eye(a.shape[1]), a.T @ seen[paper])
        light = np.maximum(terms @ weight, 8.0)
        paper = seen > _PAPER_SHARE * light
        if paper.sum() < terms.shape[1]:
            return grey
    whole = cv2.resize(
        light.reshape(rows, columns).astype(np.float32), (width, height), interpolation=cv2.INTER_CUBIC
    )
    even = np.clip(grey / np.maximum(whole, 8.0) * _PAPER_GREY + 0.5, 0, 255)
    return np.asarray(even.astype(np.uint8))


def _terms(x: FloatArray, y: FloatArray) -> FloatArray:
    """Return the products of powers of x and y up to the degree, on a last axis."""
    return np.stack([x**a * y**b for a in range(_DEGREE + 1) for b in range(_DEGREE + 1 - a)], axis=-1)
