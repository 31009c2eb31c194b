"""Corners of strokes that the pen went round, more tightly than its own ink shows: told by the ink's outer rim."""

import math

import numpy as np

from zeichen.core.compiled import uncounted
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.norm import norm
from zeichen.core.geometry.rounding import rounded, turn_between
from zeichen.core.raster.ink import ink_at
from zeichen.core.tracing.strokes.pen_turn import Corner
from zeichen.core.tracing.strokes.stroke_middle import rim_along
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
        turn = abs(turn_between(come, go))
        if _LEAST_DEG < math.degrees(turn) < _MOST_DEG:
            place = curves[k, 0]
            known = [c.radius for c in corners if c.radius > 0.0 and math.dist(c.place, place) < _SAME_PX]
            radii[k] = known[0] if known else _radius(place, come, go, turn, width, ink)
    radii = {k: radius for k, radius in radii.items() if radius > 0.0}
    return rounded(path, radii) if radii else path


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
