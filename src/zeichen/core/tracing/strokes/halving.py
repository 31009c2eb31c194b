"""The best of some places, and then of those half-way to the next, and so on."""

import math
from collections.abc import Callable, Iterable

Place = tuple[float, ...]


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


def best_nearby(
    off: Callable[[Place], float],
    places: Iterable[Place],
    step: float,
    finest: float,
    inside: Callable[[Place], bool],
) -> tuple[Place, float]:
    """Return where what is off is least: from the best of some places steps along the axes, halved where none helps.

    inside: which places count besides those given. No step is shorter than the finest.
    """
    tried = {place: off(place) for place in places}
    best = min(tried, key=lambda place: tried[place])
    while step >= finest:
        for axis in range(len(best)):
            for side in (-step, step):
                place = (*best[:axis], best[axis] + side, *best[axis + 1 :])
                if place not in tried and inside(place):
                    tried[place] = off(place)
        nearer = min(tried, key=lambda place: tried[place])
        if nearer == best:
            step *= 0.5
        best = nearer
    return best, tried[best]
