"""Rounding corners by a radius."""

import math

import numpy as np

from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.values import FloatArray, require_number

_FLAT_DEG = 2.0
# A corner takes no more than this share of each of its sides.
_MOST_OF_SIDE = 0.49


def rounded_corner(path: Path, node: int, radius: float) -> Path:
    """Return the path with the corner where a segment starts rounded; less where its sides are too short.

    Between straight sides the arc is a circle's, starting radius / tan(angle / 2) from the corner (derived);
    along curved ones it starts as far along the curve and keeps their directions.

    Raises
    ------
    InvalidInputError
        If there is no such node, no corner at it, or the radius is not above 0.
    """
    require_number(radius, "Radius", above=0)
    return _rounded(path, [node], radius, must=True)


def rounded_corners(path: Path, nodes: list[int], radius: float) -> Path:
    """Return the path with several corners rounded; nodes without a corner stay."""
    require_number(radius, "Radius", above=0)
    return _rounded(path, nodes, radius, must=False)


def _rounded(path: Path, nodes: list[int], radius: float, *, must: bool) -> Path:
    segments = path.segments
    count = len(segments)
    start, end = bezier.end_directions(segments)
    lengths = bezier.arc_lengths(segments)
    cut0, cut1 = np.zeros(count), np.ones(count)
    corner: dict[int, float] = {}
    for node in nodes:
        if not 0 <= node < count or (not path.closed and node == 0):
            raise InvalidInputError(f"There is no corner {node}; the path has {count} segments.")
        before = (node - 1) % count
        coming, going = end[before], start[node]
        turn = math.atan2(float(coming[0] * going[1] - coming[1] * going[0]), float(coming @ going))
        if abs(turn) < math.radians(_FLAT_DEG) or abs(turn) > math.radians(178.0):
            if must:
                raise InvalidInputError("There is no corner to round at this node.")
            continue
        reach = radius * math.tan(abs(turn) / 2.0)
        reach = min(reach, _MOST_OF_SIDE * float(lengths[before]), _MOST_OF_SIDE * float(lengths[node]))
        cut1[before] = _at_length(segments[before], float(lengths[before]) - reach)
        cut0[node] = _at_length(segments[node], reach)
        corner[node] = turn
    out: list[FloatArray] = []
    for k in range(count):
        piece = _part(segments[k], float(cut0[k]), float(cut1[k]))
        if k in corner:
            before = (k - 1) % count
            last = _part(segments[before], float(cut0[before]), float(cut1[before]))
            out.append(_fillet(last, piece))
        out.append(piece)
    if path.closed and 0 in corner:
        # The fillet at the first node closes the path.
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


def _fillet(coming: FloatArray, going: FloatArray) -> FloatArray:
    _, end = bezier.end_directions(coming[None])
    start, _ = bezier.end_directions(going[None])
    a, b = coming[3], going[0]
    turn = math.atan2(float(end[0, 0] * start[0, 1] - end[0, 1] * start[0, 0]), float(end[0] @ start[0]))
    chord = float(np.hypot(*(b - a)))
    # Of an arc with this chord and this turn.
    radius = chord / max(2.0 * math.sin(abs(turn) / 2.0), 1e-9)
    handle = 4.0 / 3.0 * math.tan(abs(turn) / 4.0) * radius
    return np.stack([a, a + handle * end[0], b - handle * start[0], b])
