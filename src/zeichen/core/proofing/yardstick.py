"""The yardstick: process, blank and finished size, and the limits that follow.

Limits are common practice with no published source; a maker can change every one of them.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

from zeichen.core.geometry.drawing import Drawing
from zeichen.core.geometry.extent import SMALLEST_MM, require_extent
from zeichen.core.geometry.placement import Scale
from zeichen.core.values import require_number

_LARGEST_MM = 10_000.0
_USED_HEIGHT = 0.9


class Process(StrEnum):
    """What will make the drawing real."""

    LASER_ENGRAVE = "laser-engrave"
    LASER_CUT = "laser-cut"
    CARVE = "carve"
    RELIEF = "relief"
    APPAREL = "apparel"
    STENCIL = "stencil"


# What follows a drawn line as one stroke of the tool.
DRAWING_LINES = (Process.LASER_ENGRAVE, Process.CARVE)


@dataclass(frozen=True, slots=True)
class Limits:
    """What a process can hold.

    thin_mm: thinnest part of the figure. gap_mm: narrowest opening that stays open.
    speck_mm2: anything smaller is a speck. one_piece: whether parts that hang free are a fault.
    cut_away: the dark areas are removed (a stencil), so the light ones are the material.
    corner_mm: radius of the tool at inside corners; 0 where it leaves them sharp. colours: how many can be made.
    """

    thin_mm: float
    gap_mm: float
    speck_mm2: float
    one_piece: bool = False
    cut_away: bool = False
    corner_mm: float = 0.0
    colours: int = 24

    def __post_init__(self) -> None:
        require_number(self.thin_mm, "Thinnest part", above=0, most=100, unit="mm")
        require_number(self.gap_mm, "Smallest gap", above=0, most=100, unit="mm")
        require_number(self.speck_mm2, "Speck area", least=0, most=10_000, unit="mm²")
        require_number(self.corner_mm, "Tool radius at inside corners", least=0, most=100, unit="mm")
        require_number(self.colours, "Colours", least=1, most=256)


def usual_limits(process: Process) -> Limits:
    """Return the limits a yardstick starts with. Common practice, no source.

    A speck is anything smaller than a disc half a millimetre wider than the thinnest part (our own rule).

    Examples
    --------
    >>> usual_limits(Process.LASER_ENGRAVE).thin_mm
    0.15
    """
    thin_mm, gap_mm, one_piece, cut_away = {
        Process.LASER_ENGRAVE: (0.15, 0.15, False, False),
        Process.LASER_CUT: (1.5, 0.5, True, False),
        Process.CARVE: (0.4, 0.4, False, False),
        Process.RELIEF: (0.8, 0.4, False, False),
        Process.APPAREL: (0.35, 0.35, False, False),
        Process.STENCIL: (1.5, 1.0, True, True),
    }[process]
    # One changer of four spools makes four colours (common practice, no source).
    colours = 4 if process is Process.RELIEF else 24
    speck_mm2 = round(math.pi / 4 * (thin_mm + 0.5) ** 2, 2)
    return Limits(thin_mm, gap_mm, speck_mm2, one_piece, cut_away, colours=colours)


@dataclass(frozen=True, slots=True)
class Yardstick:
    """What every picture and path is judged by."""

    process: Process
    width_mm: float
    blank: str
    blank_width_mm: float
    blank_height_mm: float
    limits: Limits

    def __post_init__(self) -> None:
        require_number(
            self.width_mm,
            "Width",
            above=0,
            least=SMALLEST_MM,
            most=_LARGEST_MM,
            unit="mm",
            advice="Enter the finished width of the figure.",
        )
        require_number(self.blank_width_mm, "Blank width", above=0, most=_LARGEST_MM, unit="mm")
        require_number(self.blank_height_mm, "Blank height", above=0, most=_LARGEST_MM, unit="mm")

    @property
    def draws_lines(self) -> bool:
        """Whether a drawn line is one stroke of the tool here, and no area."""
        return self.process in DRAWING_LINES

    def finished_width_mm(self, drawing: Drawing) -> float:
        """Return how wide a drawing's figure is made; see width_for."""
        x_min, y_min, x_max, y_max = drawing.bounds()
        return self.width_for(x_max - x_min, y_max - y_min)

    def width_for(self, width: float, height: float) -> float:
        """Return how wide a figure of some proportions is made, mm: the chosen width, or less if it would
        outgrow the blank's height.

        A set shares one yardstick, and a tall motif has to fit the same blank as a wide one. A tenth of
        the blank's height stays free (our own rule).
        """
        if not (width > 0 and height > 0):
            return self.width_mm
        return min(self.width_mm, _USED_HEIGHT * self.blank_height_mm * width / height)

    @classmethod
    def usual(cls, process: Process, *, width_mm: float) -> "Yardstick":
        """Return a yardstick with the usual limits of a process and a blank that is large enough for anything."""
        return cls(process, width_mm, "", _LARGEST_MM, _LARGEST_MM, usual_limits(process))


def finished_scale(drawing: Drawing, yardstick: Yardstick) -> Scale:
    """Return the scale at which a yardstick has a drawing made.

    Raises
    ------
    InvalidInputError
        If the drawing is empty, or would be beyond 100 m or below 1 µm.
    """
    scale = Scale.from_width(drawing, width_mm=yardstick.finished_width_mm(drawing))
    require_extent(drawing, mm_per_unit=scale.mm_per_px)
    return scale
