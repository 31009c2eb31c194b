"""A figure's parts set into a picture: leaning, mirrored, filling the frame, corners as round as asked."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import shapely
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from zeichen.standins.studio.pen import Form, Mark, Part, moved


@dataclass(frozen=True, slots=True)
class Frame:
    """A picture in board units: the longer side is 1000."""

    width: float
    height: float


def place(
    parts: Sequence[Part],
    frame: Frame,
    *,
    lean_deg: float,
    mirrored: bool,
    size_share: float,
    middle: tuple[float, float] = (0.5, 0.5),
) -> list[Part]:
    """Return the parts so that the whole figure fills a share of the frame round a place given in shares."""

    def lean(area: BaseGeometry) -> BaseGeometry:
        turned = affinity.rotate(area, lean_deg, origin=(500, 500))
        return affinity.scale(turned, -1, 1, origin=(500, 500)) if mirrored else turned

    leaning = [moved(part, lean) for part in parts]
    x0, y0, x1, y1 = bounds(leaning)
    scale = min(size_share * frame.width / (x1 - x0), size_share * frame.height / (y1 - y0))
    dx = middle[0] * frame.width - scale * (x0 + x1) / 2
    dy = middle[1] * frame.height - scale * (y0 + y1) / 2

    def fit(area: BaseGeometry) -> BaseGeometry:
        return affinity.affine_transform(area, (scale, 0, 0, scale, dx, dy))

    return [moved(part, fit) for part in leaning]


def bounds(parts: Sequence[Part]) -> tuple[float, float, float, float]:
    """Return the box of all parts."""
    x0, y0, x1, y1 = shapely.total_bounds([_geometry(part) for part in parts])
    return float(x0), float(y0), float(x1), float(y1)


def round_off(parts: Sequence[Part], radius: float) -> list[Part]:
    """Return the parts with the corners of their forms rounded, outer and inner ones."""
    if radius < 0.5:
        return list(parts)

    def softened(area: BaseGeometry) -> BaseGeometry:
        # Small forms keep at least half their width, or they would vanish.
        reach = radius
        while reach > 0.5:
            inner = area.buffer(-reach)
            if not inner.is_empty and inner.geom_type == area.geom_type:
                return inner.buffer(2 * reach, quad_segs=12).buffer(-reach)
            reach /= 2
        return area

    return [replace(part, area=softened(part.area)) if isinstance(part, Form) else part for part in parts]


def _geometry(part: Part) -> BaseGeometry:
    return part.line if isinstance(part, Mark) else part.area
