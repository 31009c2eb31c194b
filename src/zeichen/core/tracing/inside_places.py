"""Places of the ground's colour that a figure encloses: eyes, teeth, or gaps to see through."""

from dataclasses import dataclass, replace

import cv2
import numpy as np
from scipy import ndimage

from zeichen.core.values import AnyArray, BoolArray


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


def enclosed_only(number: AnyArray, ground: BoolArray) -> BoolArray:
    """Return which of the areas of the ground's colour do not reach the sheet's rim.

    number: (height, width), the area of each pixel, -1 if of none; ground: (n,), whether an area has that colour.
    """
    rim = np.concatenate([number[0], number[-1], number[:, 0], number[:, -1]])
    return np.asarray(ground & ~np.isin(np.arange(len(ground)), rim[rim >= 0]))


def kept_inside(
    number: AnyArray, enclosed: BoolArray, turned: tuple[InsideAt, ...], factor: int, *, keeps: bool
) -> tuple[BoolArray, tuple[InsidePlace, ...]]:
    """Return which enclosed areas are drawn, and all of them as places.

    number: see enclosed_only; factor: see inside_places. keeps: whether the turned ones are left out, or drawn alone.
    """
    kept = enclosed & keeps
    for at in turned:
        row, column = int(at.y_px / factor), int(at.x_px / factor)
        if 0 <= row < number.shape[0] and 0 <= column < number.shape[1] and number[row, column] >= 0:
            here = number[row, column]
            kept[here] = enclosed[here] & ~kept[here]
    found = inside_places(np.where((number >= 0) & enclosed[number], number + 1, 0), factor)
    return kept, tuple(replace(place, kept=bool(kept[k])) for k, place in found)
