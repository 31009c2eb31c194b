"""How one outline lies on another: the move and the turn that bring them together, and what stays between them."""

import math
from dataclasses import dataclass

import numpy as np
from numba import njit

from zeichen.core.geometry.cells import Pieces, sorted_pieces
from zeichen.core.geometry.loops import around
from zeichen.core.geometry.nearest import way_to_nearest
from zeichen.core.geometry.norm import norm
from zeichen.core.tracing.three_unknowns import solve_three
from zeichen.core.values import AnyArray, FloatArray

_SAMPLES = 192
# A turn this near to a quarter is one.
_SNAP_RAD = 0.01
# A move is looked for until it changes by no more than this, px, and so is a turn, by what its lever of 100 px moves.
_SHIFT_PX, _TURN_RAD = 0.002, 2e-5
_ROUNDS = 4
# An outline whose parts pull at its turn with a lever shorter than this is as good as round.
_LEAST_LEVER_PX = 1.0
_WAVES = np.fft.fftfreq(_SAMPLES)


@dataclass(frozen=True, slots=True)
class Outline:
    """A measured loop as it is compared with others.

    ring: samples at even steps, (n, 2); they cut corners short, so others are laid onto the pieces of the loop itself.
    own: the samples round their centre as complex numbers; spectrum: their Fourier transform.
    """

    ring: FloatArray
    length: float
    pieces: Pieces
    centre: FloatArray
    own: AnyArray
    spectrum: AnyArray

    def mirrored(self) -> AnyArray:
        """Return the spectrum of the outline mirrored at its x axis and run through backwards."""
        return np.asarray(np.exp(2j * np.pi * _WAVES) * np.conj(self.spectrum))

    def energy(self) -> float:
        """Return the sum of the samples' squared distances from the centre."""
        return float(np.vdot(self.own, self.own).real)

    def unlike(self, other: "Outline") -> float:
        """Return the least mean square that any shift and turn, mirrored or not, leaves between two outlines."""
        return float(np.square(np.abs(self.spectrum) - np.abs(other.spectrum)).sum()) / _SAMPLES**2


def outline_of(loop: FloatArray) -> Outline:
    """Return a closed loop (n, 2) of points as it is compared with others."""
    closed = np.concatenate([loop, loop[:1]])
    ring, length = _even(closed, _SAMPLES)
    centre = ring.mean(axis=0)
    own = as_complex(ring - centre)
    pieces = sorted_pieces(closed[:-1], closed[1:])
    return Outline(ring, float(length), pieces, centre, own, np.fft.fft(own))


@njit(cache=True, error_model="numpy")
def _even(ring: FloatArray, count: int) -> tuple[FloatArray, float]:
    """Return places at even steps along a closed ring, whose last point is its first, and its length."""
    run = np.zeros(len(ring))
    for k in range(1, len(ring)):
        run[k] = run[k - 1] + norm(ring[k, 0] - ring[k - 1, 0], ring[k, 1] - ring[k - 1, 1])
    out = np.empty((count, 2))
    k = 0
    for i in range(count):
        at = run[-1] * i / count
        while k < len(ring) - 2 and run[k + 1] <= at:
            k += 1
        share = (at - run[k]) / max(run[k + 1] - run[k], 1e-300)
        for axis in range(2):
            out[i, axis] = ring[k, axis] + share * (ring[k + 1, axis] - ring[k, axis])
    return out, run[-1]


def as_complex(points: FloatArray) -> AnyArray:
    """Return points (..., 2) as complex numbers."""
    return np.asarray(points[..., 0] + 1j * points[..., 1])


def as_points(numbers: AnyArray) -> FloatArray:
    """Return complex numbers as points (..., 2)."""
    return np.stack([numbers.real, numbers.imag], axis=-1)


