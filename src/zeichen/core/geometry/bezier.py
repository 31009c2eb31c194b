"""Cubic Bézier segments, many at once.

A run of segments is an (n, 4, 2) float array; points are (x, y) with y down, in drawing units
unless a caller says otherwise. The parameter t runs from 0 to 1 on each segment. A straight
line is a cubic whose control points lie on the thirds of its chord.
"""

import math

import numpy as np

from zeichen.core.compiled import counted
from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry.norm import norm
from zeichen.core.values import BoolArray, FloatArray

# Pairs of control points whose cross products make up a cubic's area, and their shares.
AREA_TERMS = ((0, 1, 0.3), (0, 2, 0.15), (0, 3, 0.05), (1, 2, 0.15), (1, 3, 0.15), (2, 3, 0.3))
_FINE_T, _FINE_W = (
    0.5 * (values + first)
    for values, first in zip(np.polynomial.legendre.leggauss(16), (1.0, 0.0), strict=True)
)
# Handle length for a quarter circle as a share of the radius: 4/3 (sqrt(2) - 1).
CIRCLE_HANDLE = 4.0 / 3.0 * (math.sqrt(2.0) - 1.0)


def evaluate(segments: FloatArray, t: FloatArray) -> FloatArray:
    """Return points on every segment, shape (n, len(t), 2).

    Examples
    --------
    >>> evaluate(line_segments(np.array([[0.0, 0.0], [3.0, 0.0]])), np.array([0.5]))[0, 0].tolist()
    [1.5, 0.0]
    """
    u = 1.0 - t
    weights = np.stack([u**3, 3 * u**2 * t, 3 * u * t**2, t**3], axis=1)
    return np.asarray(np.einsum("tk,nkd->ntd", weights, segments))


def derivative(segments: FloatArray, t: FloatArray) -> FloatArray:
    """Return dB/dt on every segment, shape (n, len(t), 2)."""
    steps = 3.0 * np.diff(segments, axis=1)
    u = 1.0 - t
    weights = np.stack([u**2, 2 * u * t, t**2], axis=1)
    return np.asarray(np.einsum("tk,nkd->ntd", weights, steps))


def line_segments(points: FloatArray) -> FloatArray:
    """Return straight cubics through (n + 1, 2) points, in order."""
    start, end = points[:-1], points[1:]
    third = (end - start) / 3.0
    return np.stack([start, start + third, end - third, end], axis=1)


def is_straight(segments: FloatArray, *, tolerance: float = 1e-6) -> BoolArray:
    """Return which segments draw their own chord, without overshoot, within a distance."""
    found: BoolArray = _straight(np.ascontiguousarray(segments, dtype=np.float64), tolerance)
    return found


@counted(cache=True)
def _straight(segments: FloatArray, tolerance: float) -> BoolArray:
    out = np.zeros(len(segments), np.bool_)
    for k in range(len(segments)):
        p = segments[k]
        dx, dy = p[3, 0] - p[0, 0], p[3, 1] - p[0, 1]
        size = norm(dx, dy)
        out[k] = size > 0
        for inner in range(1, 3):
            x, y = p[inner, 0] - p[0, 0], p[inner, 1] - p[0, 1]
            along, across = (x * dx + y * dy) / size, abs(x * dy - y * dx) / size
            out[k] &= across < tolerance and -tolerance < along < size + tolerance
    return out


def chord_count(segments: FloatArray, *, tolerance: float) -> FloatArray:
    """Return how many equal steps of t keep every chord within a distance of each curve.

    Source: error of linear interpolation, h**2 / 8 * max|B''| (textbook, from memory); max|B''|
    is 6 times the larger second difference, because B'' of a cubic is linear in t (derived).

    Examples
    --------
    >>> int(chord_count(line_segments(np.array([[0.0, 0.0], [9.0, 0.0]])), tolerance=0.01)[0])
    1
    """
    if not (math.isfinite(tolerance) and tolerance > 0):
        raise InvalidInputError(f"Tolerance must be a finite number above 0; got {tolerance}. Try 0.1.")
    bend = np.linalg.norm(np.diff(segments, n=2, axis=1), axis=2).max(axis=1)
    return np.asarray(np.maximum(1, np.ceil(np.sqrt(0.75 * bend / tolerance))))


