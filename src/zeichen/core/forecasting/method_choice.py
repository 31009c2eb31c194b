"""Which of the methods a picture wants, and why.

All limits in this module are our own rules, measured on open sets (bench.forecasts); no source.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from zeichen.core.methods import Method
from zeichen.core.raster.colours import Palette, difference, to_lab
from zeichen.core.raster.picture import Picture
from zeichen.core.raster.picture_readings import read_picture_readings
from zeichen.core.raster.style_reading import read_lines
from zeichen.core.values import FloatArray

# A colour further (CIEDE2000) from both tones that solid knows is lost by it.
_OFF_TONE = 12.0
# Solid is for figures of which it loses no more than this share.
_MOST_LOST = 0.03
# Colours of the palette are of the figure from this share of it on: soft edges leave a grey behind.
_LEAST_SHARE = 0.004
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
    colours, loss = _lost_by_solid(palette, ground_rgb)
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


def _lost_by_solid(palette: Palette, ground_rgb: FloatArray) -> tuple[int, float]:
    """Return how many colours the figure has, and the share of it that two tones would draw wrongly."""
    off = np.abs(palette.rgb - ground_rgb).max(axis=1)
    ground = int(off.argmin())
    figure = np.arange(len(palette.rgb)) != ground
    area = palette.area_px[figure]
    if not len(area):
        return 0, 0.0
    share = area / area.sum()
    rgb = palette.rgb[figure][share >= _LEAST_SHARE]
    share = share[share >= _LEAST_SHARE]
    if len(rgb) < 2:
        return len(rgb), 0.0
    lab, paper = to_lab(rgb), to_lab(palette.rgb[ground][None])
    # Solid draws one tone: the darkest that fills a fair part, or, on a dark ground, the lightest.
    contrast = np.abs(lab[:, 0] - paper[0, 0])
    fair = share >= 0.1
    tone = lab[fair][np.argmax(contrast[fair])] if fair.any() else lab[np.argmax(contrast)]
    wrong = np.minimum(difference(lab, tone[None]), difference(lab, paper)) > _OFF_TONE
    return len(rgb), float(share[wrong].sum() / share.sum())
