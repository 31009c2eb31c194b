"""Gradients, and the one colour that stands for one: its mean over the area it paints.

Source: SVG 2, section 14.2; the mean is of premultiplied colour, as the eye sees it from afar.
"""

import math
from dataclasses import dataclass

import numpy as np
import shapely

from zeichen.core.errors import TooMuchError
from zeichen.core.formats.foreign.style import Rgba, Style
from zeichen.core.formats.foreign.tree import Element, Family, name_of
from zeichen.core.formats.foreign.values import (
    IDENTITY,
    Matrix,
    after,
    inverse,
    length_px,
    moved,
    scaled_from,
    transform_of,
)
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path, Shape
from zeichen.core.geometry.polygons import shape_area
from zeichen.core.values import FloatArray

GRADIENTS = ("linearGradient", "radialGradient")
# So many places on a side are looked at for the mean (a gradient's mean over 1600 places is within a step of 8 bits).
_SIDE = 40
_DEEPEST = 20


@dataclass(frozen=True, slots=True)
class Gradient:
    """A gradient in the user units of what it paints: colours along t, and where t is what."""

    offsets: FloatArray
    colours: FloatArray
    spread: str
    # From user units to those in which the gradient runs.
    back: Matrix
    # x1, y1, x2, y2 of a straight one; cx, cy, r, fx, fy, fr of a round one.
    line: tuple[float, ...]

    @property
    def fades(self) -> bool:
        """Whether it shows what lies below, anywhere."""
        return bool((self.colours[:, 3] < 1.0).any())

    def along(self, points: FloatArray) -> FloatArray:
        """Return how far along its way each place lies, 0 to 1 between its ends."""
        places = moved(self.back, points)
        return _along(places, self.line) if len(self.line) == 4 else _around(places, self.line)

    def ramp(self, t: FloatArray) -> FloatArray:
        """Return red, green, blue and alpha at places along its way, shape (n, 4)."""
        if self.spread == "repeat":
            t = t - np.floor(t)
        elif self.spread == "reflect":
            t = np.abs(t - 2.0 * np.round(t / 2.0))
        t = np.clip(t, 0.0, 1.0)
        return np.stack([np.interp(t, self.offsets, self.colours[:, k]) for k in range(4)], axis=1)

    def at(self, points: FloatArray) -> FloatArray:
        """Return red, green, blue and alpha at places, shape (n, 4)."""
        return self.ramp(self.along(points))


def mean_colour(colours: FloatArray) -> Rgba:
    """Return the mean of colours (n, 4), each counting by its alpha; at least one is needed."""
    alpha = colours[:, 3]
    whole = float(alpha.sum())
    if whole <= 0:
        return 0.0, 0.0, 0.0, 0.0
    red, green, blue = (float(v) for v in (colours[:, :3] * alpha[:, None]).sum(axis=0) / whole)
    return red, green, blue, whole / len(colours)


def gradient_of(
    node: Element,
    styles: dict[int, Style],
    family: Family,
    box: tuple[float, float, float, float],
    view: tuple[float, float],
) -> Gradient | Rgba | None:
    """Return a gradient for an element with a box; its one colour if it has but one; None if it paints nothing.

    Parameters
    ----------
    node : element
        A linearGradient or radialGradient.
    styles : dict
        Of its stops, by the elements' identities.
    box : x, y, width, height
        Of what it paints, without its line.
    view : (width, height)
        Of the nearest frame.
    """
    chain = chain_of(node, family)
    stops = next((found for found in map(_stops, chain) if found), [])
    offsets, colours = _colours(stops, styles)
    if not len(offsets):
        return None
    if (colours == colours[0]).all():
        red, green, blue, alpha = colours[0].tolist()
        return red, green, blue, alpha

    def said(key: str) -> str | None:
        return next((each.get(key) for each in chain if each.get(key) is not None), None)

    of_box = (said("gradientUnits") or "objectBoundingBox") != "userSpaceOnUse"
    if of_box and not (box[2] > 0 and box[3] > 0):
        return None
    width, height = (1.0, 1.0) if of_box else view
    diagonal = 1.0 if of_box else math.hypot(*view) / math.sqrt(2.0)

    def size(key: str, whole: float, default: str) -> float:
        return length_px(said(key) or default, font_px=16.0, whole=whole, default=0.0)

    unit: Matrix = IDENTITY
    if of_box:
        unit = scaled_from(*box)
    back = inverse(after(unit, transform_of(said("gradientTransform"))))
    if back is None:
        return None
    spread = said("spreadMethod") or "pad"
    if name_of(node) == "linearGradient":
        line: tuple[float, ...] = (
            size("x1", width, "0%"), size("y1", height, "0%"), size("x2", width, "100%"), size("y2", height, "0%"),
        )  # fmt: skip
        flat = line[:2] == line[2:]
    else:
        cx, cy, r = size("cx", width, "50%"), size("cy", height, "50%"), size("r", diagonal, "50%")
        fx = size("fx", width, "0") if said("fx") else cx
        fy = size("fy", height, "0") if said("fy") else cy
        line = (cx, cy, r, *_inside(cx, cy, r, fx, fy), size("fr", diagonal, "0%"))
        flat = not r > 0
    if flat:
        # SVG 2, 14.2.2 and 14.2.3: the last stop's colour.
        red, green, blue, alpha = colours[-1].tolist()
        return red, green, blue, alpha
    return Gradient(offsets, colours, spread, back, line)


