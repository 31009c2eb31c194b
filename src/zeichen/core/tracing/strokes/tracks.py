"""Lines followed on from where they enter ink they share with others, and how two of them go on into each other."""

import math
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from zeichen.core.tracing.strokes.rim_tracking import follow
from zeichen.core.tracing.strokes.rims import Lead, resampled, rim_distances
from zeichen.core.values import AnyArray, FloatArray

# So many half widths of a line tell how it goes on.
_BEFORE = 6.0
# A line goes on unseen over so many half widths at most: as far as across another it meets aslant.
_COAST = 5.0
# Bending by so much where two tracks meet costs as much as they are worth, and lying aside by so many half widths
# costs half of it. Our own rule: of strokes that cross, the straightest go on.
_BEND_DEG, _ASIDE, _ASIDE_COST = 50.0, 0.3, 0.5
# Every so many half widths between the two cost as much, too, and neither may turn back by more than this to get there.
_GAP, _BACK_DEG = 50.0, 100.0
# Of meeting places that cost the same, the one in the middle of both: a tie break, too small to outweigh a degree.
_MIDDLE_COST = 0.02
# The rim is so many half widths beyond a corner: one if it is round, more if it is pointed.
_RIM_FROM, _RIM_TO = 0.8, 4.0
# Points of a line that may lie beside the ink: where two rims meet in a pointed angle.
_OFF_INK = 2
# Tracks are blended over so many half widths.
_BLEND = 1.0


@dataclass(frozen=True, slots=True)
class Track:
    """Where an end goes on: points (n, 2) and unit directions (n, 2), the end's own place first, and its half width.

    before: the line's own points (m, 2) up to there; followed: whether rims told, so that a bend of the line is a bend
    of its track.
    """

    points: FloatArray
    directions: FloatArray
    half: float
    before: FloatArray
    followed: bool


def straight_track(points: FloatArray, lead: Lead, reach_px: float) -> Track:
    """Return where a line, points (n, 2), goes on if its rims do not tell, as those of a pen whose width changes."""
    ahead = lead.place + np.arange(0.0, reach_px + 1.0)[:, None] * lead.direction
    return Track(
        ahead, np.broadcast_to(lead.direction, ahead.shape), lead.half, _before(points, lead), followed=False
    )


def track_of(ink: FloatArray, points: FloatArray, lead: Lead, reach_px: float) -> Track:
    """Return how a line goes on beyond its last point.

    ink: (height, width) float64, how much ink each pixel holds, 0-1. points: (n, 2), px, along the line. reach_px:
    how far to follow it at most.
    """
    before = _before(points, lead)
    ahead = follow(ink, np.ascontiguousarray(before), 2.0 * lead.half, max(reach_px, 2.0), _COAST * lead.half)
    line = np.vstack([points[-1:], ahead])
    directions = np.empty_like(line)
    directions[0] = lead.direction
    if len(line) > 1:
        # Seen over a few pixels: single steps follow the rim's noise.
        k = np.arange(1, len(line))
        back = np.maximum(k - 3, 0)
        step = line[k] - line[back]
        directions[1:] = step / np.maximum(np.hypot(*step.T), 1e-9)[:, None]
    return Track(line, directions, lead.half, before, followed=True)


def _before(points: FloatArray, lead: Lead) -> FloatArray:
    return points[-max(3, int(_BEFORE * lead.half)) :]


@dataclass(frozen=True, slots=True)
class Joint:
    """Where two tracks go on into each other: the points of each there, and what it costs."""

    cost: float
    one: int
    other: int


def joint_of(one: Track, other: Track) -> Joint:
    """Return where two tracks go on into each other at the least cost."""
    gap = other.points[None] - one.points[:, None]
    apart = np.hypot(gap[..., 0], gap[..., 1])
    bend = _degrees(one.directions @ -other.directions.T)
    # From one to the other they must not turn back.
    ahead = gap / np.maximum(apart, 1e-9)[..., None]
    turn_one = _degrees((ahead * one.directions[:, None]).sum(axis=2))
    turn_other = _degrees((ahead * -other.directions[None]).sum(axis=2))
    off = apart * np.sin(np.radians(np.minimum(np.minimum(turn_one, turn_other), 90.0)))
    aside = np.maximum(0.0, off / max(one.half, other.half) - _ASIDE)
    back = np.maximum(turn_one, turn_other) > _BACK_DEG
    i, j = np.arange(len(one.points)), np.arange(len(other.points))
    middle = np.abs(i[:, None] - j[None]) / (len(i) + len(j))
    cost = bend / _BEND_DEG + _ASIDE_COST * aside + _MIDDLE_COST * middle + apart / (_GAP * one.half)
    cost = np.where(back & (apart > 1.0), np.inf, cost)
    at = np.unravel_index(int(cost.argmin()), cost.shape)
    return Joint(float(cost[at]), int(at[0]), int(at[1]))


