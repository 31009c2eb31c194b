"""Tools of the shed and what is worn and put up on the plot."""

import shapely
from shapely import affinity
from shapely.geometry import LineString, Polygon

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


def trowel(rng: Hand) -> list[Part]:
    """A hand trowel."""
    half, tall = rng.uniform(118, 145), rng.uniform(340, 390)
    blade = blob(
        [
            (500 - half, 330),
            (500, 345),
            (500 + half, 330),
            (500 + half, 330 - tall * 0.45),
            (500 + half * 0.5, 330 - tall * 0.75),
            (500, 330 - tall * 0.86),
            (500 - half * 0.5, 330 - tall * 0.75),
            (500 - half, 330 - tall * 0.45),
        ]
    )
    neck = limb([(500, 320), (500, 440), (500, 545)], [52, 34, 40])
    handle = blob(
        [
            (462, 520),
            (538, 520),
            (556, 640),
            (540, 760),
            (560, 850),
            (500, 905),
            (440, 850),
            (460, 760),
            (444, 640),
        ]
    )
    parts: list[Part] = [
        Form(neck, "dark", joined=True),
        Form(blade, "sky"),
        Form(handle, "ochre", decor=True),
        Form(rounded([(452, 508), (548, 508), (542, 560), (458, 560)], radius=12), "dark"),
        Mark(stroke([(500, 300), (500, 200), (500, 130)]), "teal", 1.0),
        Dot(oval((500, 848), 17, 17), "cream"),
    ]
    return [turned(part, rng.uniform(18, 48)) for part in parts]


def garden_fork(rng: Hand) -> list[Part]:
    """A digging fork."""
    half, tall, turn = rng.uniform(120, 145), rng.uniform(270, 310), rng.uniform(8, 34)
    tines: list[shapely.Geometry] = []
    for share in (-1, -0.34, 0.34, 1):
        x = 500 + share * half
        tines.append(
            Polygon(
                [(x - 17, 690), (x + 17, 690), (x + 14, 640 + tall), (x, 690 + tall), (x - 14, 640 + tall)]
            )
        )
    bar = tube(
        [(500 - half, 720), (500 - half * 0.7, 660), (500, 640), (500 + half * 0.7, 660), (500 + half, 720)],
        44,
    )
    socket = limb([(500, 650), (500, 540)], [62, 46])
    return [
        turned(part, turn)
        for part in (
            Form(limb([(500, 600), (500, 260)], [40, 40]), "ochre"),
            Form(shapely.union_all([*tines, bar, socket]), "dark"),
            Form(_grip(rng.uniform(96, 116)), "ochre"),
        )
    ]


def spade(rng: Hand) -> list[Part]:
    """A digging spade."""
    half, tall, turn = rng.uniform(118, 140), rng.uniform(290, 330), rng.uniform(-34, -8)
    blade = blob(
        [
            (500 - half, 640),
            (500 - half * 0.4, 612),
            (500 + half * 0.4, 612),
            (500 + half, 640),
            (500 + half * 0.98, 640 + tall * 0.7),
            (500 + half * 0.6, 640 + tall * 0.94),
            (500, 640 + tall),
            (500 - half * 0.6, 640 + tall * 0.94),
            (500 - half * 0.98, 640 + tall * 0.7),
        ]
    )
    socket = limb([(500, 660), (500, 500)], [60, 46])
    return [
        turned(part, turn)
        for part in (
            Form(limb([(500, 560), (500, 260)], [40, 40]), "ochre"),
            Form(_grip(rng.uniform(96, 116)), "ochre"),
            Form(blade, "sky", decor=True),
            Form(socket, "dark"),
            Mark(stroke([(500, 690), (500, 640 + tall * 0.5)]), "teal", 0.9),
        )
    ]