def best_fit(goal: AnyArray, signal: AnyArray, energy: float) -> tuple[int, complex, float]:
    """Return by how many samples and which turn a signal fits a goal best, and the mean square left over.

    Both are given by their spectra, and the sum of their energies. The cross-correlation over all shifts
    comes from one Fourier transform; its phase is the turn.
    """
    product = goal * np.conj(signal)
    size = np.abs(np.fft.ifft(product))
    shift = int(size.argmax())
    # Between samples, where the parabola through the three best has its top.
    before, here, after = float(size[shift - 1]), float(size[shift]), float(size[(shift + 1) % len(size)])
    bow = before - 2.0 * here + after
    part = max(-0.5, min(0.5, 0.5 * (before - after) / bow)) if bow < 0 else 0.0
    best = complex(product @ np.exp(2j * np.pi * _WAVES * (shift + part))) / len(goal)
    turn = best / abs(best) if abs(best) > 0 else 1.0 + 0j
    return shift, turn, max(0.0, energy - 2.0 * abs(best)) / len(goal)


def snapped(turn: complex) -> complex:
    """Return a turn, made one by a whole number of quarters if it is nearly one."""
    quarter = complex(np.exp(0.5j * np.pi * round(math.atan2(turn.imag, turn.real) / (0.5 * math.pi))))
    return complex(round(quarter.real), round(quarter.imag)) if abs(turn - quarter) < _SNAP_RAD else turn


def is_quarter(turn: complex) -> bool:
    """Return whether a turn is by a whole number of quarters exactly: it was made one, and stays as it is."""
    return turn.real == 0.0 or turn.imag == 0.0


@njit(cache=True, error_model="numpy")
def furthest_off(samples: FloatArray, pieces: Pieces) -> float:
    """Return how far the furthest of some samples is from the nearest piece."""
    furthest = 0.0
    for k in range(len(samples)):
        x, y, _ = way_to_nearest(samples[k, 0], samples[k, 1], pieces)
        furthest = max(furthest, norm(x, y))
    return furthest


@njit(cache=True, error_model="numpy")
def true_shift(
    samples: FloatArray, pieces: Pieces, x: float = 0.0, y: float = 0.0
) -> tuple[float, float, float]:
    """Return the move (x, y) that puts samples onto a loop, and how far the furthest is off then.

    It is looked for from (x, y) on. Nearest places tell of a move only what is square to the loop.
    """
    furthest = 0.0
    for number in range(_ROUNDS + 1):
        xx = yy = 1e-9
        xy = of_x = of_y = furthest = 0.0
        for k in range(len(samples)):
            way_x, way_y, piece = way_to_nearest(samples[k, 0] + x, samples[k, 1] + y, pieces)
            along_x = pieces.end[piece, 0] - pieces.start[piece, 0]
            along_y = pieces.end[piece, 1] - pieces.start[piece, 1]
            size = max(norm(along_x, along_y), 1e-12)
            nx, ny = -along_y / size, along_x / size
            off = nx * way_x + ny * way_y
            xx += nx * nx
            xy += nx * ny
            yy += ny * ny
            of_x += nx * off
            of_y += ny * off
            furthest = max(furthest, norm(way_x, way_y))
        whole = xx * yy - xy * xy
        step_x, step_y = (yy * of_x - xy * of_y) / whole, (xx * of_y - xy * of_x) / whole
        if number == _ROUNDS or norm(step_x, step_y) < _SHIFT_PX:
            break
        x += step_x
        y += step_y
    return x, y, furthest


@njit(cache=True, error_model="numpy")
def true_turn(samples: FloatArray, pieces: Pieces, centre: FloatArray) -> tuple[complex, float, float]:
    """Return the turn about a centre, and the move (x, y) after it, that put samples on an outline best onto a loop.

    Only what is square to the outline counts, so a many-sided polygon is not taken for a circle; a circle has none.
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
            lever = ny * ring[k, 0] - nx * ring[k, 1]
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
        x, y, angle, _ = solve_three(xx, xy, xl, yy, yl, ll, of_x, of_y, of_l)
        more = complex(math.cos(angle), math.sin(angle))
        turn *= more
        move = more * move + complex(x, y)
        for k in range(count):
            placed = more * complex(ring[k, 0], ring[k, 1])
            ring[k, 0], ring[k, 1] = placed.real + x, placed.imag + y
        if abs(angle) < _TURN_RAD and norm(x, y) < _SHIFT_PX:
            break
    return turn, move.real, move.imag
