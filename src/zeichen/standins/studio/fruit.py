"""Fruit of tree and bed."""

import math

import numpy as np
import shapely

from zeichen.standins.studio.hand import Hand
from zeichen.standins.studio.pen import Dot, Form, Mark, Part, blob, leaf, limb, oval, rib, stroke, tube


def apple(rng: Hand) -> list[Part]:
    """An apple with its leaf."""
    wide, dent = rng.uniform(285, 320), rng.uniform(28, 52)
    body = blob(
        [
            (500, 330 + dent),
            (500 + wide * 0.45, 300),
            (500 + wide * 0.95, 390),
            (500 + wide, 560),
            (500 + wide * 0.7, 780),
            (500 + wide * 0.3, 850),
            (500, 832),
            (500 - wide * 0.3, 850),
            (500 - wide * 0.7, 780),
            (500 - wide, 560),
            (500 - wide * 0.95, 390),
            (500 - wide * 0.45, 300),
        ]
    )
    lean = rng.uniform(-30, 60)
    stalk = limb([(500, 385), (505 + lean * 0.4, 270), (510 + lean, 180)], [30, 28, 40])
    base, tip = (512, 290), (745, 190 + rng.uniform(-40, 30))
    parts: list[Part] = [Form(body, "red", decor=True), Form(stalk, "brown")]
    parts += [Form(leaf(base, tip, width=120, bend=-26), "leaf"), Mark(rib(base, tip, bend=-26), "lime", 0.9)]
    parts.append(
        Mark(
            stroke([(500 - wide * 0.72, 590), (500 - wide * 0.74, 490), (500 - wide * 0.56, 405)]),
            "cream",
            1.0,
            extra=True,
        )
    )
    return parts


def pear(rng: Hand) -> list[Part]:
    """A pear with its leaf."""
    wide, neck, lean = rng.uniform(225, 262), rng.uniform(88, 112), rng.uniform(-40, 40)
    body = blob(
        [
            (500 + lean, 245),
            (500 + lean + neck, 300),
            (500 + lean * 0.5 + neck * 1.25, 430),
            (500 + wide, 640),
            (500 + wide * 0.8, 810),
            (500 + 40, 862),
            (500 - 40, 862),
            (500 - wide * 0.8, 810),
            (500 - wide, 640),
            (500 + lean * 0.5 - neck * 1.25, 430),
            (500 + lean - neck, 300),
        ]
    )
    top = (500 + lean, 250)
    stalk = limb([top, (top[0] + 12, 170), (top[0] + 44, 105)], [30, 26, 34])
    tip = (top[0] - 220, 130 + rng.uniform(-30, 40))
    return [
        Form(stalk, "brown"),
        Form(body, "ochre", decor=True),
        Form(leaf((top[0] + 4, 205), tip, width=108, bend=24), "leaf"),
        Mark(rib((top[0] + 4, 205), tip, bend=24), "lime", 0.9),
        Mark(
            stroke([(500 + wide * 0.62, 745), (500 + wide * 0.72, 650), (500 + wide * 0.58, 560)]),
            "cream",
            1.0,
            extra=True,
        ),
    ]


def strawberry(rng: Hand) -> list[Part]:
    """A strawberry with its seeds."""
    wide, tip = rng.uniform(245, 285), rng.uniform(-40, 40)
    body = blob(
        [
            (500, 330),
            (500 + wide * 0.62, 312),
            (500 + wide, 430),
            (500 + wide * 0.78, 640),
            (500 + wide * 0.36 + tip * 0.5, 810),
            (500 + tip, 880),
            (500 - wide * 0.36 + tip * 0.5, 810),
            (500 - wide * 0.78, 640),
            (500 - wide, 430),
            (500 - wide * 0.62, 312),
        ]
    )
    parts: list[Part] = [Form(body, "red")]
    for row, (y, count) in enumerate(((470, 4), (570, 3), (665, 3 if wide > 262 else 2), (760, 1))):
        for k in range(count):
            x = 500 + tip * row * 0.2 + (k - (count - 1) / 2) * wide * 0.4
            parts.append(Dot(oval((x, y), 13, 20), "cream"))
    crown = [
        leaf((500, 335), (500 + 225 * math.cos(a), 335 + 120 * math.sin(a)), width=84)
        for a in np.radians((160, 195, 345, 20, 62, 118)).tolist()
    ]
    stalk = limb([(500, 330), (490, 240), (520 + tip, 170)], [34, 28, 32])
    return [*parts, Form(stalk, "leaf"), Form(shapely.union_all(crown), "leaf")]


def cherries(rng: Hand) -> list[Part]:
    """Two cherries on one stalk."""
    r, spread = rng.uniform(142, 165), rng.uniform(150, 185)
    top = (rng.uniform(500, 560), 180.0)
    parts: list[Part] = []
    for side, drop in ((-1, rng.uniform(-20, 40)), (1, rng.uniform(-30, 50))):
        centre = (500 + side * spread, 690 + drop)
        parts.append(
            Form(tube([(centre[0], centre[1] - r * 0.7), (500 + side * spread * 0.75, 420), top], 28), "leaf")
        )
        parts.append(Form(oval(centre, r, r * 0.96), "red", decor=True))
        shine = np.radians(np.linspace(150, 225, 8))
        parts.append(
            Mark(
                stroke(
                    [(centre[0] + r * 0.62 * math.cos(a), centre[1] + r * 0.6 * math.sin(a)) for a in shine]
                ),
                "cream",
                1.0,
                extra=True,
            )
        )
    tip = (top[0] + 270, 250 + rng.uniform(-40, 40))
    parts.append(Form(leaf((top[0] - 6, top[1]), tip, width=128, bend=-30), "leaf"))
    parts.append(Mark(rib((top[0] - 6, top[1]), tip, bend=-30), "lime", 0.9))
    return parts
