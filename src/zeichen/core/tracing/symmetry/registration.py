"""How one outline lies on another: the turn and the move that bring them together, and what stays between them.

Outlines are compared by samples at even steps along them. Which sample of the one belongs to which of the other, and
the turn between them, come from the correlation of both as complex numbers. Then the samples, which cut corners
short, are laid onto the measured pieces themselves.
"""

import math
from dataclasses import dataclass

import numpy as np

from zeichen.core.compiled import FAST_SUMS, counted, uncounted
from zeichen.core.fitting.local_polynomial import cumulative_length
from zeichen.core.fitting.three_unknowns import solve_three
from zeichen.core.geometry.cells import Pieces, grid_of
from zeichen.core.geometry.loops import around
from zeichen.core.geometry.nearest import way_to_nearest
from zeichen.core.geometry.norm import norm
from zeichen.core.values import AnyArray, FloatArray

# Outlines are compared at so many places: fewer miss small differences, more take longer (our own rule).
_SAMPLES = 192
# A turn this near to a quarter is one.
_SNAP_RAD = 0.01
# But not if samples then are off by more than this share of what is allowed, and by clearly less as it was.
_QUARTER_SHARE = 0.4
_CLEARLY = 0.7
# A move is looked for until it changes by no more than this, px, and so is a turn, by what its lever of 100 px moves.
_SHIFT_PX, _TURN_RAD = 0.002, 2e-5
_ROUNDS = 4
# A mean square distance may be so many times the square of the largest one that is allowed, to be worth a closer look.
_WORTH_A_LOOK = 9.0
# An outline whose parts pull at its turn with a lever shorter than this is as good as round.
_LEAST_LEVER_PX = 1.0


@dataclass(frozen=True, slots=True)
class Outline:
    """A measured loop as it is compared with others.

    ring: samples (n, 2) at even steps round the centre; pieces: those between all points of the loop.
    """

    ring: FloatArray
    length: float
    centre: FloatArray
    pieces: Pieces


def outline_of(loop: FloatArray) -> Outline:
    """Return a closed loop (n, 2) of points as it is compared with others."""
    start = np.ascontiguousarray(loop)
    end = np.concatenate([loop[1:], loop[:1]])
    ring, centre, length, grid = _measured(start, end, _SAMPLES)
    return Outline(ring, float(length), centre, Pieces(start, end, *grid))


@counted(cache=True)
def _measured(
    start: FloatArray, end: FloatArray, count: int
) -> tuple[FloatArray, FloatArray, float, tuple[FloatArray, float, int, int, AnyArray, AnyArray]]:
    """Return places at even steps along a closed ring of pieces, round their centre; that, its length, its grid."""
    run = cumulative_length(start)
    out, centre = np.empty((count, 2)), np.zeros(2)
    k = 0
    for i in range(count):
        at = run[-1] * i / count
        while k < len(start) - 1 and run[k + 1] <= at:
            k += 1
        share = (at - run[k]) / max(run[k + 1] - run[k], 1e-300)
        for axis in range(2):
            out[i, axis] = start[k, axis] + share * (end[k, axis] - start[k, axis])
            centre[axis] += out[i, axis] / count
    return out - centre, centre, run[-1], grid_of(start, end)


@counted
def mirrored(ring: FloatArray) -> FloatArray:
    """Return a ring (n, 2) mirrored at the x axis and run through backwards."""
    out = np.empty_like(ring)
    for k in range(len(ring)):
        out[k, 0], out[k, 1] = ring[len(ring) - 1 - k, 0], -ring[len(ring) - 1 - k, 1]
    return out


@uncounted
def _size(ring: FloatArray) -> float:
    """Return the root of the sum of squared distances of a ring's samples from its centre."""
    total = 0.0
    for k in range(len(ring)):
        total += ring[k, 0] * ring[k, 0] + ring[k, 1] * ring[k, 1]
    return math.sqrt(total)


