"""Where straight lines meet."""

import numpy as np

from zeichen.core.values import FloatArray


def where_lines_meet(
    place: FloatArray, way: FloatArray, other: FloatArray, other_way: FloatArray
) -> FloatArray:
    """Return where a line through a place meets another; they must not be parallel.

    Examples
    --------
    >>> x, y = np.eye(2)
    >>> where_lines_meet(np.array([1.0, 5.0]), x, np.array([3.0, 0.0]), y).tolist()
    [3.0, 5.0]
    """
    apart = other - place
    cross = way[0] * other_way[1] - way[1] * other_way[0]
    return np.asarray(place + way * float((apart[0] * other_way[1] - apart[1] * other_way[0]) / cross))
