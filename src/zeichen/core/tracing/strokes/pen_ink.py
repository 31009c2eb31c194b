"""What a round pen that goes along a polyline leaves on the sheet, against the ink that is there."""

import math

import numpy as np

from zeichen.core.compiled import FAST_SUMS, counted, uncounted
from zeichen.core.values import FloatArray

# Pixels are looked at so far apart, widths.
_LOOK = 0.07
# Pieces of a way that go on straight (square of the cosine) are one up to this length, widths.
_LONGEST, _STRAIGHT_ON = 0.3, 0.83


class InkWindow:
    """A part of a picture in which ways of a pen are compared, and the ways that are there anyhow."""

    def __init__(
        self, ink: FloatArray, width: float, low: FloatArray, high: FloatArray, ways: list[FloatArray]
    ) -> None:
        """Look at a part of a picture.

        Parameters
        ----------
        ink : (height, width) float array
            How much ink each pixel holds.
        width : float, px
            The pen's.
        low, high : (2,) float arrays, px
            The part's corners.
        ways : list of (n, 2) float arrays, px
            Along which the pen went anyhow; nan between two of them is a gap.
        """
        every = max(1, round(_LOOK * width))
        left, right = max(0, math.floor(low[0])), min(ink.shape[1], math.ceil(high[0]))
        top, bottom = max(0, math.floor(low[1])), min(ink.shape[0], math.ceil(high[1]))
        self._ink = np.ascontiguousarray(ink[top:bottom:every, left:right:every])
        self._place = left + 0.5, top + 0.5, float(every)
        self._away = np.full(self._ink.shape, np.inf)
        self._width = width
        for way in ways:
            _bring_near(self._away, np.ascontiguousarray(way), width, *self._place)

    def holds(self, place: FloatArray) -> bool:
        """Return whether a place lies in the part of the picture."""
        left, top, every = self._place
        rows, columns = self._ink.shape
        return bool(left <= place[0] <= left + columns * every and top <= place[1] <= top + rows * every)

    def off(self, way: FloatArray) -> float:
        """Return the sum of squared differences between the picture's ink and the pen's along one more way, px²."""
        found: float = _mismatch(self._ink, self._away, np.ascontiguousarray(way), self._width, *self._place)
        return found


@counted(cache=True)
def _bring_near(
    away: FloatArray, way: FloatArray, width: float, left: float, top: float, every: float
) -> None:
    """Make distances of pixels from ways those from one more, where that is nearer and within its ink."""
    pieces, count = _pieces(way, _LONGEST * width)
    reach = 0.5 * width + 1.0
    right, bottom = left + away.shape[1] * every + reach, top + away.shape[0] * every + reach
    kept = 0
    for k in range(count):
        x, y = pieces[0, k], pieces[1, k]
        if (
            max(x, x + pieces[2, k]) >= left - reach
            and min(x, x + pieces[2, k]) <= right
            and max(y, y + pieces[3, k]) >= top - reach
            and min(y, y + pieces[3, k]) <= bottom
        ):
            for row in range(5):
                pieces[row, kept] = pieces[row, k]
            kept += 1
    count = kept
    for row in range(away.shape[0]):
        for column in range(away.shape[1]):
            off = math.sqrt(_square_off(pieces, count, left + column * every, top + row * every))
            if off < away[row, column]:
                away[row, column] = off


@counted(cache=True)
def _mismatch(
    ink: FloatArray,
    away: FloatArray,
    way: FloatArray,
    width: float,
    left: float,
    top: float,
    every: float,
) -> float:
    total = 0.0
    pieces, count = _pieces(way, _LONGEST * width)
    for row in range(ink.shape[0]):
        for column in range(ink.shape[1]):
            off = away[row, column]
            # Deep in the ink of what is there anyhow nothing changes.
            if off > 0.5 * width - 0.5:
                off = min(
                    off, math.sqrt(_square_off(pieces, count, left + column * every, top + row * every))
                )
            pen = min(1.0, max(0.0, 0.5 + 0.5 * width - off))
            short = ink[row, column] - pen
            total += short * short
    return total * every * every


@counted
def _pieces(way: FloatArray, longest: float) -> tuple[FloatArray, int]:
    """Return the pieces of a polyline, of nan none, in rows: start, change, one by the square of its length.

    Those that go on nearly straight are one if that is no longer than the longest.
    """
    pieces = np.empty((5, len(way)))
    count = 0
    k = 0
    while k < len(way) - 1:
        dx, dy = way[k + 1, 0] - way[k, 0], way[k + 1, 1] - way[k, 1]
        square = dx * dx + dy * dy
        if math.isnan(square):
            k += 1
            continue
        first = k
        ahead_x, ahead_y, size = dx, dy, square
        k += 1
        while k < len(way) - 1:
            nx, ny = way[k + 1, 0] - way[k, 0], way[k + 1, 1] - way[k, 1]
            straight = nx * ahead_x + ny * ahead_y
            ex, ey = dx + nx, dy + ny
            # Also at nan it is no more.
            if not (
                ex * ex + ey * ey <= longest * longest
                and straight > 0.0
                and straight * straight >= _STRAIGHT_ON * size * (nx * nx + ny * ny)
            ):
                break
            dx, dy = ex, ey
            k += 1
        square = dx * dx + dy * dy
        pieces[0, count], pieces[1, count], pieces[2, count], pieces[3, count] = (
            way[first, 0],
            way[first, 1],
            dx,
            dy,
        )
        pieces[4, count] = 1.0 / square if square > 0.0 else 0.0
        count += 1
    return pieces, count


@uncounted(fastmath=FAST_SUMS | {"nnan"})
def _square_off(pieces: FloatArray, count: int, x: float, y: float) -> float:
    """Return the square of a place's distance from the nearest of some pieces."""
    least = 1e300
    for k in range(count):
        px, py = x - pieces[0, k], y - pieces[1, k]
        dx, dy = pieces[2, k], pieces[3, k]
        t = min(1.0, max(0.0, (px * dx + py * dy) * pieces[4, k]))
        px, py = px - t * dx, py - t * dy
        least = min(least, px * px + py * py)
    return least
