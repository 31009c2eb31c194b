"""The skeleton of lines of any width as a graph: edges along their middles, between meetings.

What sticks out of a meeting's disc by little is a bump on a rim and no line; meetings that lie within each other's
discs are one.
"""

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from zeichen.core.errors import InvalidInputError
from zeichen.core.tracing.strokes.thinning import meeting_pixels, thinned, walked
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# What sticks out of a meeting's disc by less than this share of its radius, and so many px more, is a bump: the corners
# of a line cut off square stick out by .4 of it.
_BUMP, _BUMP_PX = 0.5, 1.5
# Where all lines are as wide, a tip as thick as this share of a line is the end of one if it sticks out by so much of
# its half width.
_AS_THICK, _STUB = 0.75, 0.5
# Meetings nearer than so many radii of the larger disc are one. Measured on pictures of a pen: with 1 lines that cross
# aslant make two.
_ONE_MEETING = 1.35
# Of a loop at one meeting that is shorter than so many of its radii nothing is seen.
_LEAST_LOOP = 1.5


# A skeleton of more edges is texture, or one of so many times as many before bumps are left out: five thousand take
# about half a minute.
_MOST_EDGES, _WITH_BUMPS = 5_000, 4


@dataclass(slots=True, eq=False)
class Edge:
    """Pixel centres (n, 2) along one edge, and the numbers of the meetings at its ends (-1: a free end)."""

    points: FloatArray
    ends: list[int]
    closed: bool = False

    def from_side(self, side: int) -> FloatArray:
        """Return the points (n, 2), starting at an end (0 or 1)."""
        return self.points[::-1] if side else self.points


@dataclass(frozen=True, slots=True)
class Meeting:
    """Where lines meet, px, and how far around it their middles tell nothing."""

    place: FloatArray
    radius: float


def skeleton_edges(mask: BoolArray) -> tuple[list[Edge], FloatArray]:
    """Return the edges of a mask's skeleton as thinning leaves it, and the places (n, 2), px, of their meetings.

    Raises
    ------
    InvalidInputError
        If there are too many edges for a drawing of lines.
    """
    thin, rows, columns = thinned(np.pad(mask, 1))
    groups, centres = meeting_pixels(thin, rows, columns)
    rows, columns, starts, ends, loops = walked(thin & (groups == 0), groups)
    _refuse_texture(len(starts), _WITH_BUMPS * _MOST_EDGES)
    at = np.concatenate([[0], np.cumsum(starts[:, 1])])
    # The pad shifts by one pixel, and pixel centres sit at halves.
    edges = [
        Edge(
            np.stack([columns[a:b] - 0.5, rows[a:b] - 0.5], axis=1).astype(np.float64),
            [int(starts[k, 0]) - 1, int(ends[k]) - 1],
            bool(loops[k]),
        )
        for k, (a, b) in enumerate(pairwise(at.tolist()))
    ]
    return edges, centres - 0.5


def medial_graph(
    edges: list[Edge], places: FloatArray, half: FloatArray, pen_px: float | None = None
) -> tuple[list[Edge], dict[int, Meeting]]:
    """Return the edges that are lines, and the meetings they name.

    Parameters
    ----------
    edges, places : list of Edge, (n, 2) float array, px
        See skeleton_edges. The edges are used up.
    half : (height, width) float array, px
        How far each pixel is from the nearest without ink.
    pen_px : float, optional
        How wide all lines are, if they are all as wide.

    Raises
    ------
    InvalidInputError
        If there are too many edges for a drawing of lines.
    """
    radii = np.array([_at(half, place) for place in places])
    edges = _without_bumps(edges, places, radii, half, pen_px)
    _refuse_texture(len(edges), _MOST_EDGES)
    return _clustered(edges, places, radii)


def _refuse_texture(pieces: int, most: int) -> None:
    if pieces > most:
        raise InvalidInputError(
            f"The picture has {pieces} line pieces, more than the {most} Zeichen draws: it is texture rather than "
            "line art. Raise the smallest spot, or trace it as solid."
        )


def length_of(points: FloatArray) -> float:
    """Return the length of the polyline through points (n, 2), px."""
    return float(np.hypot(*np.diff(points, axis=0).T).sum())


