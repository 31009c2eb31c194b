"""Clean-up of tone: levels, black and white, inversion, compression noise."""

import cv2
import numpy as np

from zeichen.core.raster.levels import edge_level
from zeichen.core.raster.picture import Picture
from zeichen.core.values import AnyArray

# Width of the ramp that black and white leaves at edges, grey: without it edges would be stairs.
_RAMP = 64.0
# Side of the squares that JPEG compresses (ITU-T T.81).
_BLOCK_PX = 8


def levelled(picture: Picture, *, black: int, white: int, middle: float) -> Picture:
    """Return the picture with black and white stretched to the ends of the scale.

    Parameters
    ----------
    black, white : int
        What becomes 0 and 255; black below white.
    middle : float
        Exponent of the curve between them: above 1 is lighter.
    """
    x = np.clip((np.arange(256.0) - black) / (white - black), 0.0, 1.0)
    curve = np.round(255.0 * x ** (1.0 / middle)).astype(np.uint8)
    return Picture(np.asarray(cv2.LUT(picture.rgb, curve), dtype=np.uint8))


def black_and_white(picture: Picture, *, level: int | None) -> Picture:
    """Return the picture in black and white, its edges still soft by a pixel, so that they can be traced.

    Parameters
    ----------
    level : int, optional
        Grey up to this is dark; None finds it.
    """
    grey = picture.grey().astype(np.float32)
    at = float(edge_level(picture.grey()) if level is None else level) + 0.5
    tone = np.clip((grey - at) / _RAMP + 0.5, 0.0, 1.0) * 255.0
    return _from_grey(np.round(tone).astype(np.uint8))


def inverted(picture: Picture) -> Picture:
    """Return the negative: light on dark becomes dark on light."""
    return Picture(255 - picture.rgb)


def smoothed(picture: Picture, *, strength: float) -> Picture:
    """Return the picture with compression noise smoothed and its edges kept.

    A bilateral filter: neighbours count the less the more they differ. Source: C. Tomasi and R. Manduchi,
    "Bilateral filtering for gray and color images", ICCV (1998).

    Parameters
    ----------
    strength : float
        Differences up to about this many grey values are taken for noise.
    """
    return Picture(np.asarray(cv2.bilateralFilter(picture.rgb, 5, 2.5 * strength, 1.6), dtype=np.uint8))


def edge_strength(grey: AnyArray) -> AnyArray:
    """Return how much the grey values around each pixel differ at most."""
    return np.asarray(cv2.morphologyEx(grey, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)))


def block_noise(grey: AnyArray, strength: AnyArray | None = None) -> float:
    """Return how much rougher a picture is just beside its edges than away from them, grey values.

    Compression by blocks spreads an edge's ripples over its block of 8 px; a clean picture is flat there.
    strength: of its edges, as they were read before, if they were.
    """
    edges = (edge_strength(grey) if strength is None else strength) > 60
    if not edges.any():
        return 0.0
    close = cv2.dilate(edges.astype(np.uint8), np.ones((7, 7), np.uint8))
    wide = cv2.dilate(close, np.ones((2 * _BLOCK_PX - 7,) * 2, np.uint8))
    beside = wide > close
    if int(beside.sum()) < 64:
        return 0.0
    rough = grey[beside] - cv2.boxFilter(grey, cv2.CV_32F, (3, 3))[beside]
    return float(np.sqrt(np.mean(rough**2)))


def _from_grey(grey: AnyArray) -> Picture:
    return Picture(np.repeat(grey[:, :, None], 3, axis=2))
