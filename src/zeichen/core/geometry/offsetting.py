"""Drawn lines as areas, and areas made larger or smaller by a distance, with curved borders kept curved.

The line drawn along a run of cubics is put together from ribbons, one for each piece, with wedges at the
outer side of corners and round ends; each is exact to a tolerance, and the overlay joins them.
"""

import math
from dataclasses import dataclass

import numpy as np

from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path, Shape
from zeichen.core.geometry.overlay import Overlay, Region
from zeichen.core.values import FloatArray, require_number

# Ribbons that may overlap are counted in different layers, so that one turned over cannot cancel another.
_LAYERS = 8
_HALVINGS = 8
# Directions that differ by less than this (sine) go on smoothly.
_SMOOTH = 1e-3
_MITRE_LIMIT = 4.0
# Corners of areas made larger: what a machine's own border can be.
OFFSET_JOINS = ("round", "mitre")


@dataclass(frozen=True, slots=True)
class Nib:
    """How a pen ends and turns: caps, joins and the longest mitre in pen widths (SVG 2, section 13.5).

    blunt: what a corner gets whose mitre would be longer.
    """

    cap: str = "round"
    join: str = "round"
    mitre_limit: float = _MITRE_LIMIT
    blunt: str = "bevel"

    @classmethod
    def of(cls, shape: Shape) -> "Nib":
        """Return the nib that a shape's line is drawn with."""
        return cls(shape.cap, shape.join, shape.mitre_limit)


@dataclass(frozen=True, slots=True)
class _Parts:
    """What a drawn line is made of, each a closed run of segments."""

    ribbons: list[FloatArray]
    corners: list[FloatArray]


def pen_area(shape: Shape, *, tolerance: float) -> tuple[Path, ...]:
    """Return the outlines of what a drawn line covers; InvalidInputError if the shape is none."""
    return stroked(shape.paths, shape.stroke_width or 0.0, nib=Nib.of(shape), tolerance=tolerance)


def stroked(
    paths: tuple[Path, ...], width: float, *, nib: Nib | None = None, tolerance: float
) -> tuple[Path, ...]:
    """Return the outlines of paths drawn with a pen of some width, by default with round ends and corners.

    Parameters
    ----------
    paths : tuple of Path
    width : float
        Of the pen, in the unit of the points.
    nib : Nib
        How it ends and turns.
    tolerance : float
        How far the borders may be from where they should be.
    """
    require_number(width, "Pen width", above=0)
    overlay = Overlay(_layers(paths, width / 2.0, nib or Nib(), tolerance))
    return overlay.outline(overlay.in_any(), least_width=4.0 * tolerance)


def offset(region: Region, distance: float, *, join: str = "round", tolerance: float) -> tuple[Path, ...]:
    """Return the outlines of a region grown (or, below 0, shrunk) by a distance; none if nothing is left.

    Source of the area of what convex regions grow to: J. Steiner, A + P r + pi r^2 (see tests).
    """
    if distance == 0.0:
        return region.paths
    if join not in OFFSET_JOINS:
        raise InvalidInputError(f"Corners are joined {' or '.join(OFFSET_JOINS)}; got {join}.")
    closed = tuple(Path(path.segments) for path in region.paths if len(path.segments))
    nib = Nib(join=join, blunt="round")
    overlay = Overlay([region, *_layers(closed, abs(distance), nib, tolerance)])
    border = overlay.inside[:, 1:].any(axis=1)
    keep = overlay.inside[:, 0] | border if distance > 0 else overlay.inside[:, 0] & ~border
    return overlay.outline(keep, least_width=4.0 * tolerance)


def _layers(paths: tuple[Path, ...], radius: float, nib: Nib, tolerance: float) -> list[Region]:
    layers: list[list[Path]] = [[] for _ in range(2 * _LAYERS)]
    number = 0
    for path in paths:
        parts = _drawn(path, radius, nib, tolerance)
        for kind, runs in ((0, parts.ribbons), (_LAYERS, parts.corners)):
            for run in runs:
                layers[kind + number % _LAYERS].append(Path(run))
                number += 1
    return [Region(tuple(layer), "nonzero") for layer in layers if layer]


