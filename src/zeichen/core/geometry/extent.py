"""How large and how small a drawing may be: between 1 µm and 100 m, far beyond what any machine here makes.

Beyond that, numbers stop meaning places: squares of coordinates overflow, digits that tell two nodes apart are
lost, and a file that claims such a size is damaged or hostile.
"""

from collections.abc import Iterable
from dataclasses import fields, is_dataclass

import numpy as np

from zeichen.core.errors import FormatError, InvalidInputError
from zeichen.core.geometry.drawing import LARGEST_COORDINATE, Drawing, Shape

# Our own rule; the largest machines that makers use work on a few metres, the finest to a few micrometres.
LARGEST_MM = 100_000.0
SMALLEST_MM = 0.001
_BOUNDS = "A drawing is at most 100 m and at least 1 µm across."
# One CSS pixel (CSS Values 4, 5.2): what a user unit of an SVG file is.
MM_PER_CSS_PX = 25.4 / 96


def require_extent(drawing: Drawing, *, mm_per_unit: float) -> None:
    """Raise InvalidInputError if a figure, or a line's width, is beyond 100 m, or the figure below 1 µm."""
    size_mm = _largest_side(drawing.shapes) * mm_per_unit
    if drawing.node_count and not SMALLEST_MM <= size_mm <= LARGEST_MM:
        raise InvalidInputError(f"The figure would be {size_mm:.3g} mm across. {_BOUNDS}")
    pens = [shape.stroke_width for shape in drawing.shapes if shape.stroke_width is not None]
    widest_mm = max(pens, default=0.0) * mm_per_unit
    if not widest_mm <= LARGEST_MM:
        raise InvalidInputError(f"The drawing would have a line {widest_mm:.3g} mm wide. {_BOUNDS}")


def require_reach(drawing: Drawing, *, mm_per_unit: float) -> None:
    """Raise InvalidInputError if a drawing reaches further than 100 m from its page's corner, or its page does."""
    places = [float(np.abs(path.segments).max()) for path in drawing.paths if len(path.segments)]
    largest_mm = max(places, default=0.0) * mm_per_unit
    if not largest_mm <= LARGEST_MM:
        raise InvalidInputError(f"The drawing would reach {largest_mm:.3g} mm from its corner. {_BOUNDS}")
    for name, side in (("wide", drawing.width), ("high", drawing.height)):
        if not SMALLEST_MM <= side * mm_per_unit <= LARGEST_MM:
            raise InvalidInputError(f"The page would be {side * mm_per_unit:.3g} mm {name}. {_BOUNDS}")


def require_file_size(drawing: Drawing, *, mm_per_unit: float) -> None:
    """Raise FormatError if a drawing from a file is out of bounds at the size the file gives it."""
    try:
        require_extent(drawing, mm_per_unit=mm_per_unit)
        require_reach(drawing, mm_per_unit=mm_per_unit)
    except InvalidInputError as error:
        raise FormatError(f"{error} Scale it in the file first.") from error


def require_shape_sizes(shapes: Iterable[Shape], *, mm_per_unit: float) -> None:
    """Raise InvalidInputError if one of some shapes is below 1 µm: it would be gone once it is written."""
    for shape in shapes:
        size_mm = _largest_side([shape]) * mm_per_unit
        if size_mm < SMALLEST_MM:
            raise InvalidInputError(
                f"{shape.id} would be {size_mm:.3g} mm across. A shape is at least 1 µm across."
            )


def require_numbers(change: object, name: str = "A number of this change") -> None:
    """Raise InvalidInputError if any number in a value, its fields, rows and tables is not finite or beyond 1e9.

    Examples
    --------
    >>> require_numbers((1.0, [2.0, "text"]))
    """
    if isinstance(change, float | int) and not isinstance(change, bool):
        if not abs(change) <= LARGEST_COORDINATE:
            raise InvalidInputError(f"{name} is {float(change):.3g}, which no drawing can hold. {_BOUNDS}")
    elif is_dataclass(change):
        for each in fields(change):
            require_numbers(getattr(change, each.name), each.name.replace("_", " ").capitalize())
    elif isinstance(change, tuple | list):
        for part in change:
            require_numbers(part, name)


def _largest_side(shapes: Iterable[Shape]) -> float:
    """Return the longer side of the box around all control points."""
    corners = [path.segments.reshape(-1, 2) for shape in shapes for path in shape.paths if len(path.segments)]
    if not corners:
        return 0.0
    low = np.min([each.min(axis=0) for each in corners], axis=0)
    high = np.max([each.max(axis=0) for each in corners], axis=0)
    return float((high - low).max())
