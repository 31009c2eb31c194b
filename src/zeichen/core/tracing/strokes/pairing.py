"""Which ends at a meeting are one stroke, and the lines that come of it."""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from zeichen.core.tracing.strokes.medial_graph import Meeting
from zeichen.core.tracing.strokes.rims import Lead, Run, lead_of, resampled
from zeichen.core.values import FloatArray

# Bending by so much between two ends costs as much as they are worth, and lying aside by so many half widths as half
# of it; an end that goes on into none costs so much. Our own rule: of strokes that cross, the straightest go on.
_BEND_DEG, _ASIDE, _ASIDE_COST, _ALONE = 50.0, 0.3, 0.5, 0.55
# With more ends than this at a meeting none is paired: there are too many ways to.
_MOST_ENDS = 7
# The direction of an end is seen over so many half widths.
_SEEN = 1.2
# Lines that turn by less than this sine do not meet in a corner, nor further off than so many radii of the meeting.
_LEAST_TURN, _CORNER_REACH = 0.15, 1.3

End = tuple[int, int]


@dataclass(slots=True, eq=False)
class PenLine:
    """A drawn line: points (n, 2) and half widths (n,), px, and the places at which it turns sharply."""

    points: FloatArray
    half: FloatArray
    closed: bool
    corners: list[FloatArray]

    @property
    def width_px(self) -> float:
        """Its usual width."""
        return 2.0 * float(np.median(self.half))


@dataclass(frozen=True, slots=True)
class _Link:
    """Where an end goes on, and the points between (from it to there)."""

    to: End
    between: FloatArray
    corner: bool


def pen_lines(runs: list[Run], meetings: dict[int, Meeting]) -> list[PenLine]:
    """Return the lines that runs make: through their meetings, and up to the lines they end on."""
    ends: dict[int, list[End]] = {}
    for number, run in enumerate(runs):
        for side in (0, 1):
            if run.ends[side] >= 0:
                ends.setdefault(run.ends[side], []).append((number, side))
    links: dict[End, _Link] = {}
    landings: list[tuple[End, FloatArray]] = []
    for number, there in ends.items():
        leads = [_lead(runs[k], side) for k, side in there]
        landings += _resolve(there, leads, meetings[number], links)
    for (number, side), place in landings:
        points, half = runs[number].from_side(side)
        between = resampled(np.vstack([place, points[0]]), closed=False)[:-1]
        runs[number].put(
            np.vstack([between, points]), np.concatenate([np.full(len(between), half[0]), half]), side
        )
    return _chained(runs, links)


def _lead(run: Run, side: int) -> Lead:
    points, half = run.from_side(1 - side)
    return lead_of(points, half, _SEEN * float(half.mean()) + 2.0)


def _resolve(
    ends: list[End], leads: list[Lead], meeting: Meeting, links: dict[End, _Link]
) -> list[tuple[End, FloatArray]]:
    """Link the ends at a meeting that go on into each other; returns where the others end."""
    through: list[FloatArray] = []
    left = set(range(len(ends)))

    def link(i: int, j: int, between: FloatArray, *, corner: bool) -> None:
        links[ends[i]] = _Link(ends[j], between, corner)
        links[ends[j]] = _Link(ends[i], between[::-1], corner)
        left.difference_update((i, j))
        through.append(np.vstack([leads[i].place, between, leads[j].place]))

    for i, j in _pairs(leads):
        link(i, j, _bow(leads[i], leads[j]), corner=False)
    if len(left) > 1 and not (len(left) == 2 and through):
        corner = _corner(leads, sorted(left), meeting)
        if corner is not None:
            i, j, place = corner
            link(i, j, place[None], corner=True)
    return [(ends[k], _landing(leads[k], through, meeting)) for k in sorted(left)]


def _pairs(leads: list[Lead]) -> list[tuple[int, int]]:
    """Return which ends go on into each other, at the least cost together."""
    if len(leads) > _MOST_ENDS:
        return []
    cost = {}
    for j, other in enumerate(leads):
        for i, one in enumerate(leads[:j]):
            bend = _angle_deg(one.direction, -other.direction)
            across = other.place - one.place
            off = min(abs(float(_cross(across, way))) for way in (one.direction, other.direction))
            aside = max(0.0, off / max(one.half, other.half) - _ASIDE)
            cost[i, j] = bend / _BEND_DEG + _ASIDE_COST * aside
    least = math.inf
    found: list[tuple[int, int]] = []
    for pairs in _matchings(tuple(range(len(leads)))):
        total = sum(cost[pair] for pair in pairs) + _ALONE * (len(leads) - 2 * len(pairs))
        if total < least:
            least, found = total, pairs
    return found