def flatten(segments: FloatArray, *, tolerance: float, longest: float = math.inf) -> FloatArray:
    """Return the points of a polyline within a distance of the curve, shape (m, 2).

    Parameters
    ----------
    segments : (n, 4, 2) float array
        One connected run.
    tolerance : float
        Largest distance between curve and polyline, in the unit of the points.
    longest : float
        No chord is longer than about this, even on straight segments.

    Examples
    --------
    >>> flatten(line_segments(np.array([[0.0, 0.0], [2.0, 0.0]])), tolerance=0.1).tolist()
    [[0.0, 0.0], [2.0, 0.0]]
    """
    if len(segments) == 0:
        return np.zeros((0, 2))
    counts = chord_count(segments, tolerance=tolerance)
    if math.isfinite(longest):
        hull = np.linalg.norm(np.diff(segments, axis=1), axis=2).sum(axis=1)
        counts = np.maximum(counts, np.ceil(hull / longest))
    steps = np.minimum(counts, 4096).astype(int)
    which = np.repeat(np.arange(len(segments)), steps)
    first = np.concatenate([[0], np.cumsum(steps)[:-1]])
    t = (np.arange(len(which)) - first[which]) / steps[which]
    u = 1.0 - t
    weights = np.stack([u**3, 3 * u**2 * t, 3 * u * t**2, t**3], axis=1)
    points = np.einsum("mk,mkd->md", weights, segments[which])
    return np.vstack([points, segments[-1, 3]])


def signed_area(segments: FloatArray) -> float:
    """Return the area enclosed by a closed run: positive when it runs clockwise on screen (y down).

    Half the integral of x dy - y dx, which for a cubic is a weighted sum of the cross products of its
    control points (derived).

    Examples
    --------
    >>> signed_area(circle_segments((0.0, 0.0), radius=1.0)) > 3.14
    True
    """
    if not len(segments):
        return 0.0
    # From the run's own first point on: far from the origin the products would cancel badly.
    x, y = (segments[:, :, axis] - segments[0, 0, axis] for axis in (0, 1))
    total = 0.0
    for first, last, share in AREA_TERMS:
        total += share * float(x[:, first] @ y[:, last] - y[:, first] @ x[:, last])
    return total


def lengths_along(points: FloatArray) -> FloatArray:
    """Return the length of the polyline through points (n, 2) up to each of them."""
    out = np.zeros(len(points))
    step = points[1:] - points[:-1]
    np.cumsum(np.hypot(step[:, 0], step[:, 1]), out=out[1:])
    return out


def arc_lengths(segments: FloatArray) -> FloatArray:
    """Return the length of each segment by 16-point Gauss-Legendre (about 1e-6 relative on tame curves)."""
    slope = derivative(segments, _FINE_T)
    return np.asarray(np.hypot(slope[..., 0], slope[..., 1]) @ _FINE_W)


