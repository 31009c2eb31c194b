"""The circle along some points.

Source: the algebraic circle fit of I. Kasa, "A circle fitting procedure and its error analysis",
IEEE Transactions on Instrumentation and Measurement 25 (1976), from memory.
"""

import math

from zeichen.core.compiled import uncounted
from zeichen.core.fitting.three_unknowns import solve_three
from zeichen.core.values import FloatArray

# Points whose system has a determinant below this share of what round ones would have lie on one line.
_FLAT = 1e-12


@uncounted(cache=True)
def circle_along(points: FloatArray, count: int, step: int) -> tuple[bool, float, float, float]:
    """Return whether there is a circle along every so manieth of the first points, its centre (x, y) and radius, px."""
    used = mean_x = mean_y = 0.0
    for k in range(0, count, step):
        used += 1.0
        mean_x += points[k, 0]
        mean_y += points[k, 1]
    mean_x, mean_y = mean_x / used, mean_y / used
    xx = xy = yy = xs = ys = squares = 0.0
    for k in range(0, count, step):
        # From the middle of the points: far from the origin the sums would cancel badly.
        x, y = points[k, 0] - mean_x, points[k, 1] - mean_y
        square = x * x + y * y
        xx, xy, yy = xx + x * x, xy + x * y, yy + y * y
        xs, ys, squares = xs + x * square, ys + y * square, squares + square
    if xx * yy - xy * xy <= _FLAT * (xx + yy) * (xx + yy):
        return False, mean_x, mean_y, math.inf
    x, y, rest, _ = solve_three((xx, xy, 0.0, yy, 0.0, used), (xs, ys, squares))
    x, y = 0.5 * x, 0.5 * y
    return True, mean_x + x, mean_y + y, math.sqrt(max(rest + x * x + y * y, 0.0))
