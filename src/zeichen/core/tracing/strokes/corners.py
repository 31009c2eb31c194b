"""Sharp corners of a pen: the middle of the ink cuts them off, its straight sides tell where they are."""

import math

import numpy as np

from zeichen.core.tracing.strokes.pairing import PenLine
from zeichen.core.tracing.strokes.rims import resampled, rim_distances
from zeichen.core.tracing.strokes.tracks import crossing, shows_corner
from zeichen.core.values import AnyArray, FloatArray

# Sides are seen from so many half widths off the corner, where its ink no longer moves the middle, to so many: a blunt
# corner's, then those of a slender one.
_SIDES = ((1.0, 2.4), (1.9, 3.6))
# They are straight if points lie off by no more than this, RMS: a share of the half width, and px; and turn by so much.
_BOW, _BOW_PX = 0.05, 0.35
_LEAST_DEG = 35.0
# Where sides meet is nearer to the middle of the ink than this share of how far it would be if the pen had gone round
# by a circle that touches both: at a sharp corner of a right angle it is .23 of that, of 120 degrees .2.
_OF_CIRCLE = 0.5
# A round pen's rim is half a width beyond its corner, as wide as its sides are; where it is nearer the pen went round.
# Of a circle of five half widths it is .7 of one.
_RIM_FROM, _RIM_TO = 0.85, 1.6
# A side is one line or parabola if points lie off it by no more than this, RMS px; looked for over so many times as far
# as the corner's ink reaches.
_AS_ONE_PX = 0.08
_WINDOWS = (1.5, 2.5, 4.0, 7.0, 12.0)
# So many half widths off a corner its ink moves no middle.
_CLEAR = 1.8
# Of a ring shorter than so many half widths no side is seen that is longer than its bend.
_SMALL_RING = 14.0
# What lies no further than so many of where sides are seen from belongs to the corner.
_OF_CORNER = 1.3


