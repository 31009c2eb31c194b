"""More small wildlife: what flies, hops and creeps between the beds."""

import shapely
from shapely import affinity
from shapely.geometry import Polygon

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
    stroke,
)


def frog(rng: Hand) -> list[Part]:
    """A frog sitting, looking at you."""
    wide, smile = rng.uniform(235, 275), rng.uniform(20, 60)
    eye_r = rng.uniform(66, 80)
    body = blob(
        [(500, 480), (640, 560), (690, 720), (620, 830), (500, 850), (380, 830), (310, 720), (360, 560)]
    )
    head = blob(
        [
            (500, 300),
            (500 + wide * 0.7, 320),
            (500 + wide, 430),
            (500 + wide * 0.75, 545),
            (500, 585),
            (500 - wide * 0.75, 545),
            (500 - wide, 430),
            (500 - wide * 0.7, 320),
        ]
    )
    parts: list[Part] = []
    for side in (-1, 1):
        thigh = blob(
            [
                (500 + side * 150, 700),
                (500 + side * 270, 610),
                (500 + side * 345, 700),
                (500 + side * 330, 830),
                (500 + side * 220, 870),
            ]
        )
        parts.append(Form(thigh, "leaf"))
        toes = [
            limb([(500 + side * 235, 850), (500 + side * (300 + 46 * k), 872 + 8 * (k == 1))], [50, 40])
            for k in range(3)
        ]
        parts.append(Form(shapely.union_all(toes), "leaf", joined=True))
    parts.append(Form(body, "leaf"))
    parts.append(Form(oval((500, 730), 105, 100), "lime", decor=True))
    for side in (-1, 1):
        arm = limb([(500 + side * 120, 600), (500 + side * 150, 740), (500 + side * 118, 862)], [64, 56, 62])
        hand = [
            limb([(500 + side * 118, 862), (500 + side * (60 + 56 * k), 884)], [44, 40]) for k in range(3)
        ]
        parts.append(Form(shapely.union_all([arm, *hand]), "leaf"))
    bulges = [oval((500 + side * wide * 0.52, 305), eye_r * 1.25, eye_r * 1.2) for side in (-1, 1)]
    parts.append(Form(shapely.union_all([head, *bulges]), "leaf"))
    for side in (-1, 1):
        centre = (500 + side * wide * 0.52, 300)
        parts.append(Form(oval(centre, eye_r * 0.78, eye_r * 0.78), "cream"))
        parts.append(Form(oval((centre[0], centre[1] + 4), eye_r * 0.36, eye_r * 0.42), "dark"))
        parts.append(Dot(oval((500 + side * 30, 420), 10, 12), extra=True))
    parts.append(
        Mark(
            stroke(
                [
                    (500 - wide * 0.66, 470),
                    (500 - wide * 0.3, 470 + smile),
                    (500, 478 + smile),
                    (500 + wide * 0.3, 470 + smile),
                    (500 + wide * 0.66, 470),
                ]
            ),
            "dark",
            1.0,
        )
    )
    return parts


def robin(rng: Hand) -> list[Part]:
    """A robin on the handle of a spade, or just standing."""
    tilt, plump = rng.uniform(-22, 22), rng.uniform(0.94, 1.08)
    tail_up = rng.uniform(-70, 60)
    body = blob(
        [
            (330, 300),
            (430, 235),
            (520, 290),
            (600, 420 * plump),
            (690, 560),
            (700, 640),
            (610, 730 * plump),
            (470, 760 * plump),
            (340, 700),
            (270, 560),
            (265, 410),
        ]
    )
    tail = limb([(660, 610), (800, 640 - tail_up * 0.6), (915, 640 - tail_up)], [92, 74, 58])
    breast = blob(
        [(312, 315), (400, 345), (455, 450), (455, 580), (385, 680), (305, 620), (272, 500), (275, 390)]
    )
    wing = blob([(500, 430), (600, 470), (735, 640), (760, 672), (640, 670), (530, 620), (480, 530)])
    beak = Polygon([(296, 318), (212, 352 + tilt * 0.4), (300, 368)])
    parts: list[Part] = [Form(tail, "brown"), Form(body, "brown"), Form(beak, "dark", joined=True)]
    parts.append(Form(breast, "rust", decor=True))
    parts.append(Form(affinity.rotate(wing, tilt * 0.3, origin=(500, 430)), "brown"))
    for k in range(2):
        y = 560 + 44 * k
        parts.append(
            Mark(
                stroke([(560 + 24 * k, y - 22), (620 + 20 * k, y + 14), (690, y + 30)]),
                "cream",
                0.9,
                extra=True,
            )
        )
    parts.append(Dot(oval((372, 308), 21, 22)))
    for x in (430, 510):
        foot = [limb([(x, 735), (x + 8, 850)], [22, 20])]
        foot += [limb([(x + 8, 850), (x + 8 + dx, 872)], [20, 16]) for dx in (-52, -8, 44)]
        parts.append(Form(shapely.union_all(foot), "dark", joined=True))
    return parts


