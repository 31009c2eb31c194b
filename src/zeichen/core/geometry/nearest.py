"""Nearest places on straight pieces, found through a grid: exact, in about constant time a point."""

import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.geometry.cells import Pieces, cell_of, grid_of
from zeichen.core.values import AnyArray, FloatArray


def nearest_on(points: FloatArray, start: FloatArray, end: FloatArray) -> tuple[FloatArray, AnyArray]:
    """Return for each point the way to the nearest place on any piece, and which piece that is on.

    Parameters
    ----------
    points : (m, 2) float array
    start, end : (n, 2) float arrays
        Ends of at least one straight piece; one without length is a point.

    Returns
    -------
    (m, 2) float array, (m,) int array

    Examples
    --------
    >>> way, piece = nearest_on(np.array([[1.0, 2.0]]), np.array([[0.0, 0.0]]), np.array([[4.0, 0.0]]))
    >>> way.tolist(), piece.tolist()
    ([[0.0, -2.0]], [0])
    """
    if not len(start):
        raise ValueError("There is no piece to be near to.")
    points, start, end = (np.ascontiguousarray(array, dtype=np.float64) for array in (points, start, end))
    found: tuple[FloatArray, AnyArray] = _nearest(points, start, end)
    return found


def nearest_on_lines(points: FloatArray, lines: list[FloatArray]) -> tuple[FloatArray, AnyArray, FloatArray]:
    """Return for each point the way to the nearest polyline, the piece it is on, and all pieces (n, 2, 2)."""
    whole = [line if len(line) > 1 else np.repeat(line, 2, axis=0) for line in lines]
    pieces = np.concatenate([np.stack([line[:-1], line[1:]], axis=1) for line in whole])
    way, piece = nearest_on(points, pieces[:, 0], pieces[:, 1])
    return way, piece, pieces


@counted(cache=True)
def _nearest(points: FloatArray, start: FloatArray, end: FloatArray) -> tuple[FloatArray, AnyArray]:
    low, cell, columns, rows, first, held = grid_of(start, end)
    pieces = Pieces(start, end, low, cell, columns, rows, first, held)
    way = np.empty((len(points), 2))
    nearest = np.empty(len(points), np.int64)
    for k in range(len(points)):
        way[k, 0], way[k, 1], nearest[k] = way_to_nearest(points[k, 0], points[k, 1], pieces)
    return way, nearest


@uncounted
def way_to_nearest(px: float, py: float, pieces: Pieces) -> tuple[float, float, int]:
    """Return the way (x, y) from a point to the nearest place on any piece, and which that is on.

    Looks through rings of cells round the point.
    """
    start, end, cell, columns, rows = pieces.start, pieces.end, pieces.cell, pieces.columns, pieces.rows
    column = cell_of(px, pieces.low[0], cell, columns)
    row = cell_of(py, pieces.low[1], cell, rows)
    best, bx, by, who = np.inf, 0.0, 0.0, -1
    # How far the point is from the nearest side of its own cell; less than nothing if it lies in none.
    left, top = px - pieces.low[0] - column * cell, py - pieces.low[1] - row * cell
    inside = min(left, cell - left, top, cell - top)
    for ring in range(max(columns, rows) + 1):
        # What lies outside the rings seen is at least this far away.
        far = (ring - 1) * cell + inside
        if far > 0.0 and best <= far * far:
            break
        for r in range(max(0, row - ring), min(rows, row + ring + 1)):
            # Of the rows between, only the first and the last cell belong to the ring.
            pace = 1 if abs(r - row) == ring else 2 * ring
            for c in range(column - ring, column + ring + 1, pace):
                if not 0 <= c < columns:
                    continue
                at = r * columns + c
                for i in range(pieces.first[at], pieces.first[at + 1]):
                    j = pieces.held[i]
                    sx, sy = end[j, 0] - start[j, 0], end[j, 1] - start[j, 1]
                    ox, oy = px - start[j, 0], py - start[j, 1]
                    square = sx * sx + sy * sy
                    share = (ox * sx + oy * sy) / square if square > 0.0 else 0.0
                    share = max(0.0, min(1.0, share))
                    dx, dy = share * sx - ox, share * sy - oy
                    away = dx * dx + dy * dy
                    if away < best:
                        best, bx, by, who = away, dx, dy, j
    return bx, by, who
