"""Which of the methods a picture wants, and why.

All limits in this module are our own rules, measured on open sets (bench.forecasts); no source.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from zeichen.core.methods import Method
from zeichen.core.raster.colours import Palette
from zeichen.core.raster.picture import Picture
from zeichen.core.raster.picture_readings import read_picture_readings
from zeichen.core.raster.style_reading import read_lines
from zeichen.core.raster.two_tones import lost_in_two_tones
from zeichen.core.values import FloatArray

# Solid is for figures of which it loses no more than this share.
_MOST_LOST = 0.03
# Lines are looked for in a copy no larger than this: which a figure is drawn in shows at any size.
_LINES_PX = 360


@dataclass(frozen=True, slots=True)
class MethodChoice:
    """The method a picture wants, why, how many colours its figure has, and the share that solid would lose.

    line_px: mean width of the lines of a figure that is drawn in them, else None.
    """

    method: Method
    why: str
    colours: int
    solid_loss: float
    line_px: float | None


def method_for(picture: Picture, *, draws_lines: bool = True) -> MethodChoice:
    """Return the method that fits a picture; draws_lines as for choose_method, without a process yes."""
    seen = read_picture_readings(picture)
    return choose_method(seen.palette, seen.ground_rgb, seen.share[seen.figure_box], draws_lines=draws_lines)


def choose_method(
    palette: Palette, ground_rgb: FloatArray, ink: FloatArray, *, draws_lines: bool
) -> MethodChoice:
    """Return the method that fits a picture.

    Parameters
    ----------
    palette : Palette
        The picture's flat colours, its ground's among them.
    ground_rgb : (3,) float array, 0-255
    ink : (height, width) float array
        How much of each pixel is dark (or, on a dark ground, light), 0-1.
    draws_lines : bool
        Whether what makes the figure follows a drawn line as one stroke.
    """
    colours, loss = lost_in_two_tones(palette, ground_rgb)
    if colours > 1 and loss > _MOST_LOST:
        why = f"{colours} flat colours; solid would lose {100 * loss:.0f} % of the figure"
        return MethodChoice(Method.FLATS, why, colours, loss, None)
    smaller = min(1.0, _LINES_PX / max(ink.shape))
    size = [max(1, round(side * smaller)) for side in ink.shape[::-1]]
    lines, of_ink = read_lines(np.asarray(cv2.resize(ink, size, interpolation=cv2.INTER_AREA)))
    if lines is None or not of_ink:
        return MethodChoice(Method.SOLID, "one dark tone, in areas", colours, loss, None)
    if draws_lines:
        why = "drawn in lines, which a tool can follow as single strokes"
        return MethodChoice(Method.CENTRELINE, why, colours, loss, lines.width_px / smaller)
    why = "drawn in lines; here they are made as the areas they cover"
    return MethodChoice(Method.SOLID, why, colours, loss, lines.width_px / smaller)