def _at(half: FloatArray, place: AnyArray) -> float:
    row, column = int(place[1]), int(place[0])
    return float(half[min(max(row, 0), half.shape[0] - 1), min(max(column, 0), half.shape[1] - 1)])


def _without_bumps(
    edges: list[Edge], places: FloatArray, radii: FloatArray, half: FloatArray, pen_px: float | None
) -> list[Edge]:
    """Leave out the edges that only make a bump, the least first, and join what then goes on."""
    edges = _joined(edges, places)
    while True:
        # At each meeting the least one, for what goes on there may make lines of the others.
        least: dict[int, tuple[float, int]] = {}
        for number, edge in enumerate(edges):
            free = [end < 0 for end in edge.ends]
            if edge.closed or sum(free) != 1:
                continue
            meeting = max(edge.ends)
            tip = edge.points[0 if free[0] else -1]
            out = math.hypot(*(tip - places[meeting])) + _at(half, tip) - radii[meeting]
            if pen_px is not None and _at(half, tip) > 0.5 * _AS_THICK * pen_px:
                short = _STUB * 0.5 * pen_px - out
            else:
                short = _BUMP * radii[meeting] + _BUMP_PX - out
            if short > 0.0 and short > least.get(meeting, (0.0, 0))[0]:
                least[meeting] = short, number
        if not least:
            return edges
        gone = {number for _, number in least.values()}
        edges = _joined([edge for number, edge in enumerate(edges) if number not in gone], places)


def _joined(edges: list[Edge], places: FloatArray) -> list[Edge]:
    """Make one edge of the two at a meeting of no others, and a free end of one that is alone there."""
    at: dict[int, list[Edge]] = {}
    taken: set[int] = set()
    for edge in edges:
        for end in edge.ends:
            if end >= 0:
                at.setdefault(end, []).append(edge)
    for meeting, there in at.items():
        if len(there) == 1:
            (edge,) = there
            side = edge.ends.index(meeting)
            edge.points = np.vstack([edge.points, places[meeting]][:: 1 if side else -1])
            edge.ends[side] = -1
        elif len(there) == 2 and there[0] is there[1]:
            edge = there[0]
            edge.points = np.vstack([edge.points, places[meeting]])
            edge.ends, edge.closed = [-1, -1], True
        elif len(there) == 2:
            one, other = there
            a, b = one.ends.index(meeting), other.ends.index(meeting)
            far = other.ends[1 - b]
            one.points = np.vstack([one.from_side(1 - a), places[meeting], other.from_side(b)])
            one.ends = [one.ends[1 - a], far]
            taken.add(id(other))
            if far >= 0:
                at[far][at[far].index(other)] = one
    return [edge for edge in edges if id(edge) not in taken]


def _clustered(
    edges: list[Edge], places: FloatArray, radii: FloatArray
) -> tuple[list[Edge], dict[int, Meeting]]:
    """Make one of meetings whose discs hold each other's middle."""
    owner = list(range(len(places)))

    def root(k: int) -> int:
        while owner[k] != k:
            k = owner[k]
        return k

    rest = []
    for edge in edges:
        one, other = edge.ends
        if not edge.closed and min(one, other) >= 0 and one != other:
            near = _ONE_MEETING * max(radii[one], radii[other])
            if length_of(edge.points) + 1 < near and math.hypot(*(places[one] - places[other])) < near:
                owner[root(one)] = root(other)
                continue
        rest.append(edge)
    members: dict[int, list[int]] = {}
    for k in {end for edge in edges for end in edge.ends if end >= 0}:
        members.setdefault(root(k), []).append(k)
    meetings = {}
    for first, numbers in members.items():
        place = places[numbers].mean(axis=0)
        reach = np.hypot(*(places[numbers] - place).T) + radii[numbers]
        meetings[first] = Meeting(place, float(reach.max()))
    out = []
    for edge in rest:
        edge.ends = [root(end) if end >= 0 else -1 for end in edge.ends]
        one, other = edge.ends
        if one >= 0 and one == other and length_of(edge.points) < _LEAST_LOOP * meetings[one].radius:
            continue
        out.append(edge)
    return out, meetings
