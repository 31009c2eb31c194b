"""Making nearly true things true: mirror symmetry, straight lines, right angles, circles."""

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
from shapely.affinity import affine_transform

from zeichen.core.editing.arranging import chosen, with_shapes
from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.overlay import Region, intersected, united
from zeichen.core.geometry.polygons import drawing_area
from zeichen.core.values import FloatArray, require_number

# Shapes that overlap their mirror image by less than this are not nearly symmetric.
_LEAST_OVERLAP = 0.9
_AXES = 45


@dataclass(frozen=True, slots=True)
class Axis:
    """A line through a place, at an angle from the x axis (radians), and how well it mirrors (0-1)."""

    x: float
    y: float
    angle: float
    overlap: float

    def mirrored(self, points: FloatArray) -> FloatArray:
        """Return points on the other side of the axis."""
        c, s = math.cos(2 * self.angle), math.sin(2 * self.angle)
        place = np.array([self.x, self.y])
        return np.asarray((points - place) @ np.array([[c, s], [s, -c]]) + place)


def find_axis(drawing: Drawing, ids: Iterable[str]) -> Axis:
    """Return the axis about which some shapes come nearest to their mirror image.

    It goes through the centroid; every fourth degree is tried, then the best refined. How well is the area shared
    with the mirror image over the area of both.
    """
    shapes = chosen(drawing, ids)
    area = drawing_area(
        replace(drawing, shapes=tuple(shapes)), tolerance=1e-3 * max(drawing.width, drawing.height)
    )
    if area.is_empty:
        raise InvalidInputError("These shapes have no area to mirror.")
    middle = area.centroid
    coarse = area.simplify(1e-3 * math.sqrt(area.area))

    def overlap(angle: float) -> float:
        c, s = math.cos(2 * angle), math.sin(2 * angle)
        x, y = middle.x, middle.y
        matrix = (c, s, s, -c, x - c * x - s * y, y - s * x + c * y)
        image = affine_transform(coarse, matrix)
        return float(coarse.intersection(image).area / max(coarse.union(image).area, 1e-12))

    angles = np.linspace(0.0, math.pi, _AXES, endpoint=False)
    best = max(angles.tolist(), key=overlap)
    step = math.pi / (_AXES)
    for _ in range(16):
        step /= 2.0
        best = max((best - step, best, best + step), key=overlap)
    # An axis that is all but upright or level was meant to be.
    snapped = round(best / (math.pi / 2)) * math.pi / 2
    if abs(best - snapped) < math.radians(1.0):
        best = snapped
    return Axis(middle.x, middle.y, best % math.pi, overlap(best))


def symmetric(drawing: Drawing, ids: Iterable[str]) -> Drawing:
    """Return the drawing with nearly symmetric shapes made exactly so: one half is kept and mirrored.

    The half with more of the common area is kept; its curves stay as they are.

    Raises
    ------
    InvalidInputError
        If they are not nearly symmetric.
    """
    ids = list(ids)
    axis = find_axis(drawing, ids)
    if axis.overlap < _LEAST_OVERLAP:
        raise InvalidInputError(
            f"These shapes are not nearly symmetric: they share {100 * axis.overlap:.0f} % with their mirror image, "
            f"{100 * _LEAST_OVERLAP:.0f} % is needed."
        )
    x0, y0, x1, y1 = replace(drawing, shapes=tuple(chosen(drawing, ids))).bounds()
    reach = 4.0 * math.hypot(x1 - x0, y1 - y0)
    way = np.array([math.cos(axis.angle), math.sin(axis.angle)])
    across = np.array([-way[1], way[0]])
    place = np.array([axis.x, axis.y])
    ends = np.stack([place - reach * way, place + reach * way])
    corners = np.vstack([ends, ends[::-1] + reach * across])
    half = Region((Path(bezier.line_segments(np.vstack([corners, corners[:1]]))),), "nonzero")
    out = []
    for shape in chosen(drawing, ids):
        if shape.stroke_width is not None:
            continue
        kept = intersected([Region.of(shape), half])
        if not kept:
            continue
        image = tuple(Path(bezier.reverse(path.moved(axis.mirrored).segments)) for path in kept)
        out.append(
            replace(shape, paths=united([Region(kept), Region(image)]), fill_rule="evenodd", letters="")
        )
    return with_shapes(drawing, out)


def tidied(drawing: Drawing, ids: Iterable[str], *, tolerance: float) -> Drawing:
    """Return the drawing with nearly straight segments made straight, nearly level or upright ones exactly so,
    and outlines that are circles within a distance made true circles."""
    require_number(tolerance, "Tolerance", above=0)
    return with_shapes(drawing, [_tidy(shape, tolerance) for shape in chosen(drawing, ids)])


def _tidy(shape: Shape, tolerance: float) -> Shape:
    paths = tuple(_as_circle(path, tolerance) or _straight(path, tolerance) for path in shape.paths)
    return replace(shape, paths=paths, letters="")


def _as_circle(path: Path, tolerance: float) -> Path | None:
    if not path.closed or len(path.segments) < 2:
        return None
    points = bezier.evaluate(path.segments, np.linspace(0, 1, 16, endpoint=False)).reshape(-1, 2)
    # Least squares circle: I. Kasa, "A circle fitting procedure and its error analysis" (1976).
    table = np.column_stack([2 * points, np.ones(len(points))])
    x, y, rest = np.linalg.lstsq(table, (points**2).sum(axis=1), rcond=None)[0]
    radius = math.sqrt(max(rest + x * x + y * y, 0.0))
    if radius < 2 * tolerance or np.abs(np.hypot(*(points - (x, y)).T) - radius).max() > tolerance:
        return None
    segments = bezier.circle_segments((float(x), float(y)), radius=radius)
    return Path(segments if path.area > 0 else bezier.reverse(segments))


def _straight(path: Path, tolerance: float) -> Path:
    segments = path.segments.copy()
    chord = segments[:, 3] - segments[:, 0]
    size = np.maximum(np.hypot(*chord.T), 1e-12)
    inner = segments[:, 1:3] - segments[:, :1]
    # A cubic is off its chord by three quarters of its handles' distance at most.
    off = (
        0.75
        * np.abs(inner[..., 0] * chord[:, None, 1] - inner[..., 1] * chord[:, None, 0]).max(axis=1)
        / size
    )
    line = (off <= tolerance) & (size > 4 * tolerance)
    nodes = segments[:, 0].copy()
    last = segments[-1, 3].copy()
    for k in np.nonzero(line)[0].tolist():
        after = (k + 1) % len(segments)
        for axis in (0, 1):
            if abs(chord[k, axis]) <= tolerance:
                middle = (segments[k, 0, axis] + segments[k, 3, axis]) / 2
                nodes[k, axis] = middle
                if path.closed or after:
                    nodes[after, axis] = middle
                else:
                    last[axis] = middle
    ends = np.vstack([nodes[1:], nodes[:1] if path.closed else last[None]])
    # Handles go along with their nodes.
    segments[:, 1] += nodes - segments[:, 0]
    segments[:, 2] += ends - segments[:, 3]
    segments[:, 0], segments[:, 3] = nodes, ends
    for k in np.nonzero(line)[0].tolist():
        segments[k] = bezier.line_segments(np.stack([segments[k, 0], segments[k, 3]]))[0]
    return Path(segments, path.closed)
