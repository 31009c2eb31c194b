"""Where a parabola through three values is lowest: plain Python that compiled functions may call, too."""

from numba.extending import register_jitable


@register_jitable
def lowest_between(a: float, b: float, c: float, at_a: float, at_b: float, at_c: float) -> float:
    """Return the place from a to c where the parabola through three values is lowest; b if it bends the other way.

    Examples
    --------
    >>> lowest_between(0.0, 1.0, 3.0, 4.0, 1.0, 1.0)
    2.0
    """
    rise, fall = (at_b - at_a) / (b - a), (at_c - at_b) / (c - b)
    bow = (fall - rise) / (c - a)
    if not 0.0 < bow < float("inf"):
        return b
    return min(max(0.5 * (a + b) - 0.5 * rise / bow, a), c)
