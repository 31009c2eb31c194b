"""Which ends at a meeting are one stroke, and the lines that come of it."""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from zeichen.core.tracing.strokes.medial_graph import Meeting, length_of
from zeichen.core.tracing.strokes.rims import Run, lead_of, resampled, rim_distances
from zeichen.core.tracing.strokes.tracks import (
    Joint,
    Track,
    between,
    crossing,
    joint_of,
    landed,
    on_ink,
    rim_beyond,
    shows_corner,
    straight_on,
    straight_track,
    track_of,
)
from zeichen.core.values import FloatArray

# Bending by so much between two ends, as they leave, costs so much; an end that goes on into none so much. Our own
# rule.
_BEND_DEG, _BENT, _ALONE = 50.0, 0.8, 0.55
# With more ends than this at a meeting none is paired: there are too many ways to.
_MOST_ENDS = 7
# The direction of an end is seen over so many half widths.
_SEEN = 1.2
# Lines meet in a corner no further beyond their ink's end than so many half widths; they end on another where they come
# so near, half widths.
_CORNER_ON, _LANDED = 2.0, 0.15
# Beyond a line it crosses a cap is looked for over so many half widths, and it sticks out by so much of one.
_CAP_SEEN, _ASLANT, _CAP = 4.0, 1.4, 0.15
# A line no longer than so many half widths whose end is no further from a corner is the corner's tip.
_STUB, _STUB_OFF = 3.0, 0.8

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
    """Where an end goes on, the points between (from it to there), and which of them is a corner."""

    to: End
    between: FloatArray
    corner: int | None


def pen_lines(ink: FloatArray, runs: list[Run], meetings: dict[int, Meeting], *, even: bool) -> list[PenLine]:
    """Return the lines that runs make: through their meetings, and up to the lines they end on.

    ink: (height, width), how much ink each pixel holds, 0-1. even: whether all lines are as wide.
    """
    ends: dict[int, list[End]] = {}
    for number, run in enumerate(runs):
        for side in (0, 1):
            if run.ends[side] >= 0:
                ends.setdefault(run.ends[side], []).append((number, side))
    links: dict[End, _Link] = {}
    landings: list[tuple[End, FloatArray]] = []
    stubs: set[int] = set()
    for number, there in ends.items():
        reach = 2.0 * meetings[number].radius
        tracks = [_track(ink if even else None, runs[k], side, reach) for k, side in there]
        stub = _stub_of_corner(ink, runs, there, tracks)
        if stub is not None:
            # What sticks out beyond a corner is its own tip.
            stubs.add(there.pop(stub)[0])
            tracks.pop(stub)
        landings += _resolve(ink, there, tracks, meetings[number], links)
    for (number, side), before in landings:
        points, half = runs[number].from_side(side)
        if not on_ink(ink, before):
            # All that is known of it is the middle of the ink it shares.
            before = runs[number].shared.get(side, before[:0])
        runs[number].put(
            np.vstack([before[::-1], points]), np.concatenate([np.full(len(before), half[0]), half]), side
        )
    return _chained(runs, links, stubs)


def _stub_of_corner(ink: FloatArray, runs: list[Run], ends: list[End], tracks: list[Track]) -> int | None:
    """Return which of three ends is only the tip of the corner that the two others make."""
    if len(ends) != 3:
        return None
    for k, (number, side) in enumerate(ends):
        run = runs[number]
        if run.ends[1 - side] >= 0 or length_of(run.points) > _STUB * tracks[k].half:
            continue
        corner = _corner(ink, tracks, [i for i in range(3) if i != k])
        tip = run.points[-1 if side == 0 else 0]
        if corner is not None and math.hypot(*(corner[2][corner[3]] - tip)) < _STUB_OFF * tracks[k].half:
            return k
    return None


def _track(ink: FloatArray | None, run: Run, side: int, reach_px: float) -> Track:
    points, half = run.from_side(1 - side)
    lead = lead_of(points, half, _SEEN * float(half.mean()) + 2.0)
    reach_px += 2.0 * lead.half
    return straight_track(points, lead, reach_px) if ink is None else track_of(ink, points, lead, reach_px)


def _resolve(
    ink: FloatArray, ends: list[End], tracks: list[Track], meeting: Meeting, links: dict[End, _Link]
) -> list[tuple[End, FloatArray]]:
    """Link the ends at a meeting that go on into each other; returns how the others end."""
    through: list[FloatArray] = []
    left = set(range(len(ends)))

    def link(i: int, j: int, between: FloatArray, *, corner: int | None) -> None:
        links[ends[i]] = _Link(ends[j], between, corner)
        links[ends[j]] = _Link(ends[i], between[::-1], None if corner is None else len(between) - 1 - corner)
        left.difference_update((i, j))
        through.append(np.vstack([tracks[i].before, between, tracks[j].before[::-1]]))

    for i, j, joint in _pairs(ink, tracks):
        link(i, j, between(tracks[i], tracks[j], joint), corner=None)
    if 1 < len(left) <= _MOST_ENDS and not (len(left) == 2 and through):
        corner = _corner(ink, tracks, sorted(left))
        if corner is not None:
            i, j, route, at = corner
            link(i, j, route, corner=at)
        elif len(left) == 2:
            # No corner the ink shows: the pen went round.
            i, j = sorted(left)
            link(i, j, between(tracks[i], tracks[j], joint_of(tracks[i], tracks[j])), corner=None)
    out = []
    for k in sorted(left):
        others = [*through, *(_up_to(track, meeting.place) for j, track in enumerate(tracks) if j != k)]
        out.append((ends[k], _landing(ink, tracks[k], through, others, meeting)))
    return out


