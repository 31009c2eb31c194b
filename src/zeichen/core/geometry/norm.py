"""The length of a vector in compiled functions: math.hypot guards against overflow and takes nine times as long."""

import math

from zeichen.core.compiled import uncounted


@uncounted(cache=True)
def norm(x: float, y: float) -> float:
    """Return the length of a vector; its square must be a number, too.

    >>> norm(3.0, 4.0)
    5.0
    """
    return math.sqrt(x * x + y * y)