def _grip(half: float) -> shapely.Geometry:
    outer = blob(
        [
            (500 - half, 118),
            (500, 96),
            (500 + half, 118),
            (500 + half * 0.82, 200),
            (500 + 30, 290),
            (500 - 30, 290),
            (500 - half * 0.82, 200),
        ]
    )
    inner = blob(
        [
            (500 - half * 0.6, 148),
            (500, 138),
            (500 + half * 0.6, 148),
            (500 + half * 0.42, 200),
            (500, 236),
            (500 - half * 0.42, 200),
        ]
    )
    return outer.difference(inner)


def wellington_boot(rng: Hand) -> list[Part]:
    """A wellington boot, sometimes with flowers in it."""
    shaft, toe = rng.uniform(118, 138), rng.uniform(330, 380)
    x = 400.0
    boot = blob(
        [
            (x - shaft, 300),
            (x, 290),
            (x + shaft, 300),
            (x + shaft, 560),
            (x + shaft + 60, 660),
            (x + toe, 720),
            (x + toe + 40, 800),
            (x + toe - 20, 842),
            (x, 846),
            (x - shaft - 10, 842),
            (x - shaft - 4, 600),
        ]
    )
    sole = rounded(
        [(x - shaft - 26, 822), (x + toe + 40, 822), (x + toe + 26, 884), (x - shaft - 20, 884)], radius=24
    )
    heel = rounded([(x - shaft - 26, 830), (x + 30, 830), (x + 20, 916), (x - shaft - 20, 916)], radius=16)
    cuff = rounded(
        [(x - shaft - 20, 270), (x + shaft + 20, 270), (x + shaft + 16, 350), (x - shaft - 16, 350)],
        radius=24,
    )
    parts: list[Part] = []
    if rng.random() < 0.6:
        for dx, tall in ((-60, 170), (10, 215), (80, 160)):
            stem_top = (x + dx * 1.5, 275 - tall)
            parts.append(Form(limb([(x + dx * 0.5, 300), stem_top], [24, 22]), "leaf"))
            petals = [
                oval((stem_top[0] + 42 * c, stem_top[1] + 42 * s), 32, 32)
                for c, s in ((1, 0), (0.31, 0.95), (-0.81, 0.59), (-0.81, -0.59), (0.31, -0.95))
            ]
            parts.append(Form(shapely.union_all([*petals, oval(stem_top, 30, 30)]), "rose"))
            parts.append(Dot(oval(stem_top, 19, 19), "ochre"))
    else:
        parts.append(
            Form(
                tube(
                    [
                        (x - shaft + 20, 300),
                        (x - shaft - 10, 200),
                        (x - shaft + 60, 180),
                        (x - shaft + 70, 290),
                    ],
                    30,
                ),
                "dark",
            )
        )
    return [
        *parts,
        Form(heel, "dark", joined=True),
        Form(boot, "leaf", decor=True),
        Form(sole, "dark"),
        Form(cuff, "lime"),
        Mark(
            stroke([(x + shaft * 0.2, 640), (x + shaft * 0.9, 660), (x + shaft + 70, 720)]),
            "lime",
            0.9,
            extra=True,
        ),
    ]


def flower_pot(rng: Hand) -> list[Part]:
    """A clay pot with a plant in bloom."""
    half, tall = rng.uniform(175, 205), rng.uniform(270, 305)
    top = 880 - tall
    pot = rounded(
        [(500 - half, top), (500 + half, top), (500 + half * 0.7, 880), (500 - half * 0.7, 880)], radius=20
    )
    rim = rounded(
        [
            (500 - half - 32, top - 36),
            (500 + half + 32, top - 36),
            (500 + half + 24, top + 46),
            (500 - half - 24, top + 46),
        ],
        radius=18,
    )
    parts: list[Part] = []
    for side in (-1, 1):
        parts.append(Form(leaf((500, top), (500 + side * 265, top - 130), width=110, bend=side * 40), "leaf"))
    head = (500 + rng.uniform(-30, 30), top - 330.0)
    parts.append(Form(limb([(500, top), (505, top - 170), head], [36, 32, 30]), "leaf"))
    petals, reach = rng.integers(5, 8), rng.uniform(92, 108)
    for k in range(petals):
        petal = affinity.rotate(oval((head[0], head[1] - reach), 62, 78), 360 * k / petals, origin=head)
        parts.append(Form(petal, "rose"))
    parts += [Form(oval(head, 62, 62), "ochre"), Form(pot, "rust", decor=True), Form(rim, "rust")]
    return parts