def with_corners(ink: FloatArray, line: PenLine) -> PenLine:
    """Return a line with its corners where its sides meet; ink: (height, width), share of ink in each pixel."""
    points = resampled(line.points, line.closed)
    usual = float(np.median(line.half))
    count = len(points)
    half = _half_along(line, points)

    def near(k: int, span: int) -> AnyArray:
        around = np.arange(k - span, k + span + 1)
        return around % count if line.closed else around[(around >= 0) & (around < count)]

    spans = [(max(2, int(first * usual)), max(5, int(last * usual))) for first, last in _SIDES]
    corners = [(int(np.hypot(*(points - place).T).argmin()), place, spans[0][0]) for place in line.corners]
    for start, stop in spans:
        if count < 2 * start + _LEAST or (line.closed and count < _SMALL_RING * usual):
            break
        at, meet, turn = _candidates(points, line.closed, start, stop, usual)
        if not len(at):
            continue
        outward = meet - _beside(points, at, start, line.closed)
        outward /= np.maximum(np.hypot(*outward.T), 1e-9)[:, None]
        # From a little inside, so that there is ink to begin with.
        rim = rim_distances(ink, meet - 2.0 * outward, outward, 3.0 * usual + 2.0) - 2.0
        sides = _beside(half, at, (start + stop) // 2, line.closed)
        free = (rim > _RIM_FROM * sides) & (rim < _RIM_TO * sides)
        for k, _, _ in corners:
            free &= ~np.isin(at, near(k, stop))
        while free.any():
            best = int(np.where(free, turn, -1.0).argmax())
            same = free & np.isin(at, near(int(at[best]), stop))
            # The one of them whose sides meet nearest to it.
            off = np.where(same, np.hypot(*(meet - points[at]).T), np.inf)
            chosen = int(off.argmin())
            corners.append((int(at[chosen]), meet[chosen], start))
            free &= ~same
    if not corners:
        return line
    gone = np.zeros(count, bool)
    placed: list[tuple[int, FloatArray]] = []
    for k, place, start in corners:
        around = near(k, start)
        others = [(other - k) % count if line.closed else other - k for other, _, _ in corners if other != k]
        better = refined(points, k, place, int(_CLEAR * usual), others, closed=line.closed)
        before, after = points[around[0]], points[around[-1]]
        # What the sides lead to may lie beyond the ink: there the pen went round.
        shown = [
            at for at in (better, place) if shows_corner(ink, at, before, after, float(half[around].min()))
        ]
        if shown:
            placed.append((k, shown[0]))
            moved = math.hypot(*(shown[0] - points[k]))
            gone[near(k, int(max(_OF_CORNER * start, start + moved)))] = True
    for k, place in placed:
        points[k], gone[k] = place, False
    return PenLine(points[~gone], half[~gone], line.closed, [place for _, place in placed])


def refined(
    points: FloatArray, k: int, place: FloatArray, start: int, others: list[int], *, closed: bool
) -> FloatArray:
    """Return where a corner's sides meet, (2,) px, seen over as much of them as one straight line or parabola is.

    points: (n, 2), px, about one apart; k: the corner's; place: (2,), where it is thought to be; start: how many points
    its ink reaches; others: how many points further on other corners are, back of it below 0.
    """
    count = len(points)
    sides = []
    for sign in (-1, 1):
        most = (count - start if closed else (k if sign < 0 else count - 1 - k)) - 1
        to_next = [(sign * other) % count if closed else sign * other for other in others]
        most = min([most, *(n - start for n in to_next if n > 0)])
        if most <= start:
            return place
        numbers = k + sign * np.arange(start, most + 1)
        side = _extended(points[numbers % count if closed else numbers], float(start))
        if side is None:
            return place
        sides.append(side)
    met = crossing(*sides)
    return place if met is None or np.hypot(*(met[2] - place)) > start else met[2]


def _extended(side: FloatArray, away: float) -> FloatArray | None:
    """Return a curve through the points of a side, going away from a corner, with as much more towards and past it."""
    found = None
    t = np.arange(len(side)) + away
    for share in _WINDOWS:
        n = min(len(side), max(int(share * away), 6))
        if n < 6:
            return None
        for degree in (1, 2):
            fit = np.polynomial.polynomial.polyfit(t[:n], side[:n], degree)
            model = np.polynomial.polynomial.polyval(t[:n], fit).T
            if float(np.sqrt(((side[:n] - model) ** 2).sum(axis=1).mean())) < _AS_ONE_PX:
                at = np.arange(-1.5 * away, 1.5 * away + 1.0)
                found = np.polynomial.polynomial.polyval(at, fit).T
                break
        else:
            break
        if n == len(side):
            break
    return found


# Sides of fewer points than this tell no direction.
_LEAST = 4


def _half_along(line: PenLine, points: FloatArray) -> FloatArray:
    """Return the half widths at points that were set anew along a line."""
    along = np.linspace(0.0, 1.0, len(line.half))
    return np.interp(np.linspace(0.0, 1.0, len(points)), along, line.half)


def _candidates(
    points: FloatArray, closed: bool, start: int, stop: int, usual: float
) -> tuple[AnyArray, FloatArray, FloatArray]:
    """Return the points whose two sides are straight and turn, where those meet, and by how much they turn, degrees."""
    count = len(points)
    pad = stop + 1
    longer = np.vstack([points[-pad:], points, points[:pad]]) if closed else points
    if closed and count < pad:
        return np.zeros(0, int), np.zeros((0, 2)), np.zeros(0)
    at = np.arange(count) + (pad if closed else 0)
    sides = [_side(longer, at - stop, at - start), _side(longer, at + start, at + stop)]
    (before, along, bow_before), (after, on, bow_after) = sides
    # Both directions as the line runs.
    turn = np.degrees(np.arccos(np.clip((along * on).sum(axis=1), -1.0, 1.0)))
    sine = along[:, 0] * on[:, 1] - along[:, 1] * on[:, 0]
    across = after - before
    ahead = (across[:, 0] * on[:, 1] - across[:, 1] * on[:, 0]) / np.where(np.abs(sine) < 1e-3, 1e-3, sine)
    meet = before + ahead[:, None] * along
    most = _BOW * usual + _BOW_PX
    found = (turn >= _LEAST_DEG) & (bow_before <= most) & (bow_after <= most)
    radians = np.maximum(np.radians(turn), 1e-3)
    circle = (start + stop) / radians * (1.0 / np.maximum(np.cos(radians / 2), 1e-3) - 1.0)
    found &= np.hypot(*(meet - points).T) < _OF_CIRCLE * circle
    return np.nonzero(found)[0], meet[found], turn[found]


def _side(points: FloatArray, first: AnyArray, last: AnyArray) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return middle, direction as the line runs and RMS distance of the points from each first to each last.

    A side that the line has too little of is nowhere straight.
    """
    inside_first, inside_last = np.maximum(first, 0), np.minimum(last, len(points) - 1)
    count = inside_last - inside_first + 1
    enough = count >= np.maximum(_LEAST, (last - first + 1) // 2)
    inside_first = np.where(enough, inside_first, 0)
    inside_last = np.where(enough, inside_last, 0)
    count = np.where(enough, count, 1)[:, None]
    x, y = points[:, 0], points[:, 1]
    table = np.stack([x, y, x * x, x * y, y * y], axis=1)
    sums = np.vstack([np.zeros(5), np.cumsum(table, axis=0)])
    mean = (sums[inside_last + 1] - sums[inside_first]) / count
    xx, xy = mean[:, 2] - mean[:, 0] ** 2, mean[:, 3] - mean[:, 0] * mean[:, 1]
    yy = mean[:, 4] - mean[:, 1] ** 2
    angle = 0.5 * np.arctan2(2 * xy, xx - yy)
    direction = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    run = points[inside_last] - points[inside_first]
    direction *= np.where((direction * run).sum(axis=1) < 0, -1.0, 1.0)[:, None]
    least = (xx + yy) / 2 - np.sqrt(((xx - yy) / 2) ** 2 + xy**2)
    bow = np.where(enough, np.sqrt(np.maximum(least, 0.0)), math.inf)
    return mean[:, :2], direction, bow


def _beside(values: FloatArray, at: AnyArray, away: int, closed: bool) -> FloatArray:
    """Return the mean of the values so many points before and after each place."""
    count = len(values)
    before, after = at - away, at + away
    if closed:
        before, after = before % count, after % count
    return np.asarray((values[np.maximum(before, 0)] + values[np.minimum(after, count - 1)]) / 2)
