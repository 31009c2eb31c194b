"""The borders between areas of a picture as one map: junctions, and arcs that run between them.

Between pixels of different colour there is a crack. Where three or more cracks meet is a junction;
everything else belongs to exactly one arc, from junction to junction or round to its own start. An
arc is shared by the areas on its two sides, so whatever it is drawn as, they cannot gape or overlap.
"""

from dataclasses import dataclass

import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.values import AnyArray, FloatArray

# Directions of travel along cracks: right, down, left, up.
_DX = np.array([1, 0, -1, 0])
_DY = np.array([0, 1, 0, -1])


@dataclass(frozen=True, slots=True)
class PlanarMap:
    """Arcs end to end: arc k is cracks starts[k]:starts[k + 1].

    at: (n, 2) int array, the pixel corner (x, y) where each crack begins; direction: its direction 0-3.
    start, end: for each arc the number of its junctions, -1 for a loop.
    right, left: for each arc the region on either side, -1 outside the sheet.
    junctions: (m, 2) int array, pixel corners.
    """

    at: AnyArray
    direction: AnyArray
    starts: AnyArray
    start: AnyArray
    end: AnyArray
    right: AnyArray
    left: AnyArray
    junctions: AnyArray

    def __len__(self) -> int:
        return len(self.starts) - 1

    def corners(self, arc: int) -> FloatArray:
        """Return the pixel corners an arc passes, (n, 2), its last included."""
        first, last = self.starts[arc], self.starts[arc + 1]
        at = self.at[first:last]
        end = at[-1] + (_DX[self.direction[last - 1]], _DY[self.direction[last - 1]])
        return np.vstack([at, end[None]]).astype(np.float64)


def map_of(regions: AnyArray) -> PlanarMap:
    """Return the borders between connected areas.

    Parameters
    ----------
    regions : (height, width) int array
        A number for each pixel's area; areas are 4-connected.
    """
    padded = np.pad(regions.astype(np.int32), 1, constant_values=-1)
    at, direction, starts, ends, junction_of = _walk(padded)
    places = np.nonzero(junction_of.ravel() >= 0)[0]
    width = junction_of.shape[1]
    order = np.argsort(junction_of.ravel()[places])
    junctions = np.stack([places[order] % width, places[order] // width], axis=1)
    first = starts[:-1]
    x, y = at[first, 0], at[first, 1]
    right, left = _sides(padded, x, y, direction[first])
    return PlanarMap(at, direction, starts, ends[:, 0], ends[:, 1], right, left, junctions)


def _sides(padded: AnyArray, x: AnyArray, y: AnyArray, direction: AnyArray) -> tuple[AnyArray, AnyArray]:
    """Return the areas right and left of cracks."""
    # Offsets, in the padded array, of the pixel on the right of a crack that leaves corner (x, y).
    row = np.array([1, 1, 0, 0])[direction]
    column = np.array([1, 0, 0, 1])[direction]
    right = padded[y + row, x + column]
    row = np.array([0, 1, 1, 0])[direction]
    column = np.array([1, 1, 0, 0])[direction]
    return right, padded[y + row, x + column]


@uncounted
def _crack(padded: AnyArray, x: int, y: int, direction: int) -> bool:
    """Whether there is a crack from pixel corner (x, y) in a direction."""
    # Pixel (r, c) of the picture is padded[r + 1, c + 1]; around the corner lie rows y, y + 1 of padded.
    if direction == 0:
        return bool(padded[y, x + 1] != padded[y + 1, x + 1])
    if direction == 1:
        return bool(padded[y + 1, x] != padded[y + 1, x + 1])
    if direction == 2:
        return bool(padded[y, x] != padded[y + 1, x])
    return bool(padded[y, x] != padded[y, x + 1])


@counted(cache=True)
def _walk(padded: AnyArray) -> tuple[AnyArray, AnyArray, AnyArray, AnyArray, AnyArray]:
    rows, columns = padded.shape[0] - 1, padded.shape[1] - 1
    junction = np.full((rows, columns), -1, np.int64)
    total = 0
    junctions = 0
    for y in range(rows):
        for x in range(columns):
            a, b, c, d = padded[y, x], padded[y, x + 1], padded[y + 1, x + 1], padded[y + 1, x]
            if a == b and b == c and c == d:
                continue
            degree = int(a != b) + int(b != c) + int(c != d) + int(d != a)
            total += degree
            if degree > 2:
                junction[y, x] = junctions
                junctions += 1
    cracks = total // 2
    at = np.empty((cracks, 2), np.int64)
    direction = np.empty(cracks, np.int64)
    starts = np.empty(cracks + 1, np.int64)
    ends = np.empty((cracks, 2), np.int64)
    # One bit for each direction that was walked from a corner.
    seen = np.zeros((rows, columns), np.uint8)
    filled = 0
    arcs = 0
    starts[0] = 0
    for loops in range(2):
        for y0 in range(rows):
            for x0 in range(columns):
                if loops == 0 and junction[y0, x0] < 0:
                    continue
                a, b = padded[y0, x0], padded[y0, x0 + 1]
                c, d = padded[y0 + 1, x0 + 1], padded[y0 + 1, x0]
                if a == b and b == c and c == d:
                    continue
                for first in range(4):
                    if seen[y0, x0] >> first & 1 or not _crack(padded, x0, y0, first):
                        continue
                    x, y, go = x0, y0, first
                    while True:
                        at[filled, 0], at[filled, 1] = x, y
                        direction[filled] = go
                        filled += 1
                        seen[y, x] |= 1 << go
                        x += 1 if go == 0 else (-1 if go == 2 else 0)
                        y += 1 if go == 1 else (-1 if go == 3 else 0)
                        back = (go + 2) % 4
                        seen[y, x] |= 1 << back
                        if junction[y, x] >= 0 or (x == x0 and y == y0):
                            break
                        for turn in range(4):
                            if turn != back and _crack(padded, x, y, turn):
                                go = turn
                                break
                    ends[arcs, 0] = junction[y0, x0]
                    ends[arcs, 1] = junction[y, x]
                    arcs += 1
                    starts[arcs] = filled
    return (
        at[:filled].copy(),
        direction[:filled].copy(),
        starts[: arcs + 1].copy(),
        ends[:arcs].copy(),
        junction,
    )
