"""Subpixel boundaries between dark and light: marching squares with linear interpolation.

Source: W. E. Lorensen and H. E. Cline, "Marching cubes", SIGGRAPH 1987, in its well-known planar
form. Boundaries run with the dark side on their right, so on screen (y down) the outline of a dark
area runs clockwise and has positive area, and a hole has negative area.
"""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from zeichen.core.compiled import NONE, counted, uncounted
from zeichen.core.values import AnyArray, Bytes8Array, FloatArray

_TOP, _RIGHT, _BOTTOM, _LEFT = range(4)
# From which cell edge to which, by the set of dark corners: 1 top left, 2 top right, 4 bottom right,
# 8 bottom left. The two saddles (5, 10) have two such pairs; which ones the grey in the middle tells.
_FROM = np.array([-1, 0, 1, 1, 2, -1, 2, 2, 3, 0, -1, 1, 3, 0, 3, -1])
_TO = np.array([-1, 3, 0, 3, 1, -1, 0, 3, 2, 2, -1, 2, 1, 1, 0, -1])
# Rows: dark middle of 5, light middle of 5, dark middle of 10, light middle of 10; from, to, from, to.
_SADDLES = np.array(
    [
        [_TOP, _RIGHT, _BOTTOM, _LEFT],
        [_TOP, _LEFT, _BOTTOM, _RIGHT],
        [_LEFT, _TOP, _RIGHT, _BOTTOM],
        [_RIGHT, _TOP, _LEFT, _BOTTOM],
    ]
)
# Eight pixels at a time.
_LIGHT, _WHOLE_BYTE = np.uint64(0), np.uint64(0xFF)
_BYTE, _SEVEN_BYTES = np.uint64(8), np.uint64(56)


@dataclass(frozen=True, slots=True)
class Contours:
    """Closed polylines end to end: contour k is points[starts[k]:starts[k + 1]], its end not repeated."""

    points: FloatArray
    starts: AnyArray

    def __len__(self) -> int:
        return len(self.starts) - 1

    def __getitem__(self, index: int) -> FloatArray:
        return self.points[self.starts[index] : self.starts[index + 1]]

    def areas(self) -> FloatArray:
        """Return the signed area of each contour, (contours,), px²."""
        found: FloatArray = _areas(self.points, self.starts)
        return found


@counted(cache=True)
def _areas(points: FloatArray, starts: AnyArray) -> FloatArray:
    out = np.zeros(len(starts) - 1)
    for k in range(len(out)):
        # Measured from each contour's own first point: far from the origin the products would cancel badly.
        x0, y0 = points[starts[k], 0], points[starts[k], 1]
        ax = ay = 0.0
        for i in range(starts[k] + 1, starts[k + 1]):
            bx, by = points[i, 0] - x0, points[i, 1] - y0
            out[k] += 0.5 * (ax * by - ay * bx)
            ax, ay = bx, by
    return out


