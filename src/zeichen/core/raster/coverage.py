"""How much of each pixel closed outlines cover: exact for polygons, by summing signed trapezoids.

Every edge adds, to the pixels it passes, the area to its right and the height it covers; a running
sum along each row then fills what lies beyond. (Well known from font rasterisers; derived here.)
Areas that run clockwise on screen (y down) count positive.
"""

import math

import numpy as np

from zeichen.core.compiled import uncounted
from zeichen.core.values import FloatArray


@uncounted
def add_edge(acc: FloatArray, x0: float, y0: float, x1: float, y1: float) -> None:
    """Add one directed edge to an accumulator (rows, columns + 1), pixel units."""
    rows, columns = acc.shape[0], acc.shape[1] - 1
    if y0 == y1:
        return
    # Edges running down have their inside on the left of the row sum; the sign follows the direction.
    sign = -1.0
    if y0 > y1:
        x0, y0, x1, y1 = x1, y1, x0, y0
        sign = 1.0
    slope = (x1 - x0) / (y1 - y0)
    if y1 <= 0.0 or y0 >= rows:
        return
    if y0 < 0.0:
        x0 -= slope * y0
        y0 = 0.0
    if y1 > rows:
        x1 -= slope * (y1 - rows)
        y1 = float(rows)
    row = int(y0)
    y, x = y0, x0
    while row < rows and y < y1:
        below = min(float(row + 1), y1)
        xb = x + slope * (below - y)
        height = sign * (below - y)
        left, right = min(x, xb), max(x, xb)
        # Outside to the left counts as at the left rim, to the right not at all.
        if right <= 0.0:
            acc[row, 0] += height
        elif left >= columns:
            pass
        else:
            if left < 0.0 or right > columns:
                # Rare: split by hand into pieces inside and outside.
                steps = math.ceil(right - left) * 2 + 2
                for k in range(steps):
                    xa = left + (right - left) * (k + 0.5) / steps
                    part = height / steps
                    c = math.floor(xa)
                    if c < 0:
                        acc[row, 0] += part
                    elif c < columns:
                        acc[row, c] += part * (c + 1 - xa)
                        acc[row, c + 1] += part * (xa - c)
            else:
                c0, c1 = int(left), int(right)
                if c0 == c1 or right - left < 1e-12:
                    middle = 0.5 * (left + right) - c0
                    acc[row, c0] += height * (1.0 - middle)
                    acc[row, c0 + 1] += height * middle
                else:
                    per = height / (right - left)
                    # First pixel, whole ones, last pixel.
                    for c in range(c0, min(c1, columns - 1) + 1):
                        a, b = max(left, float(c)), min(right, float(c + 1))
                        part = per * (b - a)
                        middle = 0.5 * (a + b) - c
                        acc[row, c] += part * (1.0 - middle)
                        acc[row, c + 1] += part * middle
        y, x = below, xb
        row += 1


@uncounted(cache=True)
def _fill(acc: FloatArray, points: FloatArray, starts: FloatArray) -> None:
    for loop in range(len(starts) - 1):
        first, last = starts[loop], starts[loop + 1]
        for k in range(first, last):
            j = k + 1 if k + 1 < last else first
            add_edge(acc, points[k, 0], points[k, 1], points[j, 0], points[j, 1])
    for row in range(acc.shape[0]):
        total = 0.0
        for c in range(acc.shape[1] - 1):
            total += acc[row, c]
            acc[row, c] = total


def coverage(loops: list[FloatArray], height: int, width: int) -> FloatArray:
    """Return the share of each pixel that closed polylines cover, shape (height, width).

    Loops that run the other way count negative, so holes take away from what is around them.

    Examples
    --------
    >>> coverage([np.array([[0.5, 0.0], [2.0, 0.0], [2.0, 1.0], [0.5, 1.0]])], 1, 2).tolist()
    [[0.5, 1.0]]
    """
    acc = np.zeros((height, width + 1))
    if loops:
        starts = np.concatenate([[0], np.cumsum([len(loop) for loop in loops])])
        _fill(acc, np.concatenate(loops), starts)
    return acc[:, :-1]
