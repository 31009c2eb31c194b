"""Things of the kitchen table."""

import math

import shapely
from shapely import affinity
from shapely.geometry import LineString

from zeichen.standins.studio.hand import Hand
from zeichen.standins.studio.pen import (
    Dot,
    Form,
    Mark,
    Part,
    blob,
    leaf,
    limb,
    oval,
    rounded,
    stroke,
    tube,
    turned,
)


def jam_jar(rng: Hand) -> list[Part]:
    """A jam jar with a cloth lid and a heart on its label."""
    half, tall, frill = rng.uniform(205, 240), rng.uniform(430, 490), rng.integers(5, 8)
    top = 880 - tall
    jar = rounded([(500 - half, top), (500 + half, top), (500 + half, 880), (500 - half, 880)], radius=64)
    neck = rounded(
        [
            (500 - half * 0.82, top - 40),
            (500 + half * 0.82, top - 40),
            (500 + half * 0.82, top + 60),
            (500 - half * 0.82, top + 60),
        ],
        radius=16,
    )
    dome = blob(
        [
            (500 - half * 0.86, top - 40),
            (500 - half * 0.8, top - 130),
            (500, top - 170),
            (500 + half * 0.8, top - 130),
            (500 + half * 0.86, top - 40),
        ]
    )
    hem = shapely.union_all(
        [
            oval((500 - half * 1.0 + 2.0 * half * (k + 0.5) / frill, top - 8), half * 1.16 / frill, 40)
            for k in range(frill)
        ]
    )
    parts: list[Part] = [Form(neck, "sky"), Form(jar, "beet", decor=True)]
    cloth = shapely.union_all(
        [
            dome,
            hem,
            rounded(
                [
                    (500 - half, top - 62),
                    (500 + half, top - 62),
                    (500 + half, top - 14),
                    (500 - half, top - 14),
                ],
                radius=12,
            ),
        ]
    )
    parts.append(Form(cloth, "red"))
    parts.append(
        Mark(
            stroke([(500 - half * 0.84, top - 56), (500, top - 44), (500 + half * 0.84, top - 56)]),
            "cream",
            1.0,
        )
    )
    label = rounded(
        [
            (500 - half * 0.62, top + 150),
            (500 + half * 0.62, top + 150),
            (500 + half * 0.62, top + 350),
            (500 - half * 0.62, top + 350),
        ],
        radius=22,
    )
    heart = blob(
        [
            (500, top + 312),
            (432, top + 246),
            (446, top + 196),
            (500, top + 216),
            (554, top + 196),
            (568, top + 246),
        ]
    )
    return [*parts, Form(label, "cream"), Form(heart, "red")]


def mug(rng: Hand) -> list[Part]:
    """A mug of something hot."""
    half, tall = rng.uniform(205, 235), rng.uniform(390, 440)
    top = 860 - tall
    body = rounded(
        [(460 - half, top), (460 + half, top), (460 + half * 0.92, 860), (460 - half * 0.92, 860)], radius=46
    )
    handle = tube(
        [
            (460 + half - 20, top + 90),
            (460 + half + 150, top + 80),
            (460 + half + 150, top + 260),
            (460 + half - 30, top + 290),
        ],
        52,
    )
    rim = oval((460, top + 12), half, 46)
    parts: list[Part] = [Form(handle, "teal"), Form(body, "teal", decor=True), Form(rim, "cream")]
    for k, x in enumerate((360, 470, 575)[: rng.integers(2, 4)]):
        sway = rng.uniform(16, 26) * (-1) ** k
        wave = [(x + sway * math.sin(0.9 * n), top - 75.0 - 24.0 * n) for n in range(9)]
        parts.append(Mark(stroke(wave), "dark", -1.2))
    return parts