@counted(cache=True)
def laid_onto(
    ring: FloatArray, backwards: bool, goal: FloatArray, pieces: Pieces, centre: FloatArray, within: float
) -> tuple[bool, complex, float, float, float]:
    """Return whether a ring lies roughly on another, the turn and the move (x, y) that put it there, and what is left.

    Parameters
    ----------
    ring, goal : (n, 2) float arrays, px
        Both round their own centres.
    backwards : bool
        Take the ring mirrored at the x axis, and run through backwards.
    pieces : Pieces
        Of the outline to be laid onto.
    centre : (2,) float array, px
        That outline's; turns are about it.
    within : float
        How far samples may be off; not looked at any closer if they are so on average by far.

    Returns
    -------
    bool, complex, float, float, float
        The last number is how far the furthest sample is off.
    """
    if backwards:
        ring = mirrored(ring)
    # However one is turned, they differ by what their sizes do.
    gap = _size(ring) - _size(goal)
    if gap * gap > _WORTH_A_LOOK * within * within * len(ring):
        return False, complex(1.0, 0.0), 0.0, 0.0, np.inf
    shift, turn, left = best_fit(goal, ring)
    if left > _WORTH_A_LOOK * within * within:
        return False, turn, 0.0, 0.0, np.inf
    square = snapped(turn)
    found, x, y, off = _settled(ring, shift, square, pieces, centre)
    if is_quarter(square) and off > _QUARTER_SHARE * within:
        # What merely is turned by nearly a quarter lies better as it is.
        as_it_is, its_x, its_y, nearer = _settled(ring, shift, turn, pieces, centre)
        if nearer < _CLEARLY * off:
            return True, as_it_is, its_x, its_y, nearer
    return True, found, x, y, off


@counted
def _settled(
    ring: FloatArray, shift: int, turn: complex, pieces: Pieces, centre: FloatArray
) -> tuple[complex, float, float, float]:
    """Return the turn and the move that put a ring on an outline, from a turn nearby, and how far its furthest is off.

    A turn by a quarter stays one. shift: by how many samples the ring is ahead.
    """
    placed = np.empty_like(ring)
    for k in range(len(ring)):
        i = around(k - shift, len(ring))
        spun = turn * complex(ring[i, 0], ring[i, 1])
        placed[k, 0], placed[k, 1] = spun.real + centre[0], spun.imag + centre[1]
    # Samples of equal outlines slide along them by up to half a step: nearest places are compared.
    more, x, y = brought_onto(placed, pieces, centre, not is_quarter(turn))
    for k in range(len(placed)):
        spun = more * complex(placed[k, 0] - centre[0], placed[k, 1] - centre[1])
        placed[k, 0], placed[k, 1] = spun.real + centre[0] + x, spun.imag + centre[1] + y
    return turn * more, x, y, furthest_off(placed, pieces)


@counted(cache=True, fastmath=FAST_SUMS)
def best_fit(goal: FloatArray, ring: FloatArray) -> tuple[int, complex, float]:
    """Return by how many samples and which turn a ring fits a goal best, and the mean square left over."""
    count = len(goal)
    # Twice round, so that no sample's number needs to be counted round.
    twice, rows = np.empty((2, 2 * count)), np.empty((2, count))
    energy = 0.0
    for k in range(count):
        for axis in range(2):
            twice[axis, k] = twice[axis, k + count] = ring[k, axis]
            rows[axis, k] = goal[k, axis]
            energy += ring[k, axis] ** 2 + goal[k, axis] ** 2
    score = np.empty((2, count))
    best, most = 0, -1.0
    for shift in range(count):
        x, y = twice[0, count - shift : 2 * count - shift], twice[1, count - shift : 2 * count - shift]
        real = imag = 0.0
        for k in range(count):
            real += rows[0, k] * x[k] + rows[1, k] * y[k]
            imag += rows[1, k] * x[k] - rows[0, k] * y[k]
        score[0, shift], score[1, shift] = real, imag
        size = real * real + imag * imag
        if size > most:
            best, most = shift, size
    # Between samples, where the parabola through the three best has its top.
    back, ahead = around(best - 1, count), around(best + 1, count)
    before, here, after = (
        norm(score[0, back], score[1, back]),
        norm(score[0, best], score[1, best]),
        norm(score[0, ahead], score[1, ahead]),
    )
    bow = before - 2.0 * here + after
    part = max(-0.5, min(0.5, 0.5 * (before - after) / bow)) if bow < 0.0 else 0.0
    low, high = 0.5 * part * (part - 1.0), 0.5 * part * (part + 1.0)
    real = low * score[0, back] + (1.0 - part * part) * score[0, best] + high * score[0, ahead]
    imag = low * score[1, back] + (1.0 - part * part) * score[1, best] + high * score[1, ahead]
    size = norm(real, imag)
    turn = complex(real / size, imag / size) if size > 0.0 else complex(1.0, 0.0)
    return best, turn, max(0.0, energy - 2.0 * size) / count