def _matchings(left: tuple[int, ...]) -> Iterator[list[tuple[int, int]]]:
    """Yield every way to pair some of the numbers."""
    if not left:
        yield []
        return
    first, rest = left[0], left[1:]
    yield from _matchings(rest)
    for k, other in enumerate(rest):
        for pairs in _matchings(rest[:k] + rest[k + 1 :]):
            yield [(first, other), *pairs]


def _bow(one: Lead, other: Lead) -> FloatArray:
    """Return points of the curve (Hermite's) on which one end goes on into another."""
    size = math.hypot(*(other.place - one.place))
    t = np.linspace(0.0, 1.0, max(3, int(size)) + 2)[1:-1, None]
    return np.asarray(
        (2 * t**3 - 3 * t**2 + 1) * one.place
        + (t**3 - 2 * t**2 + t) * size * one.direction
        + (3 * t**2 - 2 * t**3) * other.place
        + (t**2 - t**3) * size * other.direction
    )


def _corner(leads: list[Lead], left: list[int], meeting: Meeting) -> tuple[int, int, FloatArray] | None:
    """Return the two of the ends left that make a corner, the one nearest to a right angle, and where."""
    found: tuple[float, int, int, FloatArray] | None = None
    for b, j in enumerate(left):
        for i in left[:b]:
            place = where_ahead(leads[i], leads[j])
            if place is None or math.hypot(*(place - meeting.place)) > _CORNER_REACH * meeting.radius:
                continue
            off = abs(_angle_deg(leads[i].direction, -leads[j].direction) - 90.0)
            if found is None or off < found[0]:
                found = off, i, j, place
    return None if found is None else found[1:]


def where_ahead(one: Lead, other: Lead) -> FloatArray | None:
    """Return where two lines meet ahead of their ends; None if they hardly turn or do not."""
    turn = float(_cross(one.direction, other.direction))
    if abs(turn) < _LEAST_TURN:
        return None
    across = other.place - one.place
    ahead = [float(_cross(across, way)) / turn for way in (other.direction, one.direction)]
    return None if min(ahead) < -2.0 else one.place + ahead[0] * one.direction


def _landing(lead: Lead, through: list[FloatArray], meeting: Meeting) -> FloatArray:
    """Return where an end that goes on into none ends: ahead on a line that goes through, else in the middle."""
    least, place = meeting.radius, meeting.place
    for line in through:
        points = resampled(line, closed=False, step_px=0.5)
        off = points - lead.place
        aside = np.where(off @ lead.direction > -1.0, np.abs(_cross(off, lead.direction)), np.inf)
        nearest = int(aside.argmin())
        if aside[nearest] < least:
            least, place = float(aside[nearest]), points[nearest]
    return place


def _chained(runs: list[Run], links: dict[End, _Link]) -> list[PenLine]:
    """Return lines along linked runs, each run once."""
    lines = [PenLine(run.points, run.half, True, []) for run in runs if run.closed]
    seen = {number for number, run in enumerate(runs) if run.closed}
    free = [(k, side) for k in range(len(runs)) for side in (0, 1) if (k, side) not in links]
    for first in [*free, *((k, 0) for k in range(len(runs)))]:
        if first[0] in seen:
            continue
        points: list[FloatArray] = []
        half: list[FloatArray] = []
        corners: list[FloatArray] = []
        at, closed = first, False
        while True:
            number, side = at
            seen.add(number)
            own, own_half = runs[number].from_side(side)
            points.append(own)
            half.append(own_half)
            link = links.get((number, 1 - side))
            if link is None:
                break
            points.append(link.between)
            following = runs[link.to[0]].from_side(link.to[1])[1][0]
            half.append(np.linspace(own_half[-1], following, len(link.between)))
            if link.corner:
                corners.append(link.between[0])
            at = link.to
            if at[0] in seen:
                closed = at == first
                break
        lines.append(PenLine(np.vstack(points), np.concatenate(half), closed, corners))
    return lines


def _cross(a: FloatArray, b: FloatArray) -> FloatArray:
    return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])


def _angle_deg(a: FloatArray, b: FloatArray) -> float:
    return math.degrees(math.acos(max(-1.0, min(1.0, float(a @ b)))))
