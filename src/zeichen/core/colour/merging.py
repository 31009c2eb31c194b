"""How far colours are apart, and fewer of them."""

from functools import lru_cache

import numpy as np

from zeichen.core.raster.colours import difference, to_lab
from zeichen.core.values import FloatArray, rgb_colours

# So many colours are compared with each other, n x n; of more, those nearly alike go together before (our own).
_AT_ONCE = 1000


@lru_cache(maxsize=4096)
def colour_off(first: str, second: str) -> float:
    """Return how far two colours are apart (CIEDE2000)."""
    one, other = to_lab(rgb_colours([first, second]))
    return float(difference(one, other))


def merged_colours(areas: dict[str, float], *, most: int) -> dict[str, str]:
    """Return for each colour the one it becomes so that no more than so many are left.

    The pair that costs least is merged first: squared CIEDE2000 difference, weighted by area as in
    J. H. Ward, "Hierarchical grouping to optimize an objective function" (1963); the larger keeps its colour.
    """
    into = {colour: colour for colour in areas}
    step = 2
    while len(set(into.values())) > _AT_ONCE:
        # More colours than anyone tells apart: those nearly alike go together first.
        largest: dict[tuple[int, ...], str] = {}
        for colour in sorted(areas, key=lambda name: areas[name]):
            largest[_rounded(colour, step)] = colour
        into = {colour: largest[_rounded(colour, step)] for colour in areas}
        step *= 2
    left: dict[str, float] = {}
    for colour, size in areas.items():
        left[into[colour]] = left.get(into[colour], 0.0) + size
    names = sorted(left)
    area = np.array([left[name] for name in names])
    lab = to_lab(rgb_colours(names))
    # Each pair once: above the diagonal.
    square: FloatArray = np.triu(np.square(difference(lab[:, None], lab[None])), 1)
    square[np.tril_indices(len(names))] = np.inf
    # What goes with what: inf where that is no pair.
    cost = _costs(square, area[:, None], area)
    for _ in range(len(names) - max(1, most)):
        one, other = (int(k) for k in np.unravel_index(cost.argmin(), cost.shape))
        big, small = (one, other) if area[one] >= area[other] else (other, one)
        area[big] += area[small]
        cost[small] = cost[:, small] = square[small] = square[:, small] = np.inf
        cost[big], cost[:, big] = (
            _costs(square[big], area[big], area),
            _costs(square[:, big], area[big], area),
        )
        into = {colour: names[big] if target == names[small] else target for colour, target in into.items()}
    return into


def _costs(square: FloatArray, one: FloatArray, other: FloatArray) -> FloatArray:
    weight = one * other / np.maximum(one + other, 1e-12)
    return np.asarray(np.where(np.isinf(square), np.inf, np.where(np.isinf(square), 0.0, square) * weight))


def _rounded(colour: str, step: int) -> tuple[int, ...]:
    return tuple(int(value) // step for value in rgb_colours([colour])[0])