def find_contours(grey: Bytes8Array, *, level: float, invert: bool = False) -> Contours:
    """Return every boundary where the grey passes a level, as closed polylines.

    Parameters
    ----------
    grey : (height, width) uint8 array
    level : float
        Grey up to this value is dark. Half a step is added, so that no pixel lies on the level.
    invert : bool
        Trace the light areas instead of the dark ones.

    Returns
    -------
    Contours
        Points in drawing units. Outside the picture is light, so areas that touch the border are
        closed along the picture's edge.
    """
    threshold = int(np.floor(level))
    height, width = grey.shape
    # A rim of light pixels all around, and as many to the right as make whole words of eight.
    dark = np.empty((height + 2, (width + 2 + 8) // 8 * 8), np.uint8)
    dark[0] = dark[-1] = dark[:, 0] = 0
    dark[:, width + 1 :] = 0
    inside = dark[1 : height + 1, 1 : width + 1].view(np.bool_)
    (np.greater if invert else np.less_equal)(grey, threshold, out=inside)
    grey, words = np.ascontiguousarray(grey), dark.view(np.uint64)
    return Contours(*_loops(_Seen(grey, words, dark, threshold + 0.5, 0 if invert else 255)))


class _Seen(NamedTuple):
    """A picture to be outlined at a level.

    grey: (height, width); dark: with a rim of zeros, 1 where it is dark; words: the same, eight pixels at a time;
    outside: the grey beyond the rim.
    """

    grey: AnyArray
    words: AnyArray
    dark: AnyArray
    iso: float
    outside: int


@counted(cache=True)
def _loops(seen: _Seen) -> tuple[FloatArray, AnyArray]:
    """Return the boundary's points in order, loop after loop, and where each starts; see _link."""
    points, follower = _link(seen)
    sequence, offsets = _walk(follower)
    return points[sequence], offsets


@counted
def _link(seen: _Seen) -> tuple[FloatArray, AnyArray]:
    """Return where the boundary passes between two pixels, and for each such point the next one."""
    grey, dark = seen.grey, seen.dark
    most = 2 * dark.shape[1]
    points = np.empty((4096 + most, 2))
    follower = np.empty(4096 + most, np.int64)
    # Numbers of the crossings on the horizontal edges above a row of cells and below it.
    above, below = np.zeros((2, dark.shape[1]), np.int64)
    crossing = np.zeros(4, np.int64)
    filled = NONE
    for row in range(len(grey) + 1):
        if filled + most > len(points):
            more, after = np.empty((2 * len(points), 2)), np.empty(2 * len(points), np.int64)
            for k in range(filled):
                more[k, 0], more[k, 1], after[k] = points[k, 0], points[k, 1], follower[k]
            points, follower = more, after
        filled = _link_row(seen, row, above, below, crossing, points, follower, filled)
        above, below = below, above
    return points[:filled], follower[:filled]


@uncounted
def _link_row(
    seen: _Seen,
    row: int,
    above: AnyArray,
    below: AnyArray,
    crossing: AnyArray,
    points: FloatArray,
    follower: AnyArray,
    filled: int,
) -> int:
    """Do so for one row of cells; there are so many points already, and as many as returned then."""
    grey, words, dark, iso, outside = seen
    last = words.shape[1] - 1
    leftmost = 0
    next_upper, next_lower = words[row, 0], words[row + 1, 0]
    for word in range(last + 1):
        upper, lower = next_upper, next_lower
        if word < last:
            next_upper, next_lower = words[row, word + 1], words[row + 1, word + 1]
        else:
            next_upper, next_lower = _LIGHT, _LIGHT
        # The first pixel of a word is its lowest byte: shifted by one, each lies beside its neighbour.
        mixed = (
            (upper ^ lower)
            | (upper ^ ((upper >> _BYTE) | (next_upper << _SEVEN_BYTES)))
            | (lower ^ ((lower >> _BYTE) | (next_lower << _SEVEN_BYTES)))
        )
        if not mixed:
            continue
        # As a loop over eight columns it would be unrolled, and take twice as long.
        c = word * 8 - 1
        while mixed:
            c += 1
            here = mixed & _WHOLE_BYTE
            mixed >>= _BYTE
            if not here:
                continue
            a, b, d, e = dark[row, c], dark[row, c + 1], dark[row + 1, c], dark[row + 1, c + 1]
            # Pixels around the cell, in the picture's own rows and columns: one less than here.
            x, y = c - 0.5, row - 0.5
            crossing[_TOP], crossing[_LEFT] = above[c], leftmost
            if b != e:
                near = _grey_at(grey, row - 1, c, outside)
                far = _grey_at(grey, row, c, outside)
                points[filled, 0] = x + 1.0
                points[filled, 1] = y + (iso - near) / (far - near)
                crossing[_RIGHT] = leftmost = filled
                filled += 1
            if d != e:
                near = _grey_at(grey, row, c - 1, outside)
                far = _grey_at(grey, row, c, outside)
                points[filled, 0] = x + (iso - near) / (far - near)
                points[filled, 1] = y + 1.0
                crossing[_BOTTOM] = below[c] = filled
                filled += 1
            code = a | (b << 1) | (e << 2) | (d << 3)
            if code != 5 and code != 10:
                follower[crossing[_FROM[code]]] = crossing[_TO[code]]
            else:
                direction = _saddle(grey, row, c, code, iso, outside)
                follower[crossing[_SADDLES[direction, 0]]] = crossing[_SADDLES[direction, 1]]
                follower[crossing[_SADDLES[direction, 2]]] = crossing[_SADDLES[direction, 3]]
    return filled


@uncounted
def _saddle(grey: AnyArray, row: int, c: int, code: int, iso: float, outside: int) -> int:
    """Return which row of the saddles' table a cell is, by the grey in its middle."""
    middle = (
        _grey_at(grey, row - 1, c - 1, outside)
        + _grey_at(grey, row - 1, c, outside)
        + _grey_at(grey, row, c - 1, outside)
        + _grey_at(grey, row, c, outside)
    ) / 4.0
    joined = middle < iso if outside == 255 else middle > iso
    return (0 if code == 5 else 2) + (0 if joined else 1)


@uncounted
def _grey_at(grey: AnyArray, row: int, column: int, outside: int) -> float:
    if row < 0 or column < 0 or row >= grey.shape[0] or column >= grey.shape[1]:
        return float(outside)
    return float(grey[row, column])


@counted
def _walk(follower: AnyArray) -> tuple[AnyArray, AnyArray]:
    count = len(follower)
    sequence = np.empty(count, np.int64)
    offsets = np.empty(count + 1, np.int64)
    seen = np.zeros(count, np.bool_)
    filled = 0
    loops = 0
    offsets[0] = 0
    for first in range(count):
        if seen[first]:
            continue
        k = first
        while not seen[k]:
            seen[k] = True
            sequence[filled] = k
            filled += 1
            k = follower[k]
        loops += 1
        offsets[loops] = filled
    return sequence, offsets[: loops + 1].copy()
