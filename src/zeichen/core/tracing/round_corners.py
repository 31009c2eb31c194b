"""Corners of strokes that the pen went round, more tightly than its own ink shows: told by the ink's outer rim."""

import math

import numpy as np

from zeichen.core.compiled import uncounted
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.norm import norm
from zeichen.core.tracing.pen_turn import Corner
from zeichen.core.tracing.stroke_middle import ink_at, rim_along
from zeichen.core.values import FloatArray

# Nodes that turn by more than this are corners, degrees.
_LEAST_DEG, _MOST_DEG = 35.0, 150.0
_GENTLE = math.cos(math.radians(_LEAST_DEG))
# The outer rim of a corner is half a width away; of a round one it is nearer, by so much at least, px and widths.
_NEARER_PX, _NEARER = 0.6, 0.05
# What has a larger radius shows as round along the middle, and a smaller one is as good as none; widths.
_MOST_RADIUS, _LEAST_RADIUS = 0.6, 0.12
# A known corner is a node this near to it, px.
_SAME_PX = 1.0
# A round turn takes no more of a part than this, and lengths along a curve are told by so many steps.
_MOST_OF_PART = 0.45
_LENGTH_STEPS = 24


def with_round_corners(path: Path, corners: list[Corner], width: float, ink: FloatArray) -> Path:
    """Return a stroke's path with arcs in place of those corners that the pen went round.

    Parameters
    ----------
    path : Path, px
    corners : list of Corner, px
        With their radii where they are known.
    width : float, px
        The pen's.
    ink : (height, width) float array
        How much ink each pixel holds.
    """
    curves = path.segments
    if not _has_corners(curves, path.closed):
        return path
    leave, arrive = bezier.end_directions(curves)
    radii = {}
    for k in range(0 if path.closed else 1, len(curves)):
        come, go = arrive[k - 1], leave[k]
        turn = math.acos(max(-1.0, min(1.0, float(come @ go))))
        if _LEAST_DEG < math.degrees(turn) < _MOST_DEG:
            known = [
                c.radius for c in corners if c.radius > 0.0 and math.dist(c.place, curves[k, 0]) < _SAME_PX
            ]
            radii[k] = known[0] if known else _radius(curves[k, 0], come, go, turn, width, ink)
    cuts = [k for k, radius in radii.items() if radius > 0.0]
    if not cuts:
        return path
    if path.closed:
        # It begins at a corner.
        curves = np.roll(curves, -cuts[0], axis=0)
        radius = [radii[k] for k in cuts]
        starts = [k - cuts[0] for k in cuts]
    else:
        radius, starts = [0.0, *(radii[k] for k in cuts)], [0, *cuts]
    parts = [curves[a:b] for a, b in zip(starts, [*starts[1:], len(curves)], strict=True)]
    return Path(np.concatenate(_rounded(parts, radius)), closed=path.closed)


@uncounted(cache=True)
def _has_corners(curves: FloatArray, closed: bool) -> bool:
    """Return whether a path turns at any of its nodes."""
    for k in range(0 if closed else 1, len(curves)):
        ax, ay = curves[k - 1, 3, 0] - curves[k - 1, 2, 0], curves[k - 1, 3, 1] - curves[k - 1, 2, 1]
        bx, by = curves[k, 1, 0] - curves[k, 0, 0], curves[k, 1, 1] - curves[k, 0, 1]
        # Handles without length may hide one.
        if ax * bx + ay * by <= _GENTLE * norm(ax, ay) * norm(bx, by):
            return True
    return False


def _radius(
    place: FloatArray, come: FloatArray, go: FloatArray, turn: float, width: float, ink: FloatArray
) -> float:
    """Return the radius of a pen's way round a corner by how near the outer rim is; 0 for a true one."""
    outwards = (come - go) / math.hypot(*(come - go))
    # Where the sides meet may lie beyond the ink.
    inside = next(
        (s for s in np.arange(0.0, width, 0.25 * width) if ink_at(ink, *(place - s * outwards)) > 0.5), None
    )
    if inside is None:
        return 0.0
    x, y = (place - inside * outwards).tolist()
    rim = rim_along(ink, x, y, float(outwards[0]), float(outwards[1]), 1.5 * width)
    nearer = 0.5 * width - (rim - inside)
    if rim < 0.0 or nearer < max(_NEARER_PX, _NEARER * width):
        return 0.0
    radius: float = nearer / (1.0 / math.cos(0.5 * turn) - 1.0)
    return min(radius, _MOST_RADIUS * width) if radius > _LEAST_RADIUS * width else 0.0


def _rounded(parts: list[FloatArray], radii: list[float]) -> list[FloatArray]:
    """Return the parts of a path with arcs where the pen went round a corner between them.

    radii: of its way from the part before, the last before the first, to each; 0 for none.
    """
    size = [float(bezier.arc_lengths(part).sum()) for part in parts]
    back = np.zeros((len(parts), 2))
    joints = [((k - 1) % len(parts), k, r) for k, r in enumerate(radii) if r > 0.0]
    for before, after, r in joints:
        come, go = bezier.end_directions(parts[before])[1][-1], bezier.end_directions(parts[after])[0][0]
        turn = math.acos(max(-1.0, min(1.0, float(come @ go))))
        most = _MOST_OF_PART * min(size[before], size[after])
        back[before, 1] = back[after, 0] = min(r * math.tan(0.5 * turn), most)
    cut = [
        bezier.piece(part, _at_length(part, start), _at_length(part, whole - end))
        for part, whole, (start, end) in zip(parts, size, back.tolist(), strict=True)
    ]
    arcs = {after: _arc_between(cut[before][-1], cut[after][0]) for before, after, _ in joints}
    return [run for k, part in enumerate(cut) for run in ((arcs[k], part) if k in arcs else (part,))]


def _at_length(curves: FloatArray, length: float) -> float:
    """Return the place on a run of curves, whole number and parameter, so far along it."""
    sizes = np.cumsum(bezier.arc_lengths(curves))
    if length <= 0.0 or length >= sizes[-1]:
        return 0.0 if length <= 0.0 else float(len(curves))
    k = int(np.searchsorted(sizes, length, side="right"))
    t = np.linspace(0.0, 1.0, _LENGTH_STEPS + 1)
    along = bezier.lengths_along(bezier.evaluate(curves[k : k + 1], t)[0])
    before = float(sizes[k - 1]) if k else 0.0
    return k + float(np.interp((length - before) / float(sizes[k] - before), along / along[-1], t))


def _arc_between(before: FloatArray, after: FloatArray) -> FloatArray:
    """Return the curve, a circle's arc if there is one, from the end of a curve to the start of another."""
    (come,), (go,) = bezier.end_directions(before[None])[1], bezier.end_directions(after[None])[0]
    turn = math.acos(max(-1.0, min(1.0, float(come @ go))))
    chord = math.dist(before[3], after[0])
    # Of an arc over this chord that turns so far; a line's third where it does not turn.
    handle = (
        chord / 3.0
        if turn < 1e-6
        else chord / (2.0 * math.sin(0.5 * turn)) * 4.0 / 3.0 * math.tan(0.25 * turn)
    )
    return np.stack([before[3], before[3] + handle * come, after[0] - handle * go, after[0]])[None]
