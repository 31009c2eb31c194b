"""What sells at the stall: invented figures, seeded, so that the same day shows the same stall."""

import math
import zlib
from dataclasses import dataclass

import numpy as np

from zeichen.core.errors import InvalidInputError

DAYS = 14
_MOST_PROPOSED = 24
# Subjects by the themes people look for them under. Invented for the stand-in, like all its figures.
_THEMES: dict[str, tuple[str, ...]] = {
    theme: tuple(subjects.split(", "))
    for theme, subjects in (
        (
            "garden",
            "watering can, wheelbarrow, trowel, garden fork, spade, flower pot, seedling, nest box, "
            "wellington boot, tulip, sunflower, garden gate, greenhouse, scarecrow",
        ),
        (
            "allotment",
            "beetroot, carrot, leek, onion, bean pod, wheelbarrow, watering can, spade, basket, "
            "seedling, shed, compost heap, cold frame",
        ),
        (
            "harvest",
            "beetroot, carrot, apple, pear, onion, basket, wheat ear, jam jar, cherries, strawberry, "
            "corn cob, marrow",
        ),
        (
            "kitchen",
            "teapot, mug, kettle, whisk, rolling pin, mixing bowl, jam jar, cupcake, wooden spoon, "
            "toaster, pepper mill",
        ),
        ("tea", "teapot, mug, kettle, cupcake, strawberry, jam jar, tea strainer, sugar tongs"),
        (
            "wildlife",
            "snail, hedgehog, dragonfly, butterfly, ladybird, frog, robin, field mouse, owl, "
            "caterpillar, spider web, wren, newt, moth",
        ),
        (
            "autumn",
            "acorn, toadstool, hedgehog, owl, apple, pear, spider web, wheat ear, umbrella, "
            "wellington boot, conker, maple leaf",
        ),
        (
            "spring",
            "tulip, seedling, robin, nest box, ladybird, butterfly, rain cloud, rainbow, watering "
            "can, crocus, catkin",
        ),
        (
            "summer",
            "sunflower, strawberry, cherries, butterfly, dragonfly, sun, bean pod, ice lolly, deck chair",
        ),
        ("winter", "snowflake, candle, robin, owl, mug, kettle, crescent moon, holly sprig, woolly hat"),
        ("weather", "rain cloud, sun, umbrella, rainbow, snowflake, crescent moon, weather vane, icicle"),
        ("night", "owl, crescent moon, candle, hedgehog, spider web, moth, lantern"),
        ("tools", "trowel, garden fork, spade, whisk, rolling pin, wheelbarrow, secateurs, dibber"),
        ("fruit", "apple, pear, strawberry, cherries, plum, gooseberry"),
        ("vegetables", "beetroot, carrot, leek, onion, bean pod, radish, artichoke"),
        ("flowers", "tulip, sunflower, flower pot, crocus, poppy, snowdrop"),
    )
}


@dataclass(frozen=True, slots=True)
class Demand:
    """One subject at the stall: views of the last day and of each of the last 14, favourites, price, rivals.

    gap: views a day for each rival's listing; the higher, the more room there is for another one.
    """

    subject: str
    views_day: int
    favourites: int
    price: float
    rivals: int
    gap: float
    history: tuple[int, ...]


def demand_for_theme(theme: str, *, day: int) -> list[Demand]:
    """Return the demand for subjects of a theme, most room first; day counts days since some fixed one.

    Raises
    ------
    InvalidInputError
        If the stall has nothing under the theme, naming the themes it has.

    Examples
    --------
    >>> found = demand_for_theme("tea on the allotment", day=1)
    >>> "teapot" in [each.subject for each in found], found == demand_for_theme("Allotment tea", day=1)
    (True, True)
    """
    words = {word.strip(".,;:!?").removesuffix("s") for word in theme.lower().split()}
    subjects: dict[str, None] = {}
    for name, known in _THEMES.items():
        if name.removesuffix("s") in words:
            subjects.update(dict.fromkeys(known))
    for known in _THEMES.values():
        subjects.update(
            dict.fromkeys(s for s in known if words & {part.removesuffix("s") for part in s.split()})
        )
    if not subjects:
        raise InvalidInputError(
            f"The stall has nothing under “{theme.strip()}”. Try one of: {', '.join(_THEMES)}."
        )
    found = [_figures(subject, day) for subject in subjects]
    return sorted(found, key=lambda each: (-each.gap, each.subject))[:_MOST_PROPOSED]


def _figures(subject: str, day: int) -> Demand:
    key = zlib.crc32(subject.encode())
    own = np.random.default_rng([key, 17])
    usual, swing = own.lognormal(4.2, 0.8), own.uniform(0.1, 0.5)
    phase, rivals = own.uniform(0, 2 * math.pi), int(own.lognormal(3.4, 0.9)) + 1
    price, liked = round(float(own.uniform(1.8, 7.5)) * 2) / 2 - 0.01, own.uniform(0.03, 0.14)
    history = []
    for each in range(day - DAYS + 1, day + 1):
        noise = np.random.default_rng([key, each % 2**31, 3]).lognormal(0, 0.18)
        history.append(max(0, round(usual * (1 + swing * math.sin(2 * math.pi * each / 28 + phase)) * noise)))
    return Demand(
        subject,
        history[-1],
        round(sum(history) * liked),
        round(price, 2),
        rivals,
        round(history[-1] / rivals, 2),
        tuple(history),
    )
