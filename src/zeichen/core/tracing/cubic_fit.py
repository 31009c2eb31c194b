"""Least-squares fit of one cubic to a run of points, with free or fixed end directions.

Source: P. J. Schneider, "An algorithm for automatically fitting digitized curves", Graphics Gems
(1990), for the normal equations and the Newton step; free ends are added by treating each inner
control point as unknown in both coordinates.
"""

import math

import numpy as np
from numba import njit

from zeichen.core.values import FloatArray


@njit(cache=True, error_model="numpy")
def solve_small(a: FloatArray, b: FloatArray, size: int) -> bool:
    """Solve a symmetric system of up to four unknowns in place, the answer left in b."""
    for k in range(size):
        pivot = k
        for r in range(k + 1, size):
            if abs(a[r, k]) > abs(a[pivot, k]):
                pivot = r
        if abs(a[pivot, k]) < 1e-12:
            return False
        if pivot != k:
            for c in range(size):
                a[k, c], a[pivot, c] = a[pivot, c], a[k, c]
            b[k], b[pivot] = b[pivot], b[k]
        for r in range(k + 1, size):
            f = a[r, k] / a[k, k]
            for c in range(k, size):
                a[r, c] -= f * a[k, c]
            b[r] -= f * b[k]
    for k in range(size - 1, -1, -1):
        for c in range(k + 1, size):
            b[k] -= a[k, c] * b[c]
        b[k] /= a[k, k]
    return True


@njit(cache=True, error_model="numpy")
def line_error(q: FloatArray, count: int, p0: FloatArray, p3: FloatArray) -> float:
    """Return the largest distance of points from a chord."""
    dx, dy = p3[0] - p0[0], p3[1] - p0[1]
    size = math.hypot(dx, dy)
    worst = 0.0
    for k in range(count):
        ex, ey = q[k, 0] - p0[0], q[k, 1] - p0[1]
        off = abs(ex * dy - ey * dx) / size if size > 1e-9 else math.hypot(ex, ey)
        worst = max(worst, off)
    return worst


@njit(cache=True, error_model="numpy")
def _value(p: FloatArray, axis: int, t: float) -> float:
    s = 1.0 - t
    outer: float = s * s * s * p[0, axis] + t * t * t * p[3, axis]
    inner: float = 3 * s * s * t * p[1, axis] + 3 * s * t * t * p[2, axis]
    return outer + inner


@njit(cache=True, error_model="numpy")
def _slope(p: FloatArray, axis: int, t: float) -> float:
    s = 1.0 - t
    first, second, third = p[1, axis] - p[0, axis], p[2, axis] - p[1, axis], p[3, axis] - p[2, axis]
    slope: float = 3 * (s * s * first + 2 * s * t * second + t * t * third)
    return slope