def whisk(rng: Hand) -> list[Part]:
    """A balloon whisk."""
    wide, turn = rng.uniform(125, 160), rng.uniform(28, 48)
    handle = rounded([(462, 560), (538, 560), (546, 930), (454, 930)], radius=34)
    collar = rounded([(452, 528), (548, 528), (548, 590), (452, 590)], radius=14)
    wires: list[Part] = []
    for share in (1.0, 0.5, 0.0):
        w = wide * share
        loop = [
            (486, 540),
            (500 - w * 0.9, 330),
            (500 - w, 180),
            (500, 80),
            (500 + w, 180),
            (500 + w * 0.9, 330),
            (514, 540),
        ]
        line = LineString([(500, 540), (500, 84)]) if share == 0 else stroke(loop)
        wires.append(Mark(line, "dark", -1.15))
    parts = [*wires, Form(handle, "rust", decor=True), Form(collar, "dark")]
    return [turned(part, turn) for part in parts]


def rolling_pin(rng: Hand) -> list[Part]:
    """A rolling pin."""
    half, turn = rng.uniform(82, 100), rng.uniform(-42, -22)
    barrel = rounded([(240, 500 - half), (760, 500 - half), (760, 500 + half), (240, 500 + half)], radius=34)
    parts: list[Part] = []
    for side in (-1, 1):
        x = 500 + side * 260
        grip = blob(
            [
                (x - side * 10, 500 - 28),
                (x + side * 60, 500 - 34),
                (x + side * 130, 500 - 46),
                (x + side * 175, 500),
                (x + side * 130, 500 + 46),
                (x + side * 60, 500 + 34),
                (x - side * 10, 500 + 28),
            ]
        )
        parts.append(Form(grip, "rust"))
    parts.append(Form(barrel, "ochre", decor=True))
    for dx in (-1, 1):
        x = 500 + dx * 212
        parts.append(Mark(LineString([(x, 500 - half * 0.86), (x, 500 + half * 0.86)]), "brown", 0.9))
    return [turned(part, turn) for part in parts]


def mixing_bowl(rng: Hand) -> list[Part]:
    """A mixing bowl with a wooden spoon."""
    half, deep = rng.uniform(310, 345), rng.uniform(270, 310)
    top = 480.0
    bowl = blob(
        [
            (500 - half, top),
            (500 - half * 0.86, top + deep * 0.55),
            (500 - half * 0.48, top + deep * 0.92),
            (500, top + deep),
            (500 + half * 0.48, top + deep * 0.92),
            (500 + half * 0.86, top + deep * 0.55),
            (500 + half, top),
        ]
    )
    bowl = bowl.intersection(rounded([(0, top), (1000, top), (1000, 1000), (0, 1000)], radius=2))
    foot = rounded(
        [
            (500 - half * 0.42, top + deep - 30),
            (500 + half * 0.42, top + deep - 30),
            (500 + half * 0.46, top + deep + 36),
            (500 - half * 0.46, top + deep + 36),
        ],
        radius=14,
    )
    rim = rounded(
        [
            (500 - half - 24, top - 30),
            (500 + half + 24, top - 30),
            (500 + half + 24, top + 34),
            (500 - half - 24, top + 34),
        ],
        radius=30,
    )
    lean = rng.uniform(150, 240)
    spoon = shapely.union_all(
        [
            limb([(500, 560), (500 + lean, 250)], [40, 36]),
            affinity.rotate(oval((500 + lean * 1.2, 178), 62, 92), math.degrees(math.atan2(lean, 310))),
        ]
    )
    heap = blob(
        [
            (500 - half * 0.72, top + 10),
            (500 - half * 0.5, top - 90),
            (500 - half * 0.1, top - 150),
            (500 + half * 0.3, top - 100),
            (500 + half * 0.7, top + 10),
        ]
    )
    return [
        Form(spoon, "brown"),
        Form(heap, "cream"),
        Form(foot, "rust", joined=True),
        Form(bowl, "rust", decor=True),
        Form(rim, "rust"),
    ]


