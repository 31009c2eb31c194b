"""sRGB and a perceptual space in which lightness, chroma and hue can be changed one at a time.

Source: B. Ottosson, "A perceptual color space for image processing" (2020), Oklab; sRGB by IEC 61966-2-1.
"""

import math

import numpy as np

from zeichen.core.values import FloatArray, rgb_colours

_TO_CONE = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
_FROM_LAB = np.linalg.inv(_TO_LAB)
_FROM_CONE = np.linalg.inv(_TO_CONE)


def linear(rgb: FloatArray) -> FloatArray:
    """Return light intensities 0-1 of sRGB values 0-255 (IEC 61966-2-1)."""
    share = np.asarray(rgb, dtype=np.float64) / 255.0
    return np.asarray(np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4))


def _companded(light: FloatArray) -> FloatArray:
    light = np.clip(light, 0.0, 1.0)
    return np.asarray(255.0 * np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055))


def oklab(rgb: FloatArray) -> FloatArray:
    """Return L, a, b of sRGB colours 0-255, any shape (..., 3); L from 0 to 1.

    Examples
    --------
    >>> [round(float(v), 3) for v in oklab(np.array([255.0, 255.0, 255.0]))][0]
    1.0
    """
    return np.asarray(np.cbrt(linear(rgb) @ _TO_CONE.T) @ _TO_LAB.T)


def polar(colour: str) -> tuple[float, float, float]:
    """Return lightness 0-1, chroma, and hue in degrees of a #rrggbb colour."""
    light, a, b = (float(v) for v in oklab(rgb_colours([colour])[0]))
    return light, math.hypot(a, b), math.degrees(math.atan2(b, a)) % 360.0


def from_polar(lightness: float, chroma: float, hue_deg: float) -> str:
    """Return the #rrggbb colour of a lightness, chroma and hue; chroma is lessened until sRGB can show it.

    Examples
    --------
    >>> from_polar(1.0, 0.3, 40.0), from_polar(0.0, 0.0, 0.0)
    ('#ffffff', '#000000')
    """
    lightness = min(1.0, max(0.0, lightness))
    low, high = 0.0, max(0.0, chroma)
    if not _shown(_light(lightness, high, hue_deg)):
        for _ in range(24):
            middle = (low + high) / 2.0
            if _shown(_light(lightness, middle, hue_deg)):
                low = middle
            else:
                high = middle
        high = low
    rgb = np.round(_companded(_light(lightness, high, hue_deg))).astype(int)
    return "#{:02x}{:02x}{:02x}".format(*rgb)


def _light(lightness: float, chroma: float, hue_deg: float) -> FloatArray:
    hue = math.radians(hue_deg)
    lab = np.array([lightness, chroma * math.cos(hue), chroma * math.sin(hue)])
    return np.asarray(((lab @ _FROM_LAB.T) ** 3) @ _FROM_CONE.T)


def _shown(light: FloatArray) -> bool:
    return bool((light >= -1e-6).all() and (light <= 1.0 + 1e-6).all())
