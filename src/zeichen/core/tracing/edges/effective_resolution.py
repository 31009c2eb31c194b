"""Whether a picture has fewer pixels than it shows: it was enlarged, or is far softer than they are small."""

import math

import numpy as np

from zeichen.core.raster.enlarged import before_enlarging
from zeichen.core.raster.noise import grey_noise
from zeichen.core.values import AnyArray

# Edges between two tones, blurred in whatever way, leave no more than this share of the contrast unexplained.
TWO_TONES = 0.06
# Pixels so much smaller than the blur are put together: less blur tells corners and edges best at full size.
_AS_SOFT_PX = 0.9
# Edges that plain blur of so much leaves less well explained, noise apart, come from enlarging by no whole number:
# they waver from pixel to pixel, and tell no more than fewer, larger ones.
_WAVERING, _WAVERING_PX, _AS_SHARP_PX = 0.0215, 0.8, 0.375
# Of the noise between, this much is left where paper or ink is as light or dark as can be (a bell cut in half).
_CUT_IN_HALF = 0.59
# How soft enlarged pictures are, of their own pixels' side: from the sharpest kernel to the softest, and mostly.
_BLURS_IN_ONE, _USUAL_IN_ONE = (0.32, 0.56), 0.4
# A picture has sides of so many pixels at least.
_LEAST_PX = 8


def in_fewer_pixels(
    grey: AnyArray, blur_px: float, unexplained: float, contrast: float
) -> tuple[AnyArray, int] | None:
    """Return a picture in as many pixels as it truly has, and how many times larger these are; None if in all.

    Parameters
    ----------
    grey : (height, width) array
    blur_px : float
        Standard deviation beside the pixels' own squares.
    unexplained : float
        What that blur leaves of its edges, RMS as a share of the contrast.
    contrast : float
        Between ink and paper, grey levels.
    """
    enlarged = before_enlarging(grey, enlarged_by(blur_px))
    if enlarged is not None or unexplained > TWO_TONES:
        return enlarged
    factor = put_together(grey, blur_px, unexplained, contrast)
    return (_reduced(grey, factor), factor) if factor > 1 and min(grey.shape) >= _LEAST_PX * factor else None


def enlarged_by(blur_px: float) -> list[int]:
    """Return how many times a picture may have been enlarged that now has this blur, the likeliest first."""
    least, most = math.ceil(blur_px / _BLURS_IN_ONE[1]), math.floor(blur_px / _BLURS_IN_ONE[0])
    return sorted(range(max(2, least), most + 1), key=lambda factor: abs(factor - blur_px / _USUAL_IN_ONE))


def put_together(grey: AnyArray, blur_px: float, unexplained: float, contrast: float) -> int:
    """Return how many pixels side by side tell as much as one of that size; see in_fewer_pixels."""
    if blur_px >= _WAVERING_PX and unexplained > _WAVERING:
        noise = grey_noise(grey) / (_CUT_IN_HALF * contrast)
        if unexplained**2 - noise**2 > _WAVERING**2:
            return round(blur_px / _AS_SHARP_PX)
    return max(1, math.floor(blur_px / _AS_SOFT_PX))


def _reduced(grey: AnyArray, factor: int) -> AnyArray:
    """Return the means of squares of pixels, the picture's rim repeated where they do not come out even."""
    height, width = grey.shape
    padded = np.pad(grey, ((0, -height % factor), (0, -width % factor)), mode="edge").astype(np.float64)
    rows, columns = padded.shape
    return np.asarray(padded.reshape(rows // factor, factor, columns // factor, factor).mean(axis=(1, 3)))
