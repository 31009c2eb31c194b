"""The one place where pixels become millimetres.

A finished size says how wide the *figure* (the box around all shapes) is in mm; the frame around
it, the picture's empty margin, does not count. Millimetre drawings keep y down; machine files turn
it up themselves.
"""

from dataclasses import dataclass, replace

import numpy as np

from zeichen.core.geometry.drawing import Drawing
from zeichen.core.geometry.extent import require_extent
from zeichen.core.values import FloatArray, require_number


@dataclass(frozen=True, slots=True)
class Scale:
    """How many millimetres one drawing unit is, from the figure's finished width."""

    mm_per_px: float

    def __post_init__(self) -> None:
        require_number(self.mm_per_px, "Scale", above=0, unit="mm/px")

    @classmethod
    def from_width(cls, drawing: Drawing, *, width_mm: float) -> "Scale":
        """Return the scale that makes the figure a given width.

        Raises
        ------
        InvalidInputError
            If the width is not above 0, over 10 m, or the drawing is empty.
        """
        require_number(
            width_mm,
            "Width",
            above=0,
            most=10_000,
            unit="mm",
            advice="Enter the finished width of the figure.",
        )
        x_min, y_min, x_max, y_max = drawing.bounds()
        # A figure of no width (one upright line) is sized by its height instead.
        span = x_max - x_min if x_max > x_min else y_max - y_min
        return cls(width_mm / require_number(span, "Figure size", above=0, unit="px"))

    def to_mm(self, length_px: float) -> float:
        """Return a length in mm."""
        return length_px * self.mm_per_px

    def to_mm2(self, area_px: float) -> float:
        """Return an area in mm²."""
        return area_px * self.mm_per_px**2

    def to_px(self, length_mm: float) -> float:
        """Return a length in drawing units."""
        return length_mm / self.mm_per_px


def at_true_size(drawing: Drawing, *, width_mm: float, margin_mm: float = 0.0) -> Drawing:
    """Return the drawing in mm: the figure's box starts at (margin, margin), the frame fits around it.

    Parameters
    ----------
    drawing : Drawing, px
    width_mm : float, mm
        Finished width of the figure, above 0.
    margin_mm : float, mm
        Empty border around the figure, 0 or more.

    Returns
    -------
    Drawing
        Points, frame and stroke widths in mm, y down.
    """
    require_number(margin_mm, "Margin", least=0, most=1000, unit="mm")
    scale = Scale.from_width(drawing, width_mm=width_mm)
    require_extent(drawing, mm_per_unit=scale.mm_per_px)
    x_min, y_min, x_max, y_max = drawing.bounds()
    origin = np.array([x_min, y_min])

    def change(points: FloatArray) -> FloatArray:
        return np.asarray((points - origin) * scale.mm_per_px + margin_mm)

    placed = drawing.moved(
        change,
        width=scale.to_mm(x_max - x_min) + 2 * margin_mm or 1e-6,
        height=scale.to_mm(y_max - y_min) + 2 * margin_mm or 1e-6,
    )
    shapes = tuple(
        replace(shape, stroke_width=None if shape.stroke_width is None else scale.to_mm(shape.stroke_width))
        for shape in placed.shapes
    )
    return replace(placed, shapes=shapes)
