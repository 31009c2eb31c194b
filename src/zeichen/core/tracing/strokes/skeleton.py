"""The skeleton of drawn lines as branches between places where lines meet.

Thinning gives the topology; where exactly the middle runs is measured afterwards from the grey.
"""

import math
from dataclasses import dataclass, field
from itertools import pairwise

import cv2
import numpy as np
from scipy.spatial import cKDTree

from zeichen.core.compiled import counted, uncounted
from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry.norm import norm
from zeichen.core.tracing.strokes.thinning import meeting_pixels, thinned
from zeichen.core.values import AnyArray, FloatArray

# Branches shorter than this share of the line's width are what thinning makes of a bump ...
_SPUR = 0.8
# ... unless their tip is as thick as a pen's, then they may be this short.
_STUB = 0.35
_STUB_THICK = 0.75
# A skeleton of more branches, or of so many times as many before its spurs are cut, is texture.
_MOST_BRANCHES = 5_000
_WITH_SPURS = 4
# Meetings nearer than this share of the width are one.
_ONE_MEETING = 1.0


@dataclass(slots=True)
class Branch:
    """Pixel centres along one branch, and the meetings at its ends (-1 for a free end)."""

    points: FloatArray
    start: int
    end: int
    loop: bool = False
    length: float = field(init=False)

    def __post_init__(self) -> None:
        """Measure the length along the pixels, px."""
        self.length = length_of(self.points)


@dataclass(frozen=True, slots=True)
class Skeleton:
    """Branches, the places where they meet, and the typical width of the lines, px."""

    branches: list[Branch]
    meetings: FloatArray
    width_px: float


def length_of(points: FloatArray) -> float:
    """Return the length of the polyline through points, px."""
    return float(_length(np.ascontiguousarray(points, dtype=np.float64)))


@uncounted(cache=True)
def _length(points: FloatArray) -> float:
    total = 0.0
    for k in range(len(points) - 1):
        total += norm(points[k + 1, 0] - points[k, 0], points[k + 1, 1] - points[k, 1])
    return total


def half_widths(mask: AnyArray) -> FloatArray:
    """Return each pixel's distance from the nearest light one, px; beyond the picture all is light."""
    padded = np.pad(mask, 1).astype(np.uint8)
    return np.asarray(cv2.distanceTransform(padded, cv2.DIST_L2, 5)[1:-1, 1:-1], dtype=np.float64)


def skeleton_of(mask: AnyArray, half: FloatArray, *, width_px: float | None = None) -> Skeleton:
    """Return the branches of a mask's skeleton, spurs cut and near meetings made one.

    Parameters
    ----------
    mask : (height, width) bool array
        True on the lines.
    half : (height, width) float array, px
        How far each of its pixels is from the nearest light one: see half_widths.
    width_px : float, optional
        Width of the lines; None measures it.

    Raises
    ------
    InvalidInputError
        If there are too many branches for a drawing of lines.
    """
    padded = np.pad(mask, 1)
    thin, rows, columns = thinned(padded)
    if not len(rows):
        return Skeleton([], np.zeros((0, 2)), 0.0)
    width = float(2.0 * np.median(half[rows - 1, columns - 1])) if width_px is None else width_px
    groups, centres = meeting_pixels(thin, rows, columns)
    rows, columns, starts, ends, loops = walked(thin & (groups == 0), groups)
    refuse_texture(len(starts))
    offsets = np.concatenate([[0], np.cumsum(starts[:, 1])])
    # The pad shifts by one pixel, and pixel centres sit at halves.
    branches = [
        Branch(
            np.stack([columns[a:b] - 0.5, rows[a:b] - 0.5], axis=1).astype(np.float64),
            int(starts[k, 0]) - 1,
            int(ends[k]) - 1,
            bool(loops[k]),
        )
        for k, (a, b) in enumerate(pairwise(offsets.tolist()))
    ]
    branches, meetings = _joined(branches, centres - 0.5, width, half)
    refuse_texture(len(branches), _MOST_BRANCHES)
    return Skeleton(branches, meetings, width)


def refuse_texture(pieces: int, most: int = _WITH_SPURS * _MOST_BRANCHES) -> None:
    """Raise InvalidInputError if a skeleton has more pieces than any drawing."""
    if pieces > most:
        raise InvalidInputError(
            f"The picture has {pieces} line pieces, more than the {most} Zeichen draws: it is texture rather than "
            "line art. Raise the smallest spot, or trace it as solid."
        )


