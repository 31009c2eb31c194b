"""Small checks and array types shared by every package of the core."""

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zeichen.core.errors import InvalidInputError

FloatArray = NDArray[np.float64]
Bytes8Array = NDArray[np.uint8]
BoolArray = NDArray[np.bool_]
AnyArray = NDArray[Any]


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
