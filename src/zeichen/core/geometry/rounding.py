"""Arcs in place of a path's corners."""

import math

import numpy as np

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.values import FloatArray

_FLAT_DEG, _MOST_DEG = 2.0, 178.0
# A corner takes no more than this share of each of its sides.
_MOST_OF_SIDE = 0.49


def is_corner(turn: float) -> bool:
    """Return whether a turn (radians) can be rounded: it is neither straight on nor right back."""
    return math.radians(_FLAT_DEG) <= abs(turn) <= math.radians(_MOST_DEG)


def turn_between(coming: FloatArray, going: FloatArray) -> float:
    """Return the angle, radians, from one direction to another, positive where x turns to y."""
    return math.atan2(float(coming[0] * going[1] - coming[1] * going[0]), float(coming @ going))


def rounded(path: Path, radii: dict[int, float]) -> Path:
    """Return the path with some corners rounded; less where their sides are too short, nodes without a corner stay.

    Between straight sides the arc is a circle's, starting radius / tan(angle / 2) from the corner (derived);
    along curved ones it starts as far along the curve and keeps their directions.

    radii: of the arc at each node, by the number of the segment that starts there; never 0 on an open path.
    """
    segments = path.segments
    count = len(segments)
    start, end = bezier.end_directions(segments)
    lengths = bezier.arc_lengths(segments)
    cut0, cut1 = np.zeros(count), np.ones(count)
    corners: set[int] = set()
    for node, radius in radii.items():
        before = (node - 1) % count
        turn = turn_between(end[before], start[node])
        if not is_corner(turn):
            continue
        reach = radius * math.tan(abs(turn) / 2.0)
        reach = min(reach, _MOST_OF_SIDE * float(lengths[before]), _MOST_OF_SIDE * float(lengths[node]))
        cut1[before] = _at_length(segments[before], float(lengths[before]) - reach)
        cut0[node] = _at_length(segments[node], reach)
        corners.add(node)
    out: list[FloatArray] = []
    for k in range(count):
        piece = _part(segments[k], float(cut0[k]), float(cut1[k]))
        if k in corners:
            before = (k - 1) % count
            last = _part(segments[before], float(cut0[before]), float(cut1[before]))
            out.append(_arc_between(last, piece))
        out.append(piece)
    if path.closed and 0 in corners:
        # The arc at the first node closes the path.
        out = [*out[1:], out[0]]
    return Path(np.array(out), path.closed)


def _at_length(segment: FloatArray, length: float) -> float:
    """Return the parameter at a length along a segment."""
    t = np.linspace(0.0, 1.0, 65)
    points = bezier.evaluate(segment[None], t)[0]
    along = bezier.lengths_along(points)
    return float(np.interp(length, along, t))


def _part(segment: FloatArray, t0: float, t1: float) -> FloatArray:
    tail = bezier.split(segment[None], 0, t0)[1] if t0 > 0 else segment
    if t1 >= 1.0:
        return np.asarray(tail)
    return np.asarray(bezier.split(tail[None], 0, (t1 - t0) / (1.0 - t0))[0])


def _arc_between(coming: FloatArray, going: FloatArray) -> FloatArray:
    """Return the curve, a circle's arc if there is one, from the end of a segment to the start of another."""
    _, (end,) = bezier.end_directions(coming[None])
    (start,), _ = bezier.end_directions(going[None])
    a, b = coming[3], going[0]
    turn = abs(turn_between(end, start))
    # Of an arc with this chord and this turn.
    radius = math.dist(a, b) / max(2.0 * math.sin(turn / 2.0), 1e-9)
    handle = 4.0 / 3.0 * math.tan(turn / 4.0) * radius
    return np.stack([a, a + handle * end, b - handle * start, b])