def _joined(
    branches: list[Branch], centres: FloatArray, width: float, half: FloatArray
) -> tuple[list[Branch], FloatArray]:
    """Cut spurs, and make one of meetings that only a short branch parts."""
    degree = np.zeros(len(centres), int)
    for branch in branches:
        for end in (branch.start, branch.end):
            if end >= 0:
                degree[end] += 1
    kept = []
    for branch in branches:
        free = (branch.start < 0) + (branch.end < 0)
        if free == 1 and not branch.loop and branch.length + 1 < _least_length(branch, width, half):
            met = max(branch.start, branch.end)
            if degree[met] == 2 and (only := _other_at(met, branch, branches)) is not None:
                # No meeting at all: a line's own end, a step wide.
                only.start, only.end = (-1 if end == met else end for end in (only.start, only.end))
                degree[met] = 0
                continue
            if degree[met] > 2:
                degree[met] -= 1
                continue
        kept.append(branch)
    owner = list(range(len(centres)))

    def root(k: int) -> int:
        while owner[k] != k:
            k = owner[k]
        return k

    rest = []
    for branch in kept:
        if branch.start >= 0 and branch.end >= 0 and branch.start != branch.end:
            gap = math.hypot(*(centres[branch.start] - centres[branch.end]))
            if branch.length < 1.3 * _ONE_MEETING * width and gap < _ONE_MEETING * width:
                owner[root(branch.start)] = root(branch.end)
                continue
        rest.append(branch)
    # Touching groups without a branch between them are near each other, too.
    for b, a in cKDTree(centres).query_pairs(0.5 * width) if len(centres) else ():
        owner[root(a)] = root(b)
    roots = [root(k) for k in range(len(centres))]
    numbers = {r: n for n, r in enumerate(dict.fromkeys(roots))}
    places = middles_of(centres, [numbers[r] for r in roots], len(numbers))
    out = []
    for branch in rest:
        start, end = (numbers[roots[e]] if e >= 0 else -1 for e in (branch.start, branch.end))
        if start >= 0 and start == end and branch.length < 1.5 * width:
            continue
        out.append(Branch(branch.points, start, end, branch.loop))
    return out, places


def middles_of(places: FloatArray, numbers: list[int], count: int) -> FloatArray:
    """Return the mean, (count, 2), of the places with each number."""
    out = np.zeros((count, 2))
    np.add.at(out, numbers, places)
    return out / np.maximum(np.bincount(numbers, minlength=count), 1)[:, None]


def _other_at(meeting: int, branch: Branch, branches: list[Branch]) -> Branch | None:
    """Return the longest other branch at a meeting, if it is longer than a spur there and does not come back to it."""
    there = [other for other in branches if other is not branch and meeting in (other.start, other.end)]
    longest = max(there, key=lambda other: other.length, default=branch)
    return longest if longest.start != longest.end and longest.length > branch.length else None


def _least_length(branch: Branch, width: float, half: FloatArray) -> float:
    """Return how long a branch with a free end must be for a line's end rather than a bump on its side."""
    column, row = branch.points[0 if branch.start < 0 else -1]
    thick = half[int(row), int(column)] >= _STUB_THICK * 0.5 * width
    return (_STUB if thick else _SPUR) * width


@counted(cache=True)
def walked(rest: AnyArray, groups: AnyArray) -> tuple[AnyArray, AnyArray, AnyArray, AnyArray, AnyArray]:
    height, width = rest.shape
    total = 0
    for r in range(height):
        for c in range(width):
            if rest[r, c]:
                total += 1
    rows = np.empty(total, np.int64)
    columns = np.empty(total, np.int64)
    starts = np.empty((total, 2), np.int64)
    ends = np.empty(total, np.int64)
    loops = np.zeros(total, np.bool_)
    seen = np.zeros((height, width), np.bool_)
    filled = 0
    count = 0
    # Straight neighbours before diagonal ones, so that no pixel of a stair is left out.
    dr = (0, 1, 0, -1, 1, 1, -1, -1)
    dc = (1, 0, -1, 0, 1, -1, 1, -1)
    for round_loops in range(2):
        for r0 in range(1, height - 1):
            for c0 in range(1, width - 1):
                if not rest[r0, c0] or seen[r0, c0]:
                    continue
                friends = 0
                for k in range(8):
                    if rest[r0 + dr[k], c0 + dc[k]] and not seen[r0 + dr[k], c0 + dc[k]]:
                        friends += 1
                if round_loops == 0 and friends > 1:
                    continue
                first = filled
                r, c = r0, c0
                while True:
                    seen[r, c] = True
                    rows[filled], columns[filled] = r, c
                    filled += 1
                    moved = False
                    for k in range(8):
                        rr, cc = r + dr[k], c + dc[k]
                        if rest[rr, cc] and not seen[rr, cc]:
                            r, c = rr, cc
                            moved = True
                            break
                    if not moved:
                        break
                size = filled - first
                meets = np.zeros(2, np.int64)
                for end in range(2):
                    r, c = rows[first if end == 0 else filled - 1], columns[first if end == 0 else filled - 1]
                    for k in range(8):
                        g = groups[r + dr[k], c + dc[k]]
                        if g > 0 and (size > 1 or end == 0 or g != meets[0]):
                            meets[end] = g
                            break
                loops[count] = (
                    size > 3
                    and meets[0] == 0
                    and meets[1] == 0
                    and abs(rows[first] - rows[filled - 1]) <= 1
                    and abs(columns[first] - columns[filled - 1]) <= 1
                )
                starts[count, 0], starts[count, 1] = meets[0], size
                ends[count] = meets[1]
                count += 1
    return rows, columns, starts[:count].copy(), ends[:count].copy(), loops[:count].copy()