def stops_of(node: Element, family: Family) -> list[Element]:
    """Return the stops of a gradient, its own or those of the one it refers to."""
    return next((found for found in map(_stops, chain_of(node, family)) if found), [])


def chain_of(node: Element, family: Family) -> list[Element]:
    """Return a gradient or pattern and those it refers to, one after the other."""
    out = [node]
    while (other := family.linked(out[-1])) is not None:
        if len(out) > _DEEPEST:
            raise TooMuchError(
                "The SVG has gradients or patterns that refer to each other without end. Save it again."
            )
        out.append(other)
    return out


def _stops(node: Element) -> list[Element]:
    return [child for child in node if name_of(child) == "stop"]


def _colours(stops: list[Element], styles: dict[int, Style]) -> tuple[FloatArray, FloatArray]:
    offsets: list[float] = []
    colours: list[Rgba] = []
    for stop in stops:
        given = length_px(stop.get("offset"), font_px=16.0, whole=1.0, default=0.0)
        # Offsets may not go back (SVG 2, 14.2.4).
        offsets.append(max(min(1.0, max(0.0, given)), offsets[-1] if offsets else 0.0))
        colours.append(styles[id(stop)].stop())
    return np.array(offsets), np.array(colours).reshape(-1, 4)


def _inside(cx: float, cy: float, r: float, fx: float, fy: float) -> tuple[float, float]:
    """Return the focal point, brought into the circle."""
    away = math.hypot(fx - cx, fy - cy)
    if away < 0.999 * r or away == 0:
        return fx, fy
    return cx + (fx - cx) / away * r * 0.999, cy + (fy - cy) / away * r * 0.999


def _along(points: FloatArray, line: tuple[float, ...]) -> FloatArray:
    x1, y1, x2, y2 = line
    way = np.array([x2 - x1, y2 - y1])
    return np.asarray((points - [x1, y1]) @ way / float(way @ way))


def _around(points: FloatArray, line: tuple[float, ...]) -> FloatArray:
    """Return t where a circle from the focal one to the outer one goes through each place.

    The circle at t has its middle at f + t (c - f) and the radius fr + t (r - fr).
    """
    cx, cy, r, fx, fy, fr = line
    dx, dy, dr = cx - fx, cy - fy, r - fr
    px, py = points[:, 0] - fx, points[:, 1] - fy
    a = dx * dx + dy * dy - dr * dr
    b = px * dx + py * dy + fr * dr
    c = px * px + py * py - fr * fr
    if abs(a) < 1e-12:
        return np.asarray(c / np.where(np.abs(b) > 1e-12, 2.0 * b, 1e-12))
    root = np.sqrt(np.maximum(b * b - a * c, 0.0))
    return np.asarray(np.maximum((b - root) / a, (b + root) / a))


def places_over(paths: tuple[Path, ...], rule: str) -> FloatArray:
    """Return places spread evenly over an area, shape (n, 2); along its border if it is too thin for that."""
    points = [path.segments.reshape(-1, 2) for path in paths if len(path.segments)]
    if not points:
        return np.zeros((0, 2))
    every = np.concatenate(points)
    low, high = every.min(axis=0), every.max(axis=0)
    size = float((high - low).max())
    if not size > 0:
        return np.zeros((0, 2))
    area = shape_area(Shape("", paths, fill_rule=rule), tolerance=2e-3 * size)
    shapely.prepare(area)
    steps = (np.arange(_SIDE) + 0.5) / _SIDE
    grid = low + np.stack(np.meshgrid(steps, steps), axis=-1).reshape(-1, 2) * (high - low)
    held = grid[shapely.contains_xy(area, grid[:, 0], grid[:, 1])]
    return held if len(held) else places_along(paths)


def places_along(paths: tuple[Path, ...]) -> FloatArray:
    """Return places along lines, evenly by length, shape (n, 2)."""
    t = (np.arange(8) + 0.5) / 8
    parts = [bezier.evaluate(path.segments, t).reshape(-1, 2) for path in paths if len(path.segments)]
    if not parts:
        return np.zeros((0, 2))
    lengths = np.concatenate(
        [np.repeat(bezier.arc_lengths(path.segments), 8) for path in paths if len(path.segments)]
    )
    points = np.concatenate(parts)
    if not lengths.sum() > 0:
        return points
    along = np.cumsum(lengths) / lengths.sum()
    chosen = np.searchsorted(along, (np.arange(400) + 0.5) / 400)
    return np.asarray(points[np.minimum(chosen, len(points) - 1)])
