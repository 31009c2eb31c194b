"""Small checks and array types shared by every package of the core."""

import math
import re
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zeichen.core.errors import InvalidInputError

FloatArray = NDArray[np.float64]
Bytes8Array = NDArray[np.uint8]
BoolArray = NDArray[np.bool_]
AnyArray = NDArray[Any]

_COLOUR = re.compile("#[0-9a-fA-F]{6}")


def value_below(values: FloatArray, share: float) -> float:
    """Return the value below which a share (0-1) of some values lies, between two of them by linear interpolation.

    As numpy's quantile, which takes longer to set out than a few hundred values take to sort.

    Examples
    --------
    >>> value_below(np.array([4.0, 1.0, 2.0]), 0.75)
    3.0
    """
    ordered = np.sort(values.ravel())
    place = (len(ordered) - 1) * share
    low = int(place)
    first = float(ordered[low])
    return first + (float(ordered[min(low + 1, len(ordered) - 1)]) - first) * (place - low)


def require_number(
    value: float,
    name: str,
    *,
    above: float | None = None,
    least: float | None = None,
    most: float | None = None,
    unit: str = "",
    advice: str = "",
) -> float:
    """Return the value if it is finite and inside its limits.

    Raises
    ------
    InvalidInputError
        With the name, the limits, the value, the unit and the advice in one sentence each.

    Examples
    --------
    >>> require_number(80.0, "Width", above=0, unit="mm")
    80.0
    """
    fits = math.isfinite(value)
    wanted = []
    space = f" {unit}" if unit else ""
    if above is not None:
        fits = fits and value > above
        wanted.append(f"above {above:g}{space}")
    if least is not None:
        fits = fits and value >= least
        wanted.append(f"at least {least:g}{space}")
    if most is not None:
        fits = fits and value <= most
        wanted.append(f"at most {most:g}{space}")
    if not fits:
        limits = " and ".join(wanted) or "a finite number"
        raise InvalidInputError(f"{name} must be {limits}; got {value:g}{space}. {advice}".strip())
    return float(value)


def require_palette(palette: Sequence[str], *, most: int) -> None:
    """Raise InvalidInputError unless every colour is written #rrggbb and there are no more than `most`."""
    for colour in palette:
        if not _COLOUR.fullmatch(colour):
            raise InvalidInputError(f"A colour of the palette must look like #1a2b3c; got {colour}.")
    if len(palette) > most:
        raise InvalidInputError(f"A palette has at most {most} colours; got {len(palette)}. Leave some out.")


def rgb_colours(palette: Sequence[str]) -> FloatArray:
    """Return colours written #rrggbb as an array (n, 3), 0-255.

    Examples
    --------
    >>> rgb_colours(["#ff0010"]).tolist()
    [[255.0, 0.0, 16.0]]
    """
    parts = [[int(colour[k : k + 2], 16) for k in (1, 3, 5)] for colour in palette]
    return np.array(parts, dtype=np.float64).reshape(-1, 3)
