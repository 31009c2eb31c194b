"""Sharp corners of a pen: the middle of the ink cuts them off, its straight sides tell where they are."""

import math

import numpy as np

from zeichen.core.tracing.strokes.pairing import PenLine
from zeichen.core.tracing.strokes.rims import resampled, rim_distances
from zeichen.core.values import AnyArray, FloatArray

# Sides are seen from so many half widths off the corner, where its ink no longer moves the middle, to so many.
_FROM, _TO = 1.0, 2.4
# They are straight if points lie off by no more than this, RMS: a share of the half width, and px; and turn by so much.
_BOW, _BOW_PX = 0.05, 0.35
_LEAST_DEG = 35.0
# Where sides meet is nearer to the middle of the ink than this share of how far it would be if the pen had gone round
# by a circle that touches both: at a sharp corner of a right angle it is .23 of that, of 120 degrees .2.
_OF_CIRCLE = 0.5
# A round pen's rim is half a width beyond its corner, as wide as its sides are; where it is nearer the pen went round.
# Of a circle of five half widths it is .7 of one.
_RIM_FROM, _RIM_TO = 0.85, 1.6
# What lies no further than so many of where sides are seen from belongs to the corner.
_OF_CORNER = 1.3


def with_corners(ink: AnyArray, line: PenLine) -> PenLine:
    """Return a line with its corners where its sides meet; see measured_runs for ink."""
    points = resampled(line.points, line.closed)
    usual = float(np.median(line.half))
    start, stop = max(2, int(_FROM * usual)), max(5, int(_TO * usual))
    count = len(points)
    if count < 2 * start + _LEAST:
        return line
    at, meet, turn = _candidates(points, line.closed, start, stop, usual)
    if not len(at):
        return line
    outward = meet - _beside(points, at, start, line.closed)
    outward /= np.maximum(np.hypot(*outward.T), 1e-9)[:, None]
    # From a little inside, so that there is ink to begin with.
    inside = meet - 2.0 * outward
    rim = rim_distances(ink, inside, outward, 3.0 * usual + 2.0) - 2.0
    half = _half_along(line, points)
    sides = _beside(half, at, (start + stop) // 2, line.closed)
    sharp = (rim > _RIM_FROM * sides) & (rim < _RIM_TO * sides)
    at, meet, turn = at[sharp], meet[sharp], turn[sharp]
    corners: list[tuple[int, FloatArray]] = []
    gone = np.zeros(count, bool)
    free = np.ones(len(at), bool)
    while free.any():
        best = int(np.where(free, turn, -1.0).argmax())
        apart = np.abs(at - at[best])
        if line.closed:
            apart = np.minimum(apart, count - apart)
        same = free & (apart <= stop)
        # The one of them whose sides meet nearest to it.
        off = np.where(same, np.hypot(*(meet - points[at]).T), np.inf)
        chosen = int(off.argmin())
        corners.append((int(at[chosen]), meet[chosen]))
        free &= ~same
        reach = int(_OF_CORNER * start)
        around = np.arange(at[chosen] - reach, at[chosen] + reach + 1)
        around = around % count if line.closed else around[(around >= 0) & (around < count)]
        gone[around] = True
    if not corners:
        return line
    for k, place in corners:
        points[k], gone[k] = place, False
    return PenLine(points[~gone], half[~gone], line.closed, [*line.corners, *(place for _, place in corners)])


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