def bounds(segments: FloatArray) -> tuple[float, float, float, float]:
    """Return the exact (x_min, y_min, x_max, y_max) of the curves, from the roots of the derivative."""
    if len(segments) == 0:
        raise InvalidInputError("There is nothing to measure: the path has no segments.")
    d = 3.0 * np.diff(segments, axis=1)
    a, b, c = d[:, 0] - 2 * d[:, 1] + d[:, 2], 2 * (d[:, 1] - d[:, 0]), d[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        root = np.sqrt(np.maximum(b * b - 4 * a * c, 0.0))
        candidates = np.stack([(-b + root) / (2 * a), (-b - root) / (2 * a), -c / b], axis=0)
    candidates = np.where(np.isfinite(candidates) & (candidates > 0) & (candidates < 1), candidates, 0.0)
    u = 1.0 - candidates
    p = segments[None]
    turning = (
        u**3 * p[:, :, 0]
        + 3 * u**2 * candidates * p[:, :, 1]
        + 3 * u * candidates**2 * p[:, :, 2]
        + candidates**3 * p[:, :, 3]
    )
    every = np.concatenate([turning.reshape(-1, 2), segments[:, 0], segments[:, 3]])
    low, high = every.min(axis=0), every.max(axis=0)
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def end_directions(segments: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return unit directions of travel at the starts and the ends, also where a handle has no length."""
    out = []
    for points in (segments, segments[:, ::-1]):
        way = points[:, 1] - points[:, 0]
        for inner in (2, 3):
            short = np.hypot(*way.T) < 1e-9
            way = np.where(short[:, None], points[:, inner] - points[:, 0], way)
        out.append(way / np.maximum(np.hypot(*way.T), 1e-12)[:, None])
    return out[0], -out[1]


def point_of_each(segments: FloatArray, t: FloatArray) -> FloatArray:
    """Return one place on each segment, each at its own t: (n, 2)."""
    u = 1.0 - t
    weights = np.stack([u**3, 3 * u**2 * t, 3 * u * t**2, t**3], axis=1)
    return np.asarray((weights[:, :, None] * segments).sum(axis=1))


def slope_of_each(segments: FloatArray, t: FloatArray) -> FloatArray:
    """Return dB/dt of each segment, each at its own t: (n, 2)."""
    u = 1.0 - t
    weights = 3.0 * np.stack([u**2, 2 * u * t, t**2], axis=1)
    return np.asarray((weights[:, :, None] * np.diff(segments, axis=1)).sum(axis=1))


def reverse(segments: FloatArray) -> FloatArray:
    """Return the same run drawn from its end to its start."""
    return np.ascontiguousarray(segments[::-1, ::-1])


def split(segments: FloatArray, index: int, t: float) -> FloatArray:
    """Return the run with one segment cut in two at t (de Casteljau), the curve unchanged."""
    p = segments[index]
    a = p[:-1] + t * np.diff(p, axis=0)
    b = a[:-1] + t * np.diff(a, axis=0)
    c = b[0] + t * (b[1] - b[0])
    halves = np.array([[p[0], a[0], b[0], c], [c, b[1], a[2], p[3]]])
    return np.concatenate([segments[:index], halves, segments[index + 1 :]])


def piece(curves: FloatArray, first: float, last: float) -> FloatArray:
    """Return the part of a run of curves between two places; past its end it goes round."""
    count = len(curves)
    rows = []
    k = int(np.floor(first))
    while k < last - 1e-12:
        a, b = max(first - k, 0.0), min(last - k, 1.0)
        segment = curves[k % count : k % count + 1]
        if b < 1.0:
            segment = split(segment, 0, b)[:1]
        if a > 0.0:
            segment = split(segment, 0, a / b)[1:]
        rows.append(segment)
        k += 1
    return np.concatenate(rows) if rows else curves[:0]


def circle_segments(center: tuple[float, float], *, radius: float) -> FloatArray:
    """Return four cubics that draw a circle with a radial error below 0.03 %.

    Source: the constant 4/3 (sqrt(2) - 1) = 0.5522847 puts the middle of each quarter on the circle.
    """
    return ellipse_segments(center, radius_x=radius, radius_y=radius)


def ellipse_segments(center: tuple[float, float], *, radius_x: float, radius_y: float) -> FloatArray:
    """Return four cubics that draw an axis-parallel ellipse, clockwise on screen."""
    k = CIRCLE_HANDLE
    quarter = np.array([[1, 0], [1, k], [k, 1], [0, 1]], dtype=float)
    turn = np.array([[0, 1], [-1, 0]], dtype=float)
    runs = [quarter]
    for _ in range(3):
        runs.append(runs[-1] @ turn)
    return np.asarray(np.stack(runs) * np.array([radius_x, radius_y]) + np.array(center))


def shifted_end(curves: FloatArray, end: int, place: FloatArray) -> FloatArray:
    """Return curves whose first or last node is moved a little, straight lines staying straight."""
    out = curves.copy()
    k = 0 if end == 0 else len(curves) - 1
    straight = is_straight(curves[k : k + 1], tolerance=1e-4)
    node, handle = (0, 1) if end == 0 else (3, 2)
    move = place - out[k, node]
    out[k, node] += move
    out[k, handle] += move
    if straight[0]:
        out[k] = line_segments(out[k][[0, 3]])[0]
    return out
