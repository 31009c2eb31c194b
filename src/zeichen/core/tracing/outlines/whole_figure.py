"""The whole figure as one dark tone: all that is not the picture's ground."""

import math

import cv2
import numpy as np

from zeichen.core.raster.clean.ground import off_ground, read_ground
from zeichen.core.raster.colours import find_palette
from zeichen.core.raster.picture import Picture, not_larger
from zeichen.core.raster.shading import like_ground, read_shading
from zeichen.core.raster.smooth_areas import repainted
from zeichen.core.raster.two_tones import lost_in_two_tones
from zeichen.core.tracing.inside_places import InsideAt, InsidePlace, enclosed_only, kept_inside
from zeichen.core.values import AnyArray, Bytes8Array, value_below

# Whether a figure is drawn in one dark tone is seen in a copy no larger than this, px.
_SEEN_PX = 512
# A ground is plain if this share of the rim has its colour: without one there is no whole figure to see.
_PLAIN_RIM = 0.93
# Two tones may lose this share of a figure: as for the choice of a method (core.forecasting.method_choice).
_MOST_LOST = 0.03
# A figure of whose rim this share has the tone furthest from the ground's (that only 5 % are further from), give or
# take so many grey levels, is drawn in outlines, and those are what is dark. Our own rule: of 18 outlined clipart
# pictures the least has .69, of 9 without outlines the most .39 (but for a flag, .70).
_OUTLINED, _FURTHEST, _SAME_TONE = 0.65, 0.95, 30.0
# The rim is looked at so wide, px of the copy, behind its soft edge.
_RIM_PX, _SOFT_PX = 5, 2
# What differs by more from the ground is figure, 0-255.
_OFF_GROUND = 40
# Larger pictures are parted from their ground in a smaller copy: see core.tracing.regions.flats.
_MOST_PX = 6_000_000


def wants_whole(picture: Picture) -> bool:
    """Return whether a dark level would lose much of a figure that stands on a plain ground."""
    small = Picture(not_larger(picture.rgb, _SEEN_PX))
    ground = read_ground(small)
    if ground.rim_share < _PLAIN_RIM:
        return False
    colours, lost = lost_in_two_tones(find_palette(small.rgb), ground.rgb)
    if colours < 2 or lost <= _MOST_LOST:
        return False
    grey = small.grey().astype(np.float64)
    figure = (off_ground(small, ground) > _OFF_GROUND).astype(np.uint8)
    outer, inner = (
        cv2.erode(figure, np.ones((2 * reach + 1,) * 2, np.uint8)) for reach in (_SOFT_PX, _RIM_PX)
    )
    rim = (outer > 0) & (inner == 0)
    # Seen from the ground: on a dark one outlines are light.
    off = np.abs(grey - float(ground.rgb @ (0.299, 0.587, 0.114)))
    return bool(
        rim.any() and (off[rim] > value_below(off[outer > 0], _FURTHEST) - _SAME_TONE).mean() < _OUTLINED
    )


def figure_grey(
    rgb: Bytes8Array, *, keeps_inside: bool, turned: tuple[InsideAt, ...] = ()
) -> tuple[Bytes8Array, tuple[InsidePlace, ...]]:
    """Return a grey picture (height, width), white on the ground, black on the figure and mixed on its edges.

    keeps_inside: whether what the figure encloses is figure even where it has the ground's colour. turned: points
    in those that are the other way. Also returns all those.
    """
    fewer = math.ceil(math.sqrt(rgb.shape[0] * rgb.shape[1] / _MOST_PX))
    small = rgb
    if fewer > 1:
        size = (max(1, rgb.shape[1] // fewer), max(1, rgb.shape[0] // fewer))
        small = np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA))
    shaded = read_shading(small)
    number = shaded.areas.number
    ground = like_ground(shaded)
    enclosed = enclosed_only(number, ground)
    kept, places = kept_inside(number, enclosed, turned, fewer, keeps=keeps_inside)
    within = number >= 0
    white = within & (ground & ~kept)[number]
    target = np.repeat(np.where(white, np.float32(255.0), np.float32(0.0))[:, :, None], 3, axis=2)
    # What no mixture of two areas explains is a detail of the figure if it differs from the ground.
    off: AnyArray = off_ground(Picture(small))
    plain = np.repeat(np.where(off > _OFF_GROUND, 0, 255).astype(np.float32)[:, :, None], 3, axis=2)
    mixed = repainted(small, shaded.areas.field, number, target, shaded.unexplained, plain)
    grey = np.clip(mixed[:, :, 0] + 0.5, 0, 255).astype(np.uint8)
    if fewer > 1:
        grey = np.asarray(cv2.resize(grey, rgb.shape[1::-1], interpolation=cv2.INTER_LINEAR))
    return grey, places