def _pairs(ink: FloatArray, tracks: list[Track]) -> list[tuple[int, int, Joint]]:
    """Return which ends go on into each other, at the least cost together."""
    if len(tracks) > _MOST_ENDS:
        return []
    joints = {}
    cost = {}
    for j, other in enumerate(tracks):
        for i, one in enumerate(tracks[:j]):
            joints[i, j] = joint_of(one, other)
            bend = _angle_deg(one.directions[0], -other.directions[0]) / _BEND_DEG
            cost[i, j] = joints[i, j].cost + (_BENT * bend if one.followed else 0.0)
            if cost[i, j] < 2.0 * _ALONE and not on_ink(ink, between(one, other, joints[i, j])):
                cost[i, j] = math.inf
    least = math.inf
    found: list[tuple[int, int]] = []
    for pairs in _matchings(tuple(range(len(tracks)))):
        total = sum(cost[pair] for pair in pairs) + _ALONE * (len(tracks) - 2 * len(pairs))
        if total < least:
            least, found = total, pairs
    return [(i, j, joints[i, j]) for i, j in found]


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


def _corner(ink: FloatArray, tracks: list[Track], left: list[int]) -> tuple[int, int, FloatArray, int] | None:
    """Return the two of the ends left that make a corner, the one nearest to a right angle, its points and where.

    A pen's ink goes half a width beyond its corner, or further if the corner is a pointed one.
    """
    found: tuple[float, int, int, FloatArray, int] | None = None
    for b, j in enumerate(left):
        for i in left[:b]:
            half = max(tracks[i].half, tracks[j].half)
            one, other = (straight_on(tracks[k], _CORNER_ON * tracks[k].half) for k in (i, j))
            met = crossing(one, other)
            if met is None:
                continue
            at, back, place = met
            away = int(1.5 * half) + 1
            if not shows_corner(ink, place, one[max(0, at - away)], other[max(0, back - away)], half):
                continue
            off = abs(_angle_deg(tracks[i].directions[0], -tracks[j].directions[0]) - 90.0)
            if found is None or off < found[0]:
                route = np.vstack([one[1 : at + 1], place, other[1 : back + 1][::-1]])
                found = off, i, j, route, at
    return None if found is None else found[1:]


def _up_to(track: Track, place: FloatArray) -> FloatArray:
    """Return a line's own points and those of its track, as far as it comes nearer to a place."""
    nearest = int(np.hypot(*(track.points - place).T).argmin())
    return np.vstack([track.before, track.points[: nearest + 1]])


def _landing(
    ink: FloatArray, track: Track, through: list[FloatArray], others: list[FloatArray], meeting: Meeting
) -> FloatArray:
    """Return the points on which an end that goes on into none ends: on a line that goes through, else in the middle.

    Where its cap shows beyond that line and all others, it ends there.
    """
    points = landed(track, through, meeting.radius + track.half, _LANDED * track.half) if through else None
    if points is None:
        points = resampled(np.vstack([track.points[:1], meeting.place]), closed=False)
    points = points[1:]
    if track.followed and len(points):
        place = points[-1]
        direction = (place - track.points[0]) / max(math.hypot(*(place - track.points[0])), 1e-9)
        rim = float(rim_distances(ink, place[None], direction[None], _CAP_SEEN * track.half)[0])
        further = rim - track.half
        beyond = rim_beyond(place, direction, others, track.half)
        # Aslant a line's rim is far: what lies there is no cap.
        if further > 0.0 and beyond < _ASLANT * track.half and rim > beyond + _CAP * track.half:
            points = np.vstack([points, place + further * direction])
    return points


def _chained(runs: list[Run], links: dict[End, _Link], stubs: set[int]) -> list[PenLine]:
    """Return lines along linked runs, each run once."""
    lines = [PenLine(run.points, run.half, True, []) for run in runs if run.closed]
    seen = stubs | {number for number, run in enumerate(runs) if run.closed}
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
            if link.corner is not None:
                corners.append(link.between[link.corner])
            at = link.to
            if at[0] in seen:
                closed = at == first
                break
        lines.append(PenLine(np.vstack(points), np.concatenate(half), closed, corners))
    return lines


def _angle_deg(a: FloatArray, b: FloatArray) -> float:
    return math.degrees(math.acos(max(-1.0, min(1.0, float(a @ b)))))
