"""A pen leaves ink half its width on all sides: no corner of a stroke comes nearer to the rim of the ink."""

import math

import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.norm import norm
from zeichen.core.raster.ink import ink_at
from zeichen.core.values import FloatArray

# Shares of the pen's width: nodes nearer to the rim than the first are moved in to the second.
TOO_NEAR = 0.32
INSIDE = 0.48
# An end further than this from the corner before it has a direction of its own, and may be cut square.
_SHORT_TAIL = 1.5
_STEP_PX = 0.25
_OUTSIDE_PX = 0.5
_MOST_STEPS = 60


def within_ink(path: Path, points: FloatArray, half: FloatArray, width: float) -> Path:
    """Return the path with corners and stubs of ends that came too near to the rim moved in.

    Parameters
    ----------
    path : Path, px
    points : (n, 2) array, px
        What the path was fitted to: from the nearest of them a node that lies outside the ink finds back.
    half : (height, width) array, px
        How far each pixel is from the nearest paper.
    width : float, px
        The pen's.
    """
    curves = path.segments
    count = len(curves)
    nodes = curves[:, 0] if path.closed else np.concatenate([curves[:, 0], curves[-1:, 3]])
    near = np.nonzero(rooms(half, np.ascontiguousarray(nodes)) < TOO_NEAR * width)[0]
    if not len(near):
        return path
    curves = curves.copy()
    moved = False
    for node in near.tolist():
        before = (node - 1) % count if path.closed or node > 0 else None
        after = node % count if path.closed or node < count else None
        if before is None or after is None:
            inner = after if before is None else before
            # An end on its own, or far from the corner before it.
            if inner is None or count == 1 or _length(path.segments[inner]) > _SHORT_TAIL * width:
                continue
        place = nodes[node]
        start = place
        if ink_at(half, *place) < _OUTSIDE_PX:
            start = points[int(np.hypot(*(points - place).T).argmin())]
        step = np.array(inwards(float(start[0]), float(start[1]), half, INSIDE * width)) - place
        if math.hypot(*step) < _STEP_PX:
            continue
        moved = True
        if before is not None:
            curves[before, 2:] += step
        if after is not None:
            curves[after, :2] += step
    if not moved:
        return path
    for k in np.nonzero(bezier.is_straight(path.segments, tolerance=1e-3))[0]:
        curves[k] = bezier.line_segments(curves[k][[0, 3]])[0]
    return Path(curves, closed=path.closed)


def _length(curve: FloatArray) -> float:
    return float(bezier.arc_lengths(curve[None])[0])


@counted(cache=True)
def rooms(half: FloatArray, nodes: FloatArray) -> FloatArray:
    """Return how far each of some places is from the nearest paper."""
    out = np.empty(len(nodes))
    for k in range(len(nodes)):
        out[k] = ink_at(half, nodes[k, 0], nodes[k, 1])
    return out


@uncounted(cache=True)
def inwards(x: float, y: float, half: FloatArray, wanted: float) -> tuple[float, float]:
    """Return the first place uphill that is as far from the paper as wanted, or the highest."""
    for _ in range(_MOST_STEPS):
        if ink_at(half, x, y) >= wanted:
            break
        dx = ink_at(half, x + 1.0, y) - ink_at(half, x - 1.0, y)
        dy = ink_at(half, x, y + 1.0) - ink_at(half, x, y - 1.0)
        size = norm(dx, dy)
        if size < 1e-3:
            break
        x += dx / size * _STEP_PX
        y += dy / size * _STEP_PX
    return x, y
