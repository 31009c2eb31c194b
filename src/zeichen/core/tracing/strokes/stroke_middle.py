"""Where the middle of a drawn line runs, from the ink across it.

The middle is the centre of gravity of the ink along the line's normal: blur spreads ink evenly to
both sides and so does not move it, whatever the blur. The width is the ink's sum.
"""

import math

import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.geometry.norm import norm
from zeichen.core.raster.ink import ink_at
from zeichen.core.values import BoolArray, FloatArray

# Steps in which ink is summed: blur makes it smooth at this scale.
_STEP_PX = 0.5
# Points that a round moves by less than this are hardly moved by the next.
_STILL_PX = 0.03


@counted(cache=True)
def middles(
    ink: FloatArray, points: FloatArray, closed: bool, smooth: float, furthest: float, rounds: int
) -> tuple[FloatArray, FloatArray, BoolArray]:
    """Return points moved to the middle of their line, its width there, and which could be measured.

    smooth: length over which the direction is taken, px; furthest: how far from the middle an edge may be.
    """
    n = len(points)
    at = points.copy()
    widths = np.zeros(n)
    good = np.zeros(n, np.bool_)
    # How far each point went in the round before: where none around it stirred much, it has arrived.
    shifts = np.full(n, np.inf)
    around = math.ceil(smooth)
    # How far it is from each point to the next.
    ahead = np.empty(n)
    for _ in range(rounds):
        moved = at.copy()
        last_shifts = shifts.copy()
        for k in range(n):
            j = k + 1 if k + 1 < n else 0
            ahead[k] = norm(at[j, 0] - at[k, 0], at[j, 1] - at[k, 1])
        for k in range(n):
            if not _stirs(last_shifts, k, around, closed):
                continue
            shifts[k] = 0.0
            tx = ty = 0.0
            ax, ay = at[k, 0], at[k, 1]
            for side in (-1, 1):
                run = 0.0
                sx = sy = 0.0
                count = 0
                j = k
                for _ in range(1, n):
                    j += side
                    if j < 0 or j >= n:
                        if not closed:
                            break
                        j -= side * n
                    run += ahead[j if side < 0 else j - 1]
                    if run > smooth and count > 0:
                        break
                    sx += at[j, 0] - ax
                    sy += at[j, 1] - ay
                    count += 1
                if count:
                    tx += side * sx / count
                    ty += side * sy / count
            size = norm(tx, ty)
            if size < 1e-9:
                good[k] = False
                continue
            nx, ny = -ty / size, tx / size
            mass = moment = 0.0
            fine = True
            for side in (-1, 1):
                s = 0.5 * _STEP_PX
                last = 1.0
                inside = True
                while True:
                    value = ink_at(ink, ax + side * s * nx, ay + side * s * ny)
                    if inside and value < 0.5:
                        inside = False
                    if not inside and (value < 0.02 or value > last + 0.02):
                        break
                    if s > furthest:
                        # Beyond the rim only the foot of the edge may still be there.
                        if inside:
                            fine = False
                        break
                    mass += value * _STEP_PX
                    moment += side * s * value * _STEP_PX
                    last = value
                    s += _STEP_PX
            good[k] = fine and mass > 0.3
            if good[k]:
                shift = max(-1.5, min(1.5, moment / mass))
                shifts[k] = abs(shift)
                moved[k, 0] = ax + shift * nx
                moved[k, 1] = ay + shift * ny
                widths[k] = mass
        at = moved
    return at, widths, good


@uncounted
def _stirs(shifts: FloatArray, k: int, around: int, closed: bool) -> bool:
    """Return whether one of the points around a point still moves much."""
    n = len(shifts)
    for j in range(k - around, k + around + 1):
        if (j < 0 or j >= n) and not closed:
            continue
        if shifts[j % n if j < 0 or j >= n else j] > _STILL_PX:
            return True
    return False


@uncounted(cache=True)
def rim_along(ink: FloatArray, x: float, y: float, dx: float, dy: float, furthest: float) -> float:
    """Return how far from a place in a (unit) direction the ink ends, by its sum; -1 if it does not."""
    total = 0.0
    s = 0.5 * _STEP_PX
    inside = True
    last = 1.0
    while s < furthest:
        value = ink_at(ink, x + s * dx, y + s * dy)
        if inside and value < 0.5:
            inside = False
        if not inside and (value < 0.02 or value > last + 0.02):
            return total
        total += min(value, 1.0) * _STEP_PX
        last = value
        s += _STEP_PX
    return total if not inside else -1.0


@uncounted(cache=True)
def ink_across(ink: FloatArray, x: float, y: float, nx: float, ny: float, half: float) -> float:
    """Return the ink on a line of a half length either side of a place."""
    total = 0.0
    s = -half
    while s <= half:
        total += ink_at(ink, x + s * nx, y + s * ny) * _STEP_PX
        s += _STEP_PX
    return total
