"""Places of the ground's colour that a figure encloses: eyes, teeth, or gaps to see through."""

from dataclasses import dataclass

import cv2
import numpy as np
from scipy import ndimage

from zeichen.core.values import AnyArray


@dataclass(frozen=True, slots=True)
class InsideAt:
    """Where one place is, in the picture's pixels."""

    x_px: float
    y_px: float


@dataclass(frozen=True, slots=True)
class InsidePlace:
    """One place: a point well inside it and its area, in the picture's pixels, and whether it is drawn."""

    x_px: float
    y_px: float
    area_px2: float
    kept: bool = False


def inside_places(numbers: AnyArray, factor: int = 1) -> list[tuple[int, InsidePlace]]:
    """Return the numbered places of a picture, with their numbers from 0.

    Parameters
    ----------
    numbers : (height, width) int array
        One more than the number of the place that a pixel belongs to, 0 if to none.
    factor : int
        How many of the picture's pixels a side one of these is.
    """
    found = []
    for number, box in enumerate(ndimage.find_objects(numbers)):
        if box is None:
            continue
        here = np.pad(numbers[box] == number + 1, 1).astype(np.uint8)
        # The pixel furthest from what encloses it.
        depth = cv2.distanceTransform(here, cv2.DIST_L2, 3)
        row, column = np.unravel_index(int(depth.argmax()), depth.shape)
        x, y = box[1].start + column - 0.5, box[0].start + row - 0.5
        found.append(
            (
                number,
                InsidePlace(factor * float(x), factor * float(y), float(factor**2 * np.count_nonzero(here))),
            )
        )
    return found
