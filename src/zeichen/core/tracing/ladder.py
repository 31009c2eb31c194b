"""The ladder: one sketch traced from plain to detailed, and which rung to start from."""

import math
from dataclasses import replace

from zeichen.core.methods import Method
from zeichen.core.tracing.settings import TraceSettings

# Tolerance and smallest spot of each rung as multiples of what the maker set, plain first.
_RUNGS = ((8.0, 16.0), (4.0, 6.0), (2.0, 2.0), (1.0, 1.0), (0.5, 0.5), (0.25, 0.25))
_MOST_RUNGS = 7


def rung_settings(settings: TraceSettings, *, found_colours: int | None = None) -> list[TraceSettings]:
    """Return the settings of five to seven rungs from plain to detailed.

    Solid and centreline vary tolerance and smallest spot; flats vary the number of colours.

    Parameters
    ----------
    settings : TraceSettings
        What the maker set; the rungs lie around it.
    found_colours : int, optional
        For flats, how many colours the picture was found to have.
    """
    if settings.method is Method.FLATS:
        most = settings.colours or found_colours or 6
        top = min(30, max(5, most + 2))
        counts = sorted({max(1, round(1 + (top - 1) * k / 5)) for k in range(6)} | {most})[:_MOST_RUNGS]
        return [replace(settings, colours=count) for count in counts]
    return [
        replace(
            settings,
            tolerance_px=min(50.0, max(0.05, settings.tolerance_px * looser)),
            min_spot_px2=settings.min_spot_px2 * larger,
        )
        for looser, larger in _RUNGS
    ]


def suggested(nodes: list[int], off_mm: list[float], *, allowed_mm: float) -> int:
    """Return which rung to start from: the knee of deviation against nodes, within what is allowed.

    Of the rungs that stay within allowed_mm (all of them if none does), the one furthest below the
    straight line from the plainest to the most detailed, both on logarithmic scales; with fewer than
    three, the one with the fewest nodes. Our own rule.

    Parameters
    ----------
    nodes : list of int
        Of each rung.
    off_mm : list of float
        95 % deviation of each rung.
    allowed_mm : float

    Examples
    --------
    >>> suggested([10, 20, 40, 400], [2.0, 0.2, 0.15, 0.1], allowed_mm=9.0)
    1
    """
    usable = [k for k, off in enumerate(off_mm) if off <= allowed_mm] or list(range(len(nodes)))
    if len(usable) < 3:
        return min(usable, key=lambda k: nodes[k])
    x = [math.log(max(nodes[k], 1)) for k in usable]
    y = [math.log(max(off_mm[k], 1e-4)) for k in usable]
    width, height = max(x) - min(x), max(y) - min(y)
    if width < 1e-9 or height < 1e-9:
        return min(usable, key=lambda k: nodes[k])
    # Both axes to 0-1; the line then runs from (0, 1) to (1, 0).
    bend = [1 - (a - min(x)) / width - (b - min(y)) / height for a, b in zip(x, y, strict=True)]
    return usable[max(range(len(usable)), key=lambda k: (bend[k], -k))]
