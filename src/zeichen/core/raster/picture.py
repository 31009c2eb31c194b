"""A picture in memory: 8-bit sRGB on a white ground.

Arrays are (row, column), y down; a pixel's value sits at its centre, so pixel (0, 0) is at
(0.5, 0.5) in drawing units.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from zeichen.core.errors import InvalidInputError
from zeichen.core.values import Bytes8Array

# Smaller pictures hold nothing to trace (our own rule).
SMALLEST_SIDE_PX = 8


@dataclass(frozen=True, slots=True)
class Picture:
    """Red, green and blue, shape (height, width, 3), dtype uint8."""

    rgb: Bytes8Array

    def __post_init__(self) -> None:
        if self.rgb.ndim != 3 or self.rgb.shape[2] != 3 or self.rgb.dtype != np.uint8:
            raise InvalidInputError("A picture needs an (height, width, 3) array of 8-bit values.")
        if min(self.rgb.shape[:2]) < SMALLEST_SIDE_PX:
            raise InvalidInputError(
                f"The picture is {self.width_px} x {self.height_px} px, too small to hold a figure. "
                f"Use one with at least {SMALLEST_SIDE_PX} px on each side; 1000 px is a good size."
            )

    @property
    def width_px(self) -> int:
        """Width in pixels."""
        return int(self.rgb.shape[1])

    @property
    def height_px(self) -> int:
        """Height in pixels."""
        return int(self.rgb.shape[0])

    def grey(self) -> Bytes8Array:
        """Return the luma (BT.601 weights on sRGB values), shape (height, width).

        Antialiased edges are blended in sRGB values by nearly all programs, so luma, not linear
        light, is proportional to how much of the pixel the ink covers.
        """
        return np.asarray(cv2.cvtColor(self.rgb, cv2.COLOR_RGB2GRAY), dtype=np.uint8)


def not_larger(rgb: Bytes8Array, most_px: int) -> Bytes8Array:
    """Return a picture (height, width, 3), or a copy of it smaller by a whole number so that no side is longer.

    The shorter side of a strip stays as long as a picture's must be.
    """
    step = min(-(-max(rgb.shape[:2]) // most_px), min(rgb.shape[:2]) // SMALLEST_SIDE_PX)
    if step <= 1:
        return rgb
    size = (rgb.shape[1] // step, rgb.shape[0] // step)
    return np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA))
