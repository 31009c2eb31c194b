"""Straight pieces sorted into the cells of a grid, so that only those near each other are compared."""

from typing import NamedTuple

import numpy as np

from zeichen.core.compiled import FAST_SUMS, counted, uncounted
from zeichen.core.values import AnyArray, FloatArray

# A grid has at most this many cells on a side.
MOST_CELLS = 512
# Smaller cells are many, and mostly empty; in larger ones many pieces are compared for nothing.
_PIECES_LONG = 4.0


class Pieces(NamedTuple):
    """Straight pieces in the cells of a grid, as compiled functions take them.

    start, end: their ends, (n, 2).
    low, cell: the grid's upper left corner and the side of its cells; columns, rows: how many.
    Cell k holds the pieces held[first[k] : first[k + 1]].
    """

    start: FloatArray
    end: FloatArray
    low: FloatArray
    cell: float
    columns: int
    rows: int
    first: AnyArray
    held: AnyArray


@counted(cache=True)
def cell_size(start: FloatArray, end: FloatArray) -> tuple[FloatArray, float]:
    """Return the upper left corner of all pieces and a side of cells a few times as long as one of them."""
    low, high = np.full(2, np.inf), np.full(2, -np.inf)
    run = 0.0
    for k in range(len(start)):
        longest = 0.0
        for axis in range(2):
            low[axis] = min(low[axis], start[k, axis], end[k, axis])
            high[axis] = max(high[axis], start[k, axis], end[k, axis])
            longest = max(longest, abs(end[k, axis] - start[k, axis]))
        run += longest
    widest = max(high[0] - low[0], high[1] - low[1])
    return low, max(_PIECES_LONG * run / len(start), widest / MOST_CELLS, 1e-9)


@counted
def grid_of(start: FloatArray, end: FloatArray) -> tuple[FloatArray, float, int, int, AnyArray, AnyArray]:
    """Return what Pieces hold besides the pieces' ends."""
    low, cell = cell_size(start, end)
    columns, rows, first, held = into_cells(start, end, low, cell)
    return low, cell, columns, rows, first, held


@uncounted(cache=True, fastmath=FAST_SUMS)
def cell_of(x: float, low: float, cell: float, count: int) -> int:
    """Return in which of a row of cells a coordinate lies; what is outside belongs to the first or last."""
    return max(0, min(count - 1, int((x - low) / cell)))


@counted(cache=True)
def into_cells(
    start: FloatArray, end: FloatArray, low: FloatArray, cell: float
) -> tuple[int, int, AnyArray, AnyArray]:
    """Return (columns, rows, first, held): cell k holds the pieces held[first[k] : first[k + 1]].

    A piece is in all cells of its box.
    """
    high_x = high_y = 0.0
    for k in range(len(start)):
        high_x = max(high_x, start[k, 0] - low[0], end[k, 0] - low[0])
        high_y = max(high_y, start[k, 1] - low[1], end[k, 1] - low[1])
    columns, rows = int(high_x / cell) + 1, int(high_y / cell) + 1
    first = np.zeros(columns * rows + 1, np.int64)
    held = np.empty(0, np.int64)
    # First round: how many pieces each cell holds; second: which.
    for filling in range(2):
        if filling:
            for k in range(columns * rows):
                first[k + 1] += first[k]
            held = np.empty(first[columns * rows], np.int64)
        for k in range(len(start)):
            c0 = cell_of(min(start[k, 0], end[k, 0]), low[0], cell, columns)
            c1 = cell_of(max(start[k, 0], end[k, 0]), low[0], cell, columns)
            r0 = cell_of(min(start[k, 1], end[k, 1]), low[1], cell, rows)
            r1 = cell_of(max(start[k, 1], end[k, 1]), low[1], cell, rows)
            for r in range(r0, r1 + 1):
                for c in range(c0, c1 + 1):
                    at = r * columns + c
                    if filling:
                        first[at + 1] -= 1
                        held[first[at + 1]] = k
                    else:
                        first[at + 1] += 1
        if filling:
            # Filling from the back moved each cell's end to its start.
            for k in range(columns * rows):
                first[k] = first[k + 1]
            first[columns * rows] = len(held)
    return columns, rows, first, held
