"""True circles and ellipses where the picture has them: four quarters, exactly placed."""

import math

import cv2
import numpy as np

from zeichen.core.fitting.circle_fit import circle_along
from zeichen.core.fitting.spline import Spline
from zeichen.core.geometry.bezier import CIRCLE_HANDLE
from zeichen.core.values import FloatArray

# Nor is one as good an arc as a quarter is if it turns by more than this.
_MOST_SPLIT_RAD = math.radians(95.0)
# About so many points are looked at first; if they are so many times too far off, there is no true shape.
_GLANCED_AT = 128
_FAR = 3.0


def make_circle(spline: Spline, within: float) -> bool:
    """Make a true circle, in four quarters, of a closed spline all whose points lie on one; returns whether.

    The radius is the points' mean distance from the centre; see circle_along.
    """
    points = spline.points
    pace = max(1, len(points) // _GLANCED_AT)
    for step, limit in ((pace, _FAR * within), (1, within)):
        found, x, y, _ = circle_along(points, len(points), step)
        centre = np.array([x, y])
        off = points[::step] - centre
        distance = np.hypot(off[:, 0], off[:, 1])
        radius = float(distance.mean())
        if not found or np.abs(distance - radius).max() > limit or spline.room < 5:
            return False
    turn = np.unwrap(np.arctan2(off[:, 1], off[:, 0]))
    around = 1.0 if turn[-1] > turn[0] else -1.0
    if abs(abs(turn[-1] - turn[0]) - 2 * math.pi) > 0.5 * math.pi:
        return False
    spline.count = 4
    for k in range(4):
        angle = turn[0] + around * k * math.pi / 2
        spline.node[k] = centre + radius * np.array([math.cos(angle), math.sin(angle)])
        spline.first[k] = int(np.searchsorted(around * turn, around * angle))
        spline.angle[k] = angle + around * math.pi / 2, angle + around * math.pi
        spline.handle[k] = CIRCLE_HANDLE * radius
    spline.line[:4] = spline.corner[:4] = spline.pinned[:4] = False
    return True


def make_ellipse(spline: Spline, within: float) -> bool:
    """Make a true ellipse, in four quarters from vertex to vertex, of a closed spline on one; returns whether.

    Source: direct least squares fitting of ellipses, A. Fitzgibbon, M. Pilu and R. B. Fisher, IEEE
    Transactions on Pattern Analysis and Machine Intelligence 21 (1999), as OpenCV has it.
    """
    points = spline.points
    if len(points) < 24 or spline.room < 5:
        return False
    # A few points tell whether the rest is worth fitting.
    some = points[:: max(1, len(points) // _GLANCED_AT)]
    found = _ellipse(some)
    if found is None or _off_ellipse(some, *found)[0].max() > _FAR * within:
        return False
    found = _ellipse(points)
    if found is None:
        return False
    centre, first, second, a, b = found
    off, u, v = _off_ellipse(points, *found)
    angle = np.unwrap(np.arctan2(v, u))
    if off.max() > within or abs(abs(angle[-1] - angle[0]) - 2 * math.pi) > 0.5 * math.pi:
        return False
    around = 1.0 if angle[-1] > angle[0] else -1.0
    start = math.ceil(angle[0] / (math.pi / 2)) if around > 0 else math.floor(angle[0] / (math.pi / 2))
    spline.count = 4
    for k in range(4):
        at = (start + around * k) * math.pi / 2
        c, s = round(math.cos(at)), round(math.sin(at))
        spline.node[k] = centre + a * c * first + b * s * second
        direction = around * (-s * first + c * second)
        after = around * (-c * first - s * second)
        spline.first[k] = min(int(np.searchsorted(around * angle, around * at)), len(points) - 1)
        spline.angle[k] = math.atan2(direction[1], direction[0]), math.atan2(after[1], after[0])
        near, far = (b, a) if s == 0 else (a, b)
        spline.handle[k] = CIRCLE_HANDLE * near, CIRCLE_HANDLE * far
    spline.line[:4] = spline.corner[:4] = spline.pinned[:4] = False
    return True


def _ellipse(points: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray, float, float] | None:
    """Return the centre of the ellipse along points, its half axes' directions and their lengths, if there is one."""
    shift = points.mean(axis=0)
    (cx, cy), (d1, d2), turn_deg = cv2.fitEllipseDirect((points - shift).astype(np.float32))
    a, b, turn = d1 / 2, d2 / 2, math.radians(turn_deg)
    if not (math.isfinite(a) and math.isfinite(b)) or min(a, b) < 1.0:
        return None
    first, second = np.array([math.cos(turn), math.sin(turn)]), np.array([-math.sin(turn), math.cos(turn)])
    return shift + np.array([cx, cy]), first, second, a, b


def _off_ellipse(
    points: FloatArray, centre: FloatArray, first: FloatArray, second: FloatArray, a: float, b: float
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return how far points lie off an ellipse, to first order, and their places along its axes, in half axes."""
    u, v = (points - centre) @ first / a, (points - centre) @ second / b
    # Distance to first order: the implicit value over its gradient.
    off = np.abs(u * u + v * v - 1.0) / np.maximum(2.0 * np.hypot(u / a, v / b), 1e-9)
    return off, u, v


def with_nodes_at(curves: FloatArray, places: FloatArray) -> FloatArray:
    """Return a true circle or ellipse with nodes at places on it, and between those no more than it needs.

    Parameters
    ----------
    curves : (4, 4, 2) float array
        Its quarters; see make_circle, make_ellipse.
    places : (n, 2) float array
        At least one.
    """
    centre = (curves[0, 0] + curves[2, 0]) / 2
    axes = np.stack([curves[0, 0] - centre, curves[1, 0] - centre], axis=1)
    across, along = np.linalg.solve(axes, (places - centre).T)
    angle = np.sort(np.arctan2(along, across))
    rows = []
    for begin, end in zip(angle, np.append(angle[1:], angle[0] + 2 * math.pi), strict=True):
        if end - begin < 1e-9:
            continue
        parts = max(1, math.ceil((end - begin) / _MOST_SPLIT_RAD))
        turn = begin + (end - begin) * np.arange(parts + 1) / parts
        on = np.stack([np.cos(turn), np.sin(turn)], axis=1) @ axes.T
        direction = np.stack([-np.sin(turn), np.cos(turn)], axis=1) @ axes.T
        reach = 4.0 / 3.0 * math.tan((end - begin) / parts / 4)
        after, before = on[:-1] + reach * direction[:-1], on[1:] - reach * direction[1:]
        rows.append(np.stack([on[:-1], after, before, on[1:]], axis=1))
    return np.asarray(np.concatenate(rows) + centre)