def field_mouse(rng: Hand) -> list[Part]:
    """A field mouse sitting up with a berry."""
    ear, curl = rng.uniform(78, 98), rng.uniform(-60, 60)
    tail = limb(
        [(640, 800), (790, 840), (900, 760), (880, 640 - curl), (800, 600 - curl)], [44, 34, 28, 24, 18]
    )
    body = blob(
        [(470, 420), (600, 500), (700, 650), (700, 790), (590, 850), (440, 850), (370, 760), (380, 560)]
    )
    head = blob(
        [
            (400, 260),
            (500, 250),
            (575, 330),
            (560, 430),
            (470, 490),
            (360, 480),
            (268, 430),
            (250, 405),
            (320, 320),
        ]
    )
    haunch = blob([(540, 610), (650, 640), (690, 760), (640, 850), (520, 850), (480, 740)])
    berry = oval((335, 610), 62, 62)
    arms = [
        limb([(430, 560), (370, 600), (345, 640)], [54, 46, 40]),
    ]
    foot = limb([(560, 846), (430, 862)], [52, 46])
    parts: list[Part] = [
        Form(tail, "rose"),
        Form(oval((470, 235), ear * 0.82, ear, turn_deg=-14), "brown"),
        Form(body, "ochre", decor=True),
        Form(haunch, "ochre"),
        Form(foot, "rose", joined=True),
        Form(head, "ochre"),
        Form(oval((545, 262), ear, ear * 1.05, turn_deg=18), "ochre"),
        Form(oval((548, 268), ear * 0.56, ear * 0.6, turn_deg=18), "rose"),
        Form(berry, "red"),
        Form(shapely.union_all(arms), "ochre"),
        Form(oval((250, 408), 24, 22), "dark", joined=True),
        Dot(oval((372, 362), 22, 24)),
    ]
    for dy in (-18, 14, 44):
        parts.append(
            Mark(stroke([(300, 432), (210, 440 + dy), (150, 452 + 1.6 * dy)]), "dark", -0.55, extra=True)
        )
    return parts


def owl(rng: Hand) -> list[Part]:
    """An owl on a branch."""
    wide, tuft = rng.uniform(195, 225), rng.uniform(40, 95)
    eye = rng.uniform(80, 94)
    body = blob(
        [
            (500, 190),
            (500 + wide * 0.75, 215),
            (500 + wide, 360),
            (500 + wide * 1.08, 560),
            (500 + wide * 0.8, 740),
            (500, 815),
            (500 - wide * 0.8, 740),
            (500 - wide * 1.08, 560),
            (500 - wide, 360),
            (500 - wide * 0.75, 215),
        ]
    )
    tufts = [
        Polygon(
            [(500 + s * wide * 0.36, 225), (500 + s * wide * 0.94, 205 - tuft), (500 + s * wide * 0.96, 320)]
        )
        for s in (-1, 1)
    ]
    branch = limb([(150, 800), (420, 822), (700, 808), (880, 780)], [50, 62, 56, 36])
    parts: list[Part] = [
        Form(branch, "brown"),
        Form(leaf((800, 790), (930, 690), width=76, bend=-12), "leaf"),
    ]
    parts.append(Form(shapely.union_all([body, *tufts]), "brown"))
    belly = blob([(500, 470), (600, 540), (590, 680), (500, 770), (410, 680), (400, 540)])
    parts.append(Form(belly, "cream"))
    for row in range(3):
        for k in range(3 - (row % 2)):
            x = 500 + (k - (2 - row % 2) / 2) * 72
            y = 568 + 62 * row
            parts.append(Mark(stroke([(x - 24, y), (x, y + 24), (x + 24, y)]), "brown", 0.9, extra=True))
    for side in (-1, 1):
        wing = blob(
            [
                (500 + side * wide * 0.86, 440),
                (500 + side * wide * 1.16, 560),
                (500 + side * wide * 0.98, 730),
                (500 + side * wide * 0.72, 770),
                (500 + side * wide * 0.7, 580),
            ]
        )
        parts.append(Form(wing, "rust", decor=True))
        parts.append(Form(oval((500 + side * eye * 0.96, 355), eye, eye), "cream"))
        parts.append(Form(oval((500 + side * eye * 0.9, 360), eye * 0.46, eye * 0.46), "dark"))
        parts.append(
            Form(
                shapely.union_all([oval((500 + side * 70 + dx, 806), 21, 34) for dx in (-36, 0, 36)]), "ochre"
            )
        )
    parts.append(Form(Polygon([(466, 400), (534, 400), (500, 482)]), "ochre"))
    return parts