def cupcake(rng: Hand) -> list[Part]:
    """A small cake with a berry on top."""
    half, swirls = rng.uniform(200, 225), 3
    case = rounded(
        [(500 - half, 600), (500 + half, 600), (500 + half * 0.72, 880), (500 - half * 0.72, 880)], radius=20
    )
    parts: list[Part] = [Form(case, "teal")]
    for share in (-0.6, -0.2, 0.2, 0.6):
        parts.append(
            Mark(
                LineString([(500 + share * half * 1.02, 655), (500 + share * half * 0.8, 850)]),
                "cream",
                0.9,
                extra=abs(share) > 0.5,
            )
        )
    for k in range(swirls):
        w, y = half * (1.2 - 0.3 * k), 575 - 108 * k
        parts.append(
            Form(
                blob(
                    [
                        (500 - w, y + 8),
                        (500 - w * 0.8, y - 70),
                        (500, y - 98),
                        (500 + w * 0.8, y - 70),
                        (500 + w, y + 8),
                        (500 + w * 0.5, y + 44),
                        (500, y + 26),
                        (500 - w * 0.5, y + 44),
                    ]
                ),
                "rose",
                decor=k == 0,
            )
        )
    parts.append(Form(oval((500, 225), 70, 68), "red"))
    parts.append(Form(limb([(500, 170), (530 + rng.uniform(-30, 40), 95)], [20, 18]), "leaf"))
    parts.append(Dot(oval((478, 206), 15, 13), "cream", extra=True))
    return parts


def candle(rng: Hand) -> list[Part]:
    """A candle in a chamber stick."""
    tall, flame = rng.uniform(330, 400), rng.uniform(-24, 24)
    top = 760 - tall
    stick = rounded([(425, top), (575, top), (575, 780), (425, 780)], radius=22)
    drip = blob(
        [
            (425, top + 4),
            (575, top + 4),
            (575, top + 110),
            (548, top + 150),
            (525, top + 84),
            (480, top + 62),
            (452, top + 118),
            (425, top + 92),
        ]
    )
    dish = blob([(230, 770), (500, 740), (770, 770), (690, 868), (500, 884), (310, 868)])
    ring = oval((810, 795), 92, 84).difference(oval((810, 795), 46, 40))
    fire = blob(
        [
            (500, top - 40),
            (452, top - 100),
            (484 + flame, top - 190),
            (506 + flame, top - 262),
            (540, top - 150),
            (548, top - 92),
        ]
    )
    return [
        Form(ring, "ochre"),
        Form(stick, "cream", decor=True),
        Form(drip, "cream"),
        Form(dish, "ochre"),
        Mark(LineString([(500, top + 6), (500, top - 50)]), "dark", -1.0),
        Form(fire, "rust"),
        Dot(leaf((502, top - 60), (506 + flame * 0.8, top - 160), width=44), "cream"),
    ]


def kettle(rng: Hand) -> list[Part]:
    """A kettle for the stove."""
    rx, lift = rng.uniform(265, 295), rng.uniform(-20, 50)
    body = blob(
        [
            (500 - rx * 0.5, 440),
            (500, 415),
            (500 + rx * 0.5, 440),
            (500 + rx * 0.88, 600),
            (500 + rx, 790),
            (500 + rx * 0.92, 846),
            (500 - rx * 0.92, 846),
            (500 - rx, 790),
            (500 - rx * 0.88, 600),
        ]
    )
    spout = limb(
        [(500 - rx * 0.72, 680), (500 - rx * 1.15, 600), (500 - rx * 1.38, 470 - lift)], [120, 78, 54]
    )
    bow = tube(
        [
            (500 - rx * 0.62, 500),
            (500 - rx * 0.66, 300),
            (500, 190),
            (500 + rx * 0.66, 300),
            (500 + rx * 0.62, 500),
        ],
        42,
    )
    grip = tube([(500 - rx * 0.34, 218), (500, 190), (500 + rx * 0.34, 218)], 70)
    lid = blob([(370, 440), (420, 392), (500, 372), (580, 392), (630, 440), (500, 460)])
    return [
        Form(bow, "dark", joined=True),
        Form(grip, "brown"),
        Form(spout, "red"),
        Form(body, "red", decor=True),
        Form(lid, "red"),
        Form(oval((500, 352), 36, 34), "brown"),
        Mark(stroke([(500 - rx * 0.9, 780), (500, 800), (500 + rx * 0.9, 780)]), "cream", 1.0),
    ]
