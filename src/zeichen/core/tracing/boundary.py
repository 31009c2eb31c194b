"""Subpixel boundaries between dark and light: marching squares with linear interpolation.

Source: W. E. Lorensen and H. E. Cline, "Marching cubes", SIGGRAPH 1987, in its well-known planar
form. Boundaries run with the dark side on their right, so on screen (y down) the outline of a dark
area runs clockwise and has positive area, and a hole has negative area.
"""

from dataclasses import dataclass

import numpy as np
from numba import njit

from zeichen.core.values import AnyArray, Bytes8Array, FloatArray

_TOP, _RIGHT, _BOTTOM, _LEFT = range(4)
# From which cell edge to which, for each set of dark corners: 1 top left, 2 top right, 4 bottom
# right, 8 bottom left. The two saddles (5, 10) are looked up by the grey in the cell's middle.
_FROM_TO = {
    1: (_TOP, _LEFT),
    2: (_RIGHT, _TOP),
    4: (_BOTTOM, _RIGHT),
    8: (_LEFT, _BOTTOM),
    3: (_RIGHT, _LEFT),
    6: (_BOTTOM, _TOP),
    12: (_LEFT, _RIGHT),
    9: (_TOP, _BOTTOM),
    14: (_LEFT, _TOP),
    13: (_TOP, _RIGHT),
    11: (_RIGHT, _BOTTOM),
    7: (_BOTTOM, _LEFT),
}
_SADDLES = {
    (5, True): ((_TOP, _RIGHT), (_BOTTOM, _LEFT)),
    (5, False): ((_TOP, _LEFT), (_BOTTOM, _RIGHT)),
    (10, True): ((_LEFT, _TOP), (_RIGHT, _BOTTOM)),
    (10, False): ((_RIGHT, _TOP), (_LEFT, _BOTTOM)),
}


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
        """Return the signed area of each contour, px²."""
        if not len(self):
            return np.zeros(0)
        following = np.arange(1, len(self.points) + 1)
        following[self.starts[1:] - 1] = self.starts[:-1]
        after = self.points[following]
        # Measured from each contour's own first point: far from the origin the products would cancel badly.
        origin = np.repeat(self.points[self.starts[:-1]], np.diff(self.starts), axis=0)
        a, b = self.points - origin, after - origin
        return np.asarray(0.5 * np.add.reduceat(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], self.starts[:-1]))


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
    iso = float(np.floor(level)) + 0.5
    values = 255 - grey if invert else grey
    if invert:
        iso = 255.0 - iso
    padded = np.pad(values, 1, constant_values=255)
    dark = padded < iso
    code = dark[:-1, :-1].astype(np.uint8)
    code |= dark[:-1, 1:].view(np.uint8) << 1
    code |= dark[1:, 1:].view(np.uint8) << 2
    code |= dark[1:, :-1].view(np.uint8) << 3
    rows, columns = np.nonzero((code != 0) & (code != 15))
    starts, ends = _cell_segments(code[rows, columns], rows, columns, padded, iso)
    del dark, code
    points = _crossings(starts, padded, iso)
    order = np.argsort(starts)
    follower = order[np.searchsorted(starts, ends, sorter=order)]
    sequence, offsets = _walk(follower)
    return Contours(points[sequence], offsets)


def _cell_segments(
    codes: AnyArray, rows: AnyArray, columns: AnyArray, padded: AnyArray, iso: float
) -> tuple[AnyArray, AnyArray]:
    """Return the ids of the cell edges where each directed segment starts and ends."""
    height, width = padded.shape
    # Edge ids: the horizontal edge right of pixel (r, c) is r * width + c, the vertical one below it
    # is that plus height * width. Offsets of a cell's four edges from its top left pixel:
    offset = np.array([0, height * width + 1, width, height * width])
    base = rows * width + columns
    starts, ends = [], []
    for value, (first, last) in _FROM_TO.items():
        cells = base[codes == value]
        starts.append(cells + offset[first])
        ends.append(cells + offset[last])
    saddle = (codes == 5) | (codes == 10)
    if saddle.any():
        r, c = rows[saddle], columns[saddle]
        middle = (padded[r, c].astype(float) + padded[r, c + 1] + padded[r + 1, c] + padded[r + 1, c + 1]) / 4
        for (value, joined), pairs in _SADDLES.items():
            cells = base[saddle][(codes[saddle] == value) & ((middle < iso) == joined)]
            for first, last in pairs:
                starts.append(cells + offset[first])
                ends.append(cells + offset[last])
    return np.concatenate(starts), np.concatenate(ends)


def _crossings(edges: AnyArray, padded: AnyArray, iso: float) -> FloatArray:
    height, width = padded.shape
    vertical = edges >= height * width
    pixel = np.where(vertical, edges - height * width, edges)
    row, column = pixel // width, pixel % width
    near = padded[row, column].astype(np.float64)
    far = padded[row + vertical, column + ~vertical].astype(np.float64)
    share = (iso - near) / (far - near)
    # The pad shifts everything by one pixel, and pixel centres sit at halves: 0.5 - 1.
    x = column - 0.5 + np.where(vertical, 0.0, share)
    y = row - 0.5 + np.where(vertical, share, 0.0)
    return np.stack([x, y], axis=1)


@njit(cache=True)
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
