"""A drawing while it is being mended, and the limits it is mended to, in its own units."""

from dataclasses import dataclass, field, replace

import numpy as np

from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.overlay import Region, subtracted, united
from zeichen.core.geometry.placement import Scale
from zeichen.core.geometry.polygons import is_light
from zeichen.core.proofing.yardstick import Yardstick


@dataclass
class Work:
    """A drawing while it is being mended."""

    source: Drawing
    yardstick: Yardstick
    scale: Scale
    shapes: dict[str, Shape] = field(default_factory=dict)

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

    def add_area(self, shape: Shape, area: Region) -> None:
        """Join an area to a shape, and take it from all others it would lie under or over."""
        box = box_of(area.paths)
        others = [
            other
            for other in self.shapes.values()
            if other.id != shape.id and other.stroke_width is None and boxes_meet(box, box_of(other.paths))
        ]
        # Neighbours of the same colour keep what is theirs; others make room.
        alike = [Region.of(other) for other in others if other.fill == shape.fill]
        if alike:
            area = Region(subtracted(area, *alike))
        self.put(shape, united([Region.of(shape), area]))
        for other in others:
            if other.fill != shape.fill:
                self.put(other, subtracted(Region.of(other), area))

    def take_area(self, area: Region, *, light: bool = False) -> None:
        """Take an area from every filled shape that it meets."""
        box = box_of(area.paths)
        for other in list(self.shapes.values()):
            if (
                other.stroke_width is None
                and boxes_meet(box, box_of(other.paths))
                and (light or not is_light(other.fill))
            ):
                self.put(other, subtracted(Region.of(other), area))


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
