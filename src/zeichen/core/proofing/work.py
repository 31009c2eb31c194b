"""A drawing while it is being mended, and the limits it is mended to, in its own units."""

from dataclasses import dataclass, field, replace

import numpy as np

from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.offsetting import pen_area
from zeichen.core.geometry.overlay import Region, subtracted, united
from zeichen.core.geometry.placement import Scale
from zeichen.core.geometry.polygons import area_of_rings, is_light, ring_points, shape_area
from zeichen.core.proofing.bridges import Bar
from zeichen.core.proofing.yardstick import Yardstick


@dataclass
class Work:
    """A drawing while it is being mended; bars: the bridges that each finding took."""

    source: Drawing
    yardstick: Yardstick
    scale: Scale
    shapes: dict[str, Shape] = field(default_factory=dict)
    bars: list[tuple[Bar, ...]] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.shapes = {shape.id: shape for shape in self.source.shapes}

    def drawing(self) -> Drawing:
        """Return what has become of it."""
        return replace(self.source, shapes=tuple(self.shapes.values()))

    @property
    def thin_px(self) -> float:
        """The thinnest part the process holds, px."""
        return self.scale.to_px(self.yardstick.limits.thin_mm)

    @property
    def gap_px(self) -> float:
        """The narrowest gap that stays open, px."""
        return self.scale.to_px(self.yardstick.limits.gap_mm)

    @property
    def tolerance_px(self) -> float:
        """How exact new borders are, px."""
        return min(self.thin_px, self.gap_px) / 200.0

    def put(self, shape: Shape, paths: tuple[Path, ...]) -> None:
        """Give a shape other paths; one without any is gone."""
        if paths:
            self.shapes[shape.id] = replace(shape, paths=paths)
        else:
            self.shapes.pop(shape.id, None)

    def region(self, shape: Shape) -> Region:
        """Return what a shape covers, of a drawn line what its pen does."""
        if shape.stroke_width is None:
            return Region.of(shape)
        return Region(pen_area(shape, tolerance=self.tolerance_px), "nonzero")

    def put_area(self, shape: Shape, paths: tuple[Path, ...]) -> None:
        """Give a shape another area; a drawn line becomes the area of its pen with it."""
        if shape.stroke_width is not None:
            shape = replace(shape, stroke_width=None, fill_rule="nonzero")
        self.put(shape, paths)

    def add_area(self, shape: Shape, area: Region) -> None:
        """Join an area to a shape, and take it from all others it would lie under or over."""
        others = [other for other in self.shapes.values() if other.id != shape.id and self.meets(other, area)]
        # Neighbours of the same colour keep what is theirs; others make room.
        alike = [self.region(other) for other in others if other.fill == shape.fill]
        if alike:
            area = Region(subtracted(area, *alike))
        self.put_area(shape, united([self.region(shape), area]))
        for other in others:
            if other.fill != shape.fill:
                self.put_area(other, subtracted(self.region(other), area))

    def take_area(self, area: Region, *, light: bool = False) -> None:
        """Take an area from every shape that it meets."""
        for other in list(self.shapes.values()):
            if (light or not is_light(other.fill)) and self.meets(other, area):
                self.put_area(other, subtracted(self.region(other), area))

    def meets(self, shape: Shape, area: Region) -> bool:
        """Return whether a shape's box and an area's touch; of a drawn line, whether the line itself does."""
        half = (shape.stroke_width or 0.0) / 2.0
        low_x, low_y, high_x, high_y = box_of(shape.paths)
        if not boxes_meet(box_of(area.paths), (low_x - half, low_y - half, high_x + half, high_y + half)):
            return False
        if shape.stroke_width is None:
            return True
        drawn = shape_area(shape, tolerance=self.tolerance_px)
        rings = [ring_points(path, tolerance=self.tolerance_px) for path in area.paths]
        return bool(area_of_rings(rings, even_odd=area.fill_rule == "evenodd").intersects(drawn))


def box_of(paths: tuple[Path, ...]) -> tuple[float, float, float, float]:
    """Return the box around the control points of paths; an empty one if there are none."""
    points = [path.segments.reshape(-1, 2) for path in paths if len(path.segments)]
    if not points:
        return np.inf, np.inf, -np.inf, -np.inf
    every = np.concatenate(points)
    return (*every.min(axis=0).tolist(), *every.max(axis=0).tolist())


def boxes_meet(a: tuple[float, float, float, float], b: tuple[float, float, float, float]) -> bool:
    """Return whether two boxes touch."""
    return a[0] <= b[2] and b[0] <= a[2] and a[1] <= b[3] and b[1] <= a[3]
