"""The best of some places along a line, and then of those half-way to the next, and so on."""

import math
from collections.abc import Callable, Iterable


def best_place(
    off: Callable[[float], float],
    places: Iterable[float],
    step: float,
    rounds: int,
    inside: Callable[[float], bool],
    hopeless: float = math.inf,
) -> tuple[float, float]:
    """Return where what is off is least among places, then those a step beside it, then half a step, and how much.

    inside: which places count. It is left at that where a round leaves more off than `hopeless`.
    """
    tried = {place: off(place) for place in places}
    best = min(tried, key=lambda place: tried[place])
    for _ in range(rounds):
        for place in (best - step, best + step):
            if inside(place) and place not in tried:
                tried[place] = off(place)
        best, step = min(tried, key=lambda place: tried[place]), 0.5 * step
        if tried[best] > hopeless:
            break
    return best, tried[best]