def _drawn(path: Path, radius: float, nib: Nib, tolerance: float) -> _Parts:
    segments = path.segments
    chord = np.abs(np.diff(segments, axis=1)).max(axis=(1, 2))
    segments = segments[chord > 1e-9 * max(1.0, float(np.abs(segments).max(initial=0.0)))]
    if not len(segments):
        return _Parts([], [])
    pieces, left, right = _offset_pieces(segments, radius, tolerance)
    start, end = bezier.end_directions(pieces)
    ribbons = [
        np.concatenate(
            [
                left[k : k + 1],
                bezier.line_segments(np.stack([left[k, 3], right[k, 3]])),
                bezier.reverse(right[k : k + 1]),
                bezier.line_segments(np.stack([right[k, 0], left[k, 0]])),
            ]
        )
        for k in range(len(pieces))
    ]
    closed = path.closed and float(np.abs(pieces[-1, 3] - pieces[0, 0]).max()) <= tolerance
    corners: list[FloatArray] = []
    for k in range(len(pieces) if closed else len(pieces) - 1):
        after = (k + 1) % len(pieces)
        wedge = _wedge(pieces[k, 3], end[k], start[after], radius, nib)
        if wedge is not None:
            corners.append(wedge)
    if not closed and nib.cap != "butt":
        cap = _half_disc if nib.cap == "round" else _half_square
        corners.append(cap(pieces[0, 0], -start[0], radius))
        corners.append(cap(pieces[-1, 3], end[-1], radius))
    return _Parts(ribbons, corners)