def nest_box(rng: Hand) -> list[Part]:
    """A nest box with its round door and perch."""
    half, eaves = rng.uniform(195, 225), rng.uniform(70, 110)
    box = Polygon([(500 - half, 420), (500, 250), (500 + half, 420), (500 + half, 840), (500 - half, 840)])
    roof = LineString([(500 - half - eaves, 450), (500, 205), (500 + half + eaves, 450)]).buffer(
        38, join_style="mitre", cap_style="flat"
    )
    door = oval((500, 520), rng.uniform(72, 88), rng.uniform(72, 88))
    perch = rounded([(478, 640), (522, 640), (522, 700), (478, 700)], radius=20)
    parts: list[Part] = [Form(rounded([(450, 830), (550, 830), (550, 960), (450, 960)], radius=6), "brown")]
    parts += [Form(box, "sky"), Form(roof, "rust"), Form(door, "dark"), Form(perch, "rust")]
    parts.append(Mark(LineString([(500 - half * 0.9, 752), (500 + half * 0.9, 752)]), "cream", 0.9))
    if rng.random() < 0.6:
        heart = blob([(500, 348), (468, 318), (476, 296), (500, 306), (524, 296), (532, 318)])
        parts.append(Dot(heart, "red", extra=True))
    parts.append(Form(leaf((500 + half * 0.6, 842), (500 + half * 1.35, 700), width=80, bend=-14), "leaf"))
    return parts


def basket(rng: Hand) -> list[Part]:
    """A trug basket with the first harvest."""
    half, deep = rng.uniform(310, 345), rng.uniform(230, 265)
    top = 590.0
    trug = blob(
        [
            (500 - half, top),
            (500 - half * 0.8, top + deep * 0.72),
            (500 - half * 0.3, top + deep),
            (500 + half * 0.3, top + deep),
            (500 + half * 0.8, top + deep * 0.72),
            (500 + half, top),
        ]
    )
    trug = trug.intersection(rounded([(0, top), (1000, top), (1000, 1000), (0, 1000)], radius=2))
    bow = tube(
        [
            (500 - half * 0.82, top + 10),
            (500 - half * 0.7, 300),
            (500, 170),
            (500 + half * 0.7, 300),
            (500 + half * 0.82, top + 10),
        ],
        40,
    )
    rim = rounded(
        [
            (500 - half - 20, top - 26),
            (500 + half + 20, top - 26),
            (500 + half + 20, top + 30),
            (500 - half - 20, top + 30),
        ],
        radius=26,
    )
    parts: list[Part] = [Form(bow, "brown")]
    parts.append(Form(leaf((360, top - 40), (250, top - 230), width=96, bend=16), "leaf"))
    parts.append(Form(leaf((370, top - 40), (400, top - 260), width=92, bend=-12), "leaf"))
    for x, r, tone in ((370, 92, "beet"), (640, 96, "red"), (505, 104, "ochre")):
        parts.append(Form(oval((x, top - 40), r, r * 0.96), tone))
    parts.append(Form(trug, "ochre"))
    parts.append(Form(rim, "brown"))
    for share in (-0.55, -0.2, 0.2, 0.55):
        parts.append(
            Mark(
                stroke(
                    [(500 + share * half * 1.1, top + 62), (500 + share * half * 0.86, top + deep * 0.78)]
                ),
                "brown",
                0.9,
                extra=abs(share) > 0.4,
            )
        )
    return parts