def between(one: Track, other: Track, joint: Joint) -> FloatArray:
    """Return the points (n, 2) from the end of one track to that of another through their joint; neither end's own."""
    span = max(2, int(_BLEND * max(one.half, other.half)))
    i, j = max(0, joint.one - span), max(0, joint.other - span)
    bow = bow_between(one.points[i], one.directions[i], other.points[j], other.directions[j])
    return np.vstack([one.points[1 : i + 1], bow, other.points[1 : j + 1][::-1]])


def bow_between(start: FloatArray, direction: FloatArray, end: FloatArray, back: FloatArray) -> FloatArray:
    """Return points (n, 2) of Hermite's curve between two places (2,) left in unit directions; without the two."""
    size = math.hypot(*(end - start))
    t = np.linspace(0.0, 1.0, max(1, int(size)) + 2)[1:-1, None]
    return np.asarray(
        (2 * t**3 - 3 * t**2 + 1) * start
        + (t**3 - 2 * t**2 + t) * size * direction
        + (3 * t**2 - 2 * t**3) * end
        + (t**2 - t**3) * size * back
    )


def straight_on(track: Track, further_px: float) -> FloatArray:
    """Return a track's points with more straight on from its last, (n, 2), px."""
    more = track.points[-1] + np.arange(1.0, max(further_px, 1.0) + 1.0)[:, None] * track.directions[-1]
    return np.vstack([track.points, more])


def crossing(one: FloatArray, other: FloatArray) -> tuple[int, int, FloatArray] | None:
    """Return where polyline (n, 2) first crosses another: the segment of each, and the place; None if it does not."""
    a, b = one[:-1, None], np.diff(one, axis=0)[:, None]
    c, d = other[None, :-1], np.diff(other, axis=0)[None]
    turn = _cross(b, d)
    safe = np.where(np.abs(turn) < 1e-9, 1.0, turn)
    s, t = _cross(c - a, d) / safe, _cross(c - a, b) / safe
    met = (np.abs(turn) >= 1e-9) & (s >= 0.0) & (s <= 1.0) & (t >= 0.0) & (t <= 1.0)
    if not met.any():
        return None
    i, j = (int(k) for k in np.unravel_index(int(met.argmax()), met.shape))
    return i, j, one[i] + s[i, j] * (one[i + 1] - one[i])


def shows_corner(
    ink: FloatArray, place: FloatArray, before: FloatArray, after: FloatArray, half: float
) -> bool:
    """Return whether the ink goes as far beyond a place as it does at a pen's corner.

    ink: (height, width); before, after: points (2,) on its two sides; half: how wide the line is there, px.
    """
    outward = 2 * place - before - after
    outward = outward / max(math.hypot(*outward), 1e-9)
    # From a little inside, so that there is ink to begin with.
    rim = float(rim_distances(ink, (place - 2.0 * outward)[None], outward[None], _RIM_TO * half)[0]) - 2.0
    return _RIM_FROM * half < rim < _RIM_TO * half


def landed(track: Track, lines: list[FloatArray], further_px: float, near_px: float) -> FloatArray | None:
    """Return a track's points (n, 2) up to where it crosses another line or comes near it; None if it reaches none."""
    points = straight_on(track, further_px)
    found: tuple[int, FloatArray] | None = None
    for line in lines:
        met = crossing(points, line)
        if met is not None and (found is None or met[0] < found[0]):
            found = met[0] + 1, met[2]
        if met is None:
            fine = resampled(line, closed=False, step_px=0.25)
            apart = np.hypot(*(points[:, None] - fine[None]).transpose(2, 0, 1))
            near = np.nonzero(apart.min(axis=1) < near_px)[0]
            if len(near) and (found is None or near[0] < found[0]):
                found = int(near[0]), fine[int(apart[near[0]].argmin())]
    return None if found is None else np.vstack([points[: found[0]], found[1]])


def on_ink(ink: FloatArray, points: FloatArray) -> bool:
    """Return whether a line through points (n, 2), about a pixel apart, hardly leaves the ink (height, width)."""
    seen = ndimage.map_coordinates(ink, points.T[::-1] - 0.5, order=1)
    return int(np.count_nonzero(seen < 0.5)) <= _OFF_INK


def rim_beyond(place: FloatArray, direction: FloatArray, lines: list[FloatArray], half: float) -> float:
    """Return how far from a place (2,) on one of some lines (n, 2) their rim is in a unit direction (2,), px."""
    furthest = half
    for line in lines:
        off = np.hypot(*(line - place).T)
        near = np.nonzero(off < 2.5 * half)[0]
        if len(near) < 2:
            continue
        # Seen over the whole neighbourhood: the line may bend under the one that ends on it.
        apart = np.linspace(0.0, 4.0 * half, 33)
        at = place + apart[:, None] * direction
        covered = np.hypot(*(at[:, None] - line[None, near]).transpose(2, 0, 1)).min(axis=1) <= half
        if covered[0]:
            furthest = max(furthest, float(apart[covered.argmin() if not covered.all() else -1]))
    return furthest


def _cross(a: AnyArray, b: AnyArray) -> FloatArray:
    return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])


def _degrees(cosine: AnyArray) -> FloatArray:
    return np.asarray(np.degrees(np.arccos(np.clip(cosine, -1.0, 1.0))))
