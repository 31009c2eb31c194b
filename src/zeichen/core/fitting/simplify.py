"""Fewer nodes for the same curve, within a tolerance.

Between corners and the ends of straight lines, the fewest of the path's own nodes are kept between which one
cubic with the curve's own directions stays within the tolerance: a shortest path over the nodes.
"""

import itertools
import math

import numpy as np

from zeichen.core.fitting.cubic_fit import Ends, fit_cubic, line_error, room_for
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.values import AnyArray, FloatArray, require_number

# A turn sharper than this stays a corner, and a curve is looked at in so many steps (our own rules).
_CORNER_DEG = 12.0
_SAMPLES = 9
# No more segments than this are put together at once.
_REACH = 48


def simplified_path(path: Path, *, tolerance: float) -> Path:
    """Return one path with fewer nodes; the path itself if none can go.

    Raises
    ------
    InvalidInputError
        If the tolerance is not above 0.
    """
    require_number(tolerance, "Tolerance", above=0)
    segments = without_points(path.segments)
    if len(segments) < 2:
        return path
    corner = corners(segments, path.closed)
    if path.closed and not corner.any():
        # A closed curve starts where it bends least: a node there is missed least.
        corner[0] = True
    if path.closed:
        first = int(np.nonzero(corner)[0][0])
        segments, corner = np.roll(segments, -first, axis=0), np.roll(corner, -first)
    bounds = [*np.nonzero(corner)[0].tolist(), len(segments)]
    if bounds[0] != 0:
        bounds.insert(0, 0)
    runs = [fewest(segments[a:b], tolerance) for a, b in itertools.pairwise(bounds) if b > a]
    out = np.concatenate(runs)
    return Path(out, path.closed) if len(out) < len(path.segments) else path


def without_points(segments: FloatArray) -> FloatArray:
    """Return the segments that are longer than nothing."""
    long = np.abs(np.diff(segments, axis=1)).max(axis=(1, 2)) > 1e-9
    return np.asarray(segments[long])


def corners(segments: FloatArray, closed: bool) -> AnyArray:
    """Return which segments start at a corner, or where a line that was meant to be one begins or ends."""
    start, end = bezier.end_directions(segments)
    coming = np.roll(end, 1, axis=0)
    turn = np.abs(
        np.arctan2(coming[:, 0] * start[:, 1] - coming[:, 1] * start[:, 0], (coming * start).sum(axis=1))
    )
    corner = turn > math.radians(_CORNER_DEG)
    straight = bezier.is_straight(segments, tolerance=1e-6)
    size = np.hypot(*(segments[:, 3] - segments[:, 0]).T)
    # A polygon that stands for a curve has short sides; a true side is long beside its neighbours.
    side = straight & (size > 3.0 * np.median(size))
    corner |= side | np.roll(side, 1)
    if not closed:
        corner[0] = True
    return np.asarray(corner)


def fewest(segments: FloatArray, tolerance: float) -> FloatArray:
    """Return the fewest cubics along a smooth run; each end of a joined piece keeps the run's direction there."""
    count = len(segments)
    if count == 1:
        return segments
    start, end = bezier.end_directions(segments)
    # At a node inside the run the direction is the mean of both sides: what was nearly smooth becomes smooth.
    node = np.empty((count + 1, 2))
    node[0], node[count] = start[0], end[-1]
    mean = end[:-1] + start[1:]
    node[1:count] = mean / np.maximum(np.hypot(*mean.T), 1e-12)[:, None]
    t = np.arange(_SAMPLES) / _SAMPLES
    points = bezier.evaluate(segments, t)
    best = np.full(count + 1, np.inf)
    best[0] = 0.0
    step: list[tuple[int, FloatArray]] = [(0, segments[0])] * (count + 1)
    for b in range(1, count + 1):
        for a in range(b - 1, max(-1, b - 1 - _REACH), -1):
            if best[a] + 1.0 >= best[b]:
                continue
            if b == a + 1:
                piece: FloatArray | None = segments[a]
            else:
                piece = _one_cubic(
                    points[a:b].reshape(-1, 2), segments[b - 1, 3], node[a], node[b], tolerance
                )
                if piece is None and b - a > 12 and best[a] + 1.0 < best[b] - 1.0:
                    # Far beyond what fits, nothing longer will.
                    break
            if piece is not None:
                best[b], step[b] = best[a] + 1.0, (a, piece)
    out: list[FloatArray] = []
    at = count
    while at > 0:
        a, piece = step[at]
        out.append(piece)
        at = a
    return np.array(out[::-1])


def _one_cubic(
    points: FloatArray, last: FloatArray, start: FloatArray, end: FloatArray, tolerance: float
) -> FloatArray | None:
    first = points[0]
    inner = np.ascontiguousarray(points[1:].T)
    count = inner.shape[1]
    if line_error(inner, count, first, last) <= 0.2 * tolerance:
        chord = (last - first) / max(float(np.hypot(*(last - first))), 1e-12)
        if float(chord @ start) > 0.9999 and float(chord @ end) > 0.9999:
            return np.asarray(bezier.line_segments(np.stack([first, last]))[0])
    room = room_for(count)
    worst, _ = fit_cubic(inner, count, Ends(first, last, start, -end, False, False), 4, room)
    out: FloatArray = room.out
    if not worst <= tolerance:
        return None
    # Handles must point the way the curve goes, and not far beyond the other end.
    span = float(np.hypot(*(last - first))) or 1.0
    a, b = out[1] - first, out[2] - last
    good = float(a @ start) >= 0 and float(b @ -end) >= 0 and max(np.hypot(*a), np.hypot(*b)) < 4.0 * span
    return out if good else None
