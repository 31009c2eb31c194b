"""How the studio's hand moves: smooth closed forms, tapering limbs, leaves, spirals.

Everything is drawn on a board of 1000 x 1000 units, (x, y) with y down. A form is a shapely area.
"""

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry import LineString, Point, Polygon
from shapely.geometry.base import BaseGeometry

Spot = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Form:
    """A filled part of a picture. `joined` parts melt into what lies below; `decor` ones may bear ornament."""

    area: BaseGeometry
    tone: str
    joined: bool = False
    decor: bool = False


@dataclass(frozen=True, slots=True)
class Mark:
    """A drawn line on top of forms: a vein, a spiral, a seam.

    Width is in shares of the line weight; a line of negative width stands outside the forms. `extra` ones
    are left out where little detail is asked for.
    """

    line: BaseGeometry
    tone: str
    width: float = 1.0
    extra: bool = False


@dataclass(frozen=True, slots=True)
class Dot:
    """A small spot such as an eye: paper in a silhouette, ink in a line drawing, its tone in flat colours."""

    area: BaseGeometry
    tone: str = "dark"
    extra: bool = False


Part = Form | Mark | Dot


def moved(part: Part, move: Callable[[BaseGeometry], BaseGeometry]) -> Part:
    """Return a part with its geometry moved."""
    if isinstance(part, Mark):
        return replace(part, line=move(part.line))
    if isinstance(part, Dot):
        return replace(part, area=move(part.area))
    return replace(part, area=move(part.area))


def turned(part: Part, angle_deg: float) -> Part:
    """Return a part turned about the middle of the board."""
    return moved(part, lambda area: affinity.rotate(area, angle_deg, origin=(500, 500)))


def through(points: Sequence[Spot], *, closed: bool = True, steps: int = 32) -> np.ndarray:
    """Return a smooth curve through points (centripetal Catmull-Rom), shape (m, 2)."""
    p = np.array(points, dtype=float)
    padded = (
        np.vstack([p[-1], p, p[0], p[1]]) if closed else np.vstack([2 * p[0] - p[1], p, 2 * p[-1] - p[-2]])
    )
    runs = []
    for a, b, c, d in zip(padded[:-3], padded[1:-2], padded[2:-1], padded[3:], strict=True):
        knots = np.concatenate(
            [[0.0], np.cumsum([max(math.dist(u, v), 1e-6) ** 0.5 for u, v in ((a, b), (b, c), (c, d))])]
        )
        t0, t1, t2, t3 = knots
        t = np.linspace(t1, t2, steps, endpoint=False)[:, None]
        a1 = (t1 - t) / (t1 - t0) * a + (t - t0) / (t1 - t0) * b
        a2 = (t2 - t) / (t2 - t1) * b + (t - t1) / (t2 - t1) * c
        a3 = (t3 - t) / (t3 - t2) * c + (t - t2) / (t3 - t2) * d
        b1 = (t2 - t) / (t2 - t0) * a1 + (t - t0) / (t2 - t0) * a2
        b2 = (t3 - t) / (t3 - t1) * a2 + (t - t1) / (t3 - t1) * a3
        runs.append((t2 - t) / (t2 - t1) * b1 + (t - t1) / (t2 - t1) * b2)
    if not closed:
        runs.append(p[-1:])
    return np.vstack(runs)


def blob(points: Sequence[Spot]) -> BaseGeometry:
    """Return the smooth closed area through points."""
    return Polygon(through(points)).buffer(0)


def rounded(points: Sequence[Spot], *, radius: float) -> BaseGeometry:
    """Return a polygon with rounded corners."""
    return Polygon(points).buffer(-radius, join_style="mitre").buffer(radius, quad_segs=16)


def oval(center: Spot, rx: float, ry: float, *, turn_deg: float = 0.0) -> BaseGeometry:
    """Return an ellipse."""
    form = affinity.scale(Point(*center).buffer(1.0, quad_segs=48), rx, ry, origin=center)
    return affinity.rotate(form, turn_deg, origin=center)


def limb(points: Sequence[Spot], widths: Sequence[float]) -> BaseGeometry:
    """Return a tube along a smooth line whose width runs through the given values, ends round."""
    spine = through(points, closed=False, steps=24)
    at = np.linspace(0, 1, len(spine))
    width = np.interp(at, np.linspace(0, 1, len(widths)), widths)
    discs = [
        Point(x, y).buffer(w / 2, quad_segs=24)
        for (x, y), w in zip(spine.tolist(), width.tolist(), strict=True)
    ]
    return shapely.union_all([shapely.union_all([a, b]).convex_hull for a, b in itertools.pairwise(discs)])


def tube(points: Sequence[Spot], width: float) -> BaseGeometry:
    """Return a tube of even width along a smooth line."""
    return LineString(through(points, closed=False)).buffer(width / 2, quad_segs=16)


def stroke(points: Sequence[Spot]) -> BaseGeometry:
    """Return a smooth line."""
    return LineString(through(points, closed=False))


def leaf(base: Spot, tip: Spot, *, width: float, bend: float = 0.0, belly: float = 0.45) -> BaseGeometry:
    """Return a pointed leaf from base to tip; bend bows it sideways, belly says where it is widest."""
    (bx, by), (tx, ty) = base, tip
    along = np.array([tx - bx, ty - by])
    length = float(np.hypot(*along))
    unit = along / length
    side = np.array([-unit[1], unit[0]])
    t = np.linspace(0, 1, 40)
    # A curve that starts narrow, swells at the belly and runs out into a point.
    swell = np.sin(np.pi * t ** (math.log(0.5) / math.log(belly))) ** 0.9 * width / 2
    spine = np.array(base) + t[:, None] * along + (np.sin(np.pi * t) * bend)[:, None] * side
    outline = np.vstack([spine + swell[:, None] * side, (spine - swell[:, None] * side)[::-1]])
    return Polygon(outline).buffer(0)


def rib(base: Spot, tip: Spot, *, bend: float = 0.0, reach: float = 0.8) -> BaseGeometry:
    """Return the midrib of such a leaf."""
    (bx, by), (tx, ty) = base, tip
    along = np.array([tx - bx, ty - by])
    unit = along / float(np.hypot(*along))
    side = np.array([-unit[1], unit[0]])
    t = np.linspace(0.1, reach, 24)
    return LineString(np.array(base) + t[:, None] * along + (np.sin(np.pi * t) * bend)[:, None] * side)


def spiral(
    center: Spot, *, inner: float, outer: float, turns: float, start_deg: float, squash: float = 1.0
) -> BaseGeometry:
    """Return an Archimedean spiral from inside out."""
    t = np.linspace(0, 1, 640)
    radius = inner + (outer - inner) * t
    angle = np.radians(start_deg) + 2 * np.pi * turns * t
    return LineString(
        np.stack([center[0] + radius * np.cos(angle), center[1] + squash * radius * np.sin(angle)], axis=1)
    )


def outline_data(geometry: BaseGeometry) -> str:
    """Return the SVG path data of an area or a line."""
    if geometry.is_empty:
        return ""
    if isinstance(geometry, LineString):
        return "M" + "L".join(f"{x:.3f} {y:.3f}" for x, y in geometry.coords)
    if isinstance(geometry, Polygon):
        rings = [geometry.exterior, *geometry.interiors]
        return "".join(
            "M" + "L".join(f"{x:.3f} {y:.3f}" for x, y in ring.coords[:-1]) + "Z" for ring in rings
        )
    return "".join(outline_data(part) for part in getattr(geometry, "geoms", []))