@uncounted(cache=True)
def snapped(turn: complex) -> complex:
    """Return a turn, made one by a whole number of quarters if it is nearly one."""
    quarters = math.floor(math.atan2(turn.imag, turn.real) / (0.5 * math.pi) + 0.5)
    quarter = complex(1.0, 0.0)
    for _ in range(around(quarters, 4)):
        quarter = complex(-quarter.imag, quarter.real)
    return quarter if abs(turn - quarter) < _SNAP_RAD else turn


@uncounted(cache=True)
def is_quarter(turn: complex) -> bool:
    """Return whether a turn is by a whole number of quarters exactly: it was made one, and stays as it is."""
    return bool(turn.real == 0.0 or turn.imag == 0.0)


@uncounted
def furthest_off(samples: FloatArray, pieces: Pieces) -> float:
    """Return how far the furthest of some samples is from the nearest piece."""
    furthest = 0.0
    for k in range(len(samples)):
        x, y, _ = way_to_nearest(samples[k, 0], samples[k, 1], pieces)
        furthest = max(furthest, norm(x, y))
    return furthest


@counted(cache=True)
def brought_onto(
    samples: FloatArray, pieces: Pieces, centre: FloatArray, turning: bool
) -> tuple[complex, float, float]:
    """Return the turn about a centre, and the move (x, y) after it, that put samples on an outline best onto a loop.

    Only what is square to the outline counts, so a many-sided polygon is not taken for a circle; a circle has no turn,
    nor has anything that is not turning.
    """
    count = len(samples)
    turn, move = 1.0 + 0.0j, 0.0 + 0.0j
    ring = samples - centre
    for _ in range(_ROUNDS):
        # The normal equations of a move (x, y) and a turn, with a little to stand on.
        xx = yy = 1e-9
        ll = 1e-9 + 0.5 * _LEAST_LEVER_PX * _LEAST_LEVER_PX * count
        xy = xl = yl = of_x = of_y = of_l = 0.0
        for k in range(0, count, 2):
            after, before = around(k + 1, count), around(k - 1, count)
            along_x, along_y = ring[after, 0] - ring[before, 0], ring[after, 1] - ring[before, 1]
            size = max(norm(along_x, along_y), 1e-12)
            nx, ny = -along_y / size, along_x / size
            lever = ny * ring[k, 0] - nx * ring[k, 1] if turning else 0.0
            way_x, way_y, _ = way_to_nearest(ring[k, 0] + centre[0], ring[k, 1] + centre[1], pieces)
            off = nx * way_x + ny * way_y
            xx += nx * nx
            xy += nx * ny
            xl += nx * lever
            yy += ny * ny
            yl += ny * lever
            ll += lever * lever
            of_x += nx * off
            of_y += ny * off
            of_l += lever * off
        x, y, angle, _ = solve_three((xx, xy, xl, yy, yl, ll), (of_x, of_y, of_l))
        more = complex(math.cos(angle), math.sin(angle))
        turn *= more
        move = more * move + complex(x, y)
        for k in range(count):
            placed = more * complex(ring[k, 0], ring[k, 1])
            ring[k, 0], ring[k, 1] = placed.real + x, placed.imag + y
        if abs(angle) < _TURN_RAD and norm(x, y) < _SHIFT_PX:
            break
    return turn, move.real, move.imag
