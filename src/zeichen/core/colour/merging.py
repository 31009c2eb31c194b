"""How far colours are apart, and fewer of them."""

from functools import lru_cache

from zeichen.core.raster.colours import difference, to_lab
from zeichen.core.values import rgb_colours


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
    left = dict(areas)
    into = {colour: colour for colour in areas}
    while len(left) > max(1, most):
        names = sorted(left)
        pairs = [(a, b) for k, a in enumerate(names) for b in names[k + 1 :]]

        def cost(pair: tuple[str, str]) -> float:
            a, b = left[pair[0]], left[pair[1]]
            return colour_off(*pair) ** 2 * a * b / max(a + b, 1e-12)

        cheapest: tuple[str, str] = min(pairs, key=cost)
        big, small = sorted(cheapest, key=lambda name: -left[name])
        left[big] += left.pop(small)
        into = {colour: big if target == small else target for colour, target in into.items()}
    return into