@njit(cache=True, error_model="numpy")
def fit_cubic(
    q: FloatArray,
    count: int,
    p0: FloatArray,
    p3: FloatArray,
    t0: FloatArray,
    t3: FloatArray,
    free0: bool,
    free3: bool,
    rounds: int,
    out: FloatArray,
) -> tuple[float, float]:
    """Fit one cubic from p0 to p3; returns (largest, RMS) distance of the points, the control points in out.

    t0 points into the curve at p0, t3 points into it at p3 (both unit). A free end ignores its
    direction. Infinite errors mean that no usable cubic was found.
    """
    chord = math.hypot(p3[0] - p0[0], p3[1] - p0[1])
    u = np.empty(count)
    run = 0.0
    px, py = p0[0], p0[1]
    for k in range(count):
        run += math.hypot(q[k, 0] - px, q[k, 1] - py)
        u[k] = run
        px, py = q[k, 0], q[k, 1]
    run += math.hypot(p3[0] - px, p3[1] - py)
    if run < 1e-9:
        return np.inf, np.inf
    for k in range(count):
        u[k] /= run
    basis = np.zeros((4, 2))
    owner = np.zeros(4, np.int64)
    size = 0
    for end in range(2):
        free = free0 if end == 0 else free3
        ray = t0 if end == 0 else t3
        if free:
            for axis in range(2):
                basis[size, axis] = 1.0
                basis[size, 1 - axis] = 0.0
                owner[size] = end
                size += 1
        else:
            basis[size, 0] = ray[0]
            basis[size, 1] = ray[1]
            owner[size] = end
            size += 1
    a = np.zeros((4, 4))
    b = np.zeros(4)
    best, best_rms = np.inf, np.inf
    trial = np.zeros((4, 2))
    for attempt in range(rounds):
        for r in range(4):
            b[r] = 0.0
            for c in range(4):
                a[r, c] = 0.0
        for k in range(count):
            t = u[k]
            s = 1.0 - t
            b1, b2 = 3 * s * s * t, 3 * s * t * t
            w0, w3 = s * s * s + b1, b2 + t * t * t
            rx = q[k, 0] - w0 * p0[0] - w3 * p3[0]
            ry = q[k, 1] - w0 * p0[1] - w3 * p3[1]
            for r in range(size):
                wr = b1 if owner[r] == 0 else b2
                b[r] += wr * (basis[r, 0] * rx + basis[r, 1] * ry)
                for c in range(size):
                    wc = b1 if owner[c] == 0 else b2
                    a[r, c] += wr * wc * (basis[r, 0] * basis[c, 0] + basis[r, 1] * basis[c, 1])
        for r in range(size):
            a[r, r] += 1e-9
        for axis in range(2):
            trial[0, axis] = p0[axis]
            trial[1, axis] = p0[axis]
            trial[2, axis] = p3[axis]
            trial[3, axis] = p3[axis]
        solved = solve_small(a, b, size)
        if solved:
            for r in range(size):
                trial[1 + owner[r], 0] += b[r] * basis[r, 0]
                trial[1 + owner[r], 1] += b[r] * basis[r, 1]
        for end in range(2):
            free = free0 if end == 0 else free3
            base = p0 if end == 0 else p3
            handle = math.hypot(trial[1 + end, 0] - base[0], trial[1 + end, 1] - base[1])
            backwards = False
            if not free:
                ray = t0 if end == 0 else t3
                backwards = (
                    (trial[1 + end, 0] - base[0]) * ray[0] + (trial[1 + end, 1] - base[1]) * ray[1]
                ) <= 0.02 * run
            if not solved or backwards or handle > 1.2 * run:
                if free:
                    other = p3 if end == 0 else p0
                    trial[1 + end, 0] = base[0] + (other[0] - base[0]) / 3.0
                    trial[1 + end, 1] = base[1] + (other[1] - base[1]) / 3.0
                else:
                    ray = t0 if end == 0 else t3
                    trial[1 + end, 0] = base[0] + ray[0] * (run / 3.0)
                    trial[1 + end, 1] = base[1] + ray[1] * (run / 3.0)
        worst, total = 0.0, 0.0
        for k in range(count):
            # One Newton step of each parameter towards the nearest point, then the distance there.
            t = u[k]
            for _ in range(2):
                fx = _value(trial, 0, t) - q[k, 0]
                fy = _value(trial, 1, t) - q[k, 1]
                gx, gy = _slope(trial, 0, t), _slope(trial, 1, t)
                square = gx * gx + gy * gy
                if square < 1e-12:
                    break
                t = min(1.0, max(0.0, t - (fx * gx + fy * gy) / square))
            fx = _value(trial, 0, t) - q[k, 0]
            fy = _value(trial, 1, t) - q[k, 1]
            u[k] = t
            d2 = fx * fx + fy * fy
            worst = max(worst, d2)
            total += d2
        worst = math.sqrt(worst)
        if worst < best:
            best, best_rms = worst, math.sqrt(total / max(count, 1))
            for r in range(4):
                out[r, 0] = trial[r, 0]
                out[r, 1] = trial[r, 1]
        elif attempt > 1:
            break
    if chord < 1e-9 and count < 3:
        return np.inf, np.inf
    return best, best_rms


@njit(cache=True, error_model="numpy")
def sample_run(points: FloatArray, first: int, last: int, out: FloatArray) -> int:
    """Copy an even sample of points first..last (indices that may pass the end of the loop) into out."""
    n = len(points)
    have = last - first + 1
    if have <= 0:
        return 0
    count = min(have, len(out))
    for k in range(count):
        j = first + (k * (have - 1)) // max(count - 1, 1)
        out[k, 0] = points[j % n, 0]
        out[k, 1] = points[j % n, 1]
    return count