def _offset_pieces(
    segments: FloatArray, radius: float, tolerance: float
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return segments cut until their offsets to the left and right are cubics within the tolerance, and those."""
    done: list[tuple[float, FloatArray, FloatArray, FloatArray]] = []
    todo = segments
    place = np.arange(float(len(segments)))
    size = 1.0
    for level in range(_HALVINGS + 1):
        left, off_left = _offset_curve(todo, radius)
        right, off_right = _offset_curve(todo, -radius)
        good = (np.maximum(off_left, off_right) <= tolerance) | (level == _HALVINGS)
        done.extend(zip(place[good].tolist(), todo[good], left[good], right[good], strict=True))
        if good.all():
            break
        first, second = _halves(todo[~good])
        size /= 2.0
        place = np.concatenate([place[~good], place[~good] + size])
        todo = np.concatenate([first, second])
    done.sort(key=lambda row: row[0])
    return (
        np.array([row[1] for row in done]),
        np.array([row[2] for row in done]),
        np.array([row[3] for row in done]),
    )


def _offset_curve(segments: FloatArray, distance: float) -> tuple[FloatArray, FloatArray]:
    """Return the cubics with the ends and end slopes of the segments' true offsets, and how far they are off.

    The true offset at t is B + d n, its slope B' (1 - d k), with k the curvature (textbook).
    """
    ends = np.array([0.0, 1.0])
    start, end = bezier.end_directions(segments)
    normal0, normal1 = _turned(start), _turned(end)
    second = 6.0 * np.diff(segments, n=2, axis=1)
    slope = bezier.derivative(segments, ends)
    out = segments.copy()
    out[:, 0] = segments[:, 0] + distance * normal0
    out[:, 3] = segments[:, 3] + distance * normal1
    for at, unit, inner, sign in ((0, start, 1, 1.0), (1, end, 2, -1.0)):
        speed = np.hypot(*slope[:, at].T)
        bend = slope[:, at, 0] * second[:, at, 1] - slope[:, at, 1] * second[:, at, 0]
        curvature = np.where(speed > 1e-9, bend / np.maximum(speed, 1e-9) ** 3, 0.0)
        length = speed * (1.0 - distance * curvature) / 3.0
        out[:, inner] = out[:, 3 * at] + sign * length[:, None] * unit
    t = np.array([0.2, 0.4, 0.6, 0.8])
    tangent = bezier.derivative(segments, t)
    size = np.maximum(np.hypot(tangent[..., 0], tangent[..., 1]), 1e-12)
    truth = bezier.evaluate(segments, t) + distance * _turned(tangent / size[..., None])
    got = bezier.evaluate(out, t)
    # What is off along the curve does not show: only across counts, and the ends hold the rest.
    off = np.abs(((got - truth) * _turned(tangent / size[..., None])).sum(axis=2)).max(axis=1)
    along = np.hypot(*np.moveaxis(got - truth, 2, 0)).max(axis=1)
    return out, np.maximum(off, 0.05 * along)


def _turned(vectors: FloatArray) -> FloatArray:
    """Return vectors turned by a quarter: the left of travel as seen with y up."""
    return np.stack([-vectors[..., 1], vectors[..., 0]], axis=-1)


def _halves(segments: FloatArray) -> tuple[FloatArray, FloatArray]:
    a = (segments[:, :-1] + segments[:, 1:]) / 2.0
    b = (a[:, :-1] + a[:, 1:]) / 2.0
    c = (b[:, 0] + b[:, 1]) / 2.0
    first = np.stack([segments[:, 0], a[:, 0], b[:, 0], c], axis=1)
    second = np.stack([c, b[:, 1], a[:, 2], segments[:, 3]], axis=1)
    return first, second


def arc_segments(center: FloatArray, radius: float, start: float, sweep: float) -> FloatArray:
    """Return cubics along an arc of a circle, from an angle over a sweep (radians), in pieces of 45 degrees at most.

    Source: handles of 4/3 tan(angle / 4) put the middle of each piece on the circle (textbook).
    """
    count = max(1, math.ceil(abs(sweep) / (math.pi / 4.0) - 1e-9))
    angles = start + sweep * np.arange(count + 1) / count
    places = np.stack([np.cos(angles), np.sin(angles)], axis=1)
    handle = 4.0 / 3.0 * math.tan(sweep / count / 4.0) * _turned(places)
    runs = np.stack([places[:-1], places[:-1] + handle[:-1], places[1:] - handle[1:], places[1:]], axis=1)
    return np.asarray(center + radius * runs)


def _wedge(
    corner: FloatArray, coming: FloatArray, going: FloatArray, radius: float, nib: Nib
) -> FloatArray | None:
    turn = float(coming[0] * going[1] - coming[1] * going[0])
    ahead = float(coming @ going)
    if abs(turn) < _SMOOTH and ahead > 0:
        return None
    # The outer side of a turn is where the line does not turn to.
    side = -1.0 if turn > 0 else 1.0
    one, other = side * _turned(coming), side * _turned(going)
    start = math.atan2(one[1], one[0])
    sweep = math.atan2(float(one[0] * other[1] - one[1] * other[0]), float(one @ other))
    join = nib.join
    if join == "mitre":
        # A mitre's length is its pen's width by the sine of half the corner's angle.
        if ahead > -1.0 + 2.0 / nib.mitre_limit**2:
            middle = one + other
            tip = corner + radius * middle * 2.0 / float(middle @ middle)
            ring = np.stack([corner, corner + radius * one, tip, corner + radius * other, corner])
            return bezier.line_segments(ring)
        join = nib.blunt
    if join == "bevel":
        ring = np.stack([corner, corner + radius * one, corner + radius * other, corner])
        return None if abs(turn) < _SMOOTH else bezier.line_segments(ring)
    arc = arc_segments(corner, radius, start, sweep)
    return np.concatenate(
        [
            bezier.line_segments(np.stack([corner, arc[0, 0]])),
            arc,
            bezier.line_segments(np.stack([arc[-1, 3], corner])),
        ]
    )


def _half_disc(center: FloatArray, away: FloatArray, radius: float) -> FloatArray:
    arc = arc_segments(center, radius, math.atan2(away[1], away[0]) - math.pi / 2.0, math.pi)
    return np.concatenate([arc, bezier.line_segments(np.stack([arc[-1, 3], arc[0, 0]]))])


def _half_square(center: FloatArray, away: FloatArray, radius: float) -> FloatArray:
    across = radius * _turned(away)
    far = center + radius * away
    ring = np.stack([center + across, far + across, far - across, center - across, center + across])
    return bezier.line_segments(ring)
