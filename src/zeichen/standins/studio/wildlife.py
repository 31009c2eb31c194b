"""More small wildlife: what flies, hops and creeps between the beds."""

import math

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry import Polygon

from zeichen.standins.studio.hand import Hand
from zeichen.standins.studio.pen import (
    Dot,
    Form,
    Mark,
    Part,
    Spot,
    blob,
    leaf,
    limb,
    oval,
    rib,
    stroke,
    through,
)


def butterfly(rng: Hand) -> list[Part]:
    """A butterfly seen from above, wings spread."""
    lift, span, low = rng.uniform(-30, 40), rng.uniform(350, 410), rng.uniform(230, 290)
    waist = rng.uniform(0.9, 1.1)
    parts: list[Part] = []
    for side in (-1, 1):
        upper = blob(
            [
                (500 + side * 26, 470),
                (500 + side * span * 0.42, 300 - lift),
                (500 + side * span * 0.86, 235 - lift),
                (500 + side * span * 1.04, 300 - lift * 0.5),
                (500 + side * span * 0.92, 430),
                (500 + side * span * 0.55, 515),
            ]
        )
        lower = blob(
            [
                (500 + side * 26, 525),
                (500 + side * low * 0.7, 520),
                (500 + side * low * 1.12, 585),
                (500 + side * low * 1.02, 705),
                (500 + side * low * 0.66, 770 + lift * 0.6),
                (500 + side * low * 0.3, 660),
            ]
        )
        parts += [Form(lower, "ochre", decor=True), Form(upper, "rust", decor=True)]
        eye = (500 + side * span * 0.74, 345 - lift * 0.6)
        parts.append(Dot(oval(eye, 40 * waist, 36 * waist), "cream"))
        parts.append(Dot(oval((500 + side * low * 0.74, 640), 28, 32), "cream"))
        parts.append(
            Mark(
                stroke([(500 + side * 12, 385), (500 + side * 50, 290), (500 + side * 105, 235)]),
                "dark",
                -0.9,
            )
        )
        parts.append(Dot(oval((500 + side * 110, 230), 17, 17), "dark"))
    body = limb([(500, 390), (500, 520), (500, 735)], [52, 64, 22])
    return [
        *[p for p in parts if isinstance(p, Form)],
        Form(body, "dark"),
        Form(oval((500, 385), 36, 36), "dark", joined=True),
        *[p for p in parts if not isinstance(p, Form)],
    ]


def ladybird(rng: Hand) -> list[Part]:
    """A ladybird from above, wing cases a little open."""
    open_deg = rng.uniform(0, 15)
    rx, ry = rng.uniform(265, 300), rng.uniform(300, 330)
    spots = rng.integers(2, 5)
    parts: list[Part] = []
    for side in (-1, 1):
        for y, out in ((430, 1.14), (560, 1.2), (690, 1.1)):
            knee = (500 + side * rx * out, y - 10)
            parts.append(
                Form(
                    limb([(500 + side * rx * 0.7, y), knee, (knee[0] + side * 34, y + 60)], [40, 32, 24]),
                    "dark",
                    joined=True,
                )
            )
        parts.append(
            Mark(
                stroke([(500 + side * 60, 215), (500 + side * 95, 130), (500 + side * 160, 105)]),
                "dark",
                -1.0,
            )
        )
    parts.append(Form(oval((500, 265), 135, 95), "dark", joined=True))
    parts += [Dot(oval((500 + side * 70, 235), 24, 24), "cream") for side in (-1, 1)]
    parts.append(Form(oval((500, 590), rx * 0.85, ry * 0.9), "brown", joined=True))
    whole = oval((500, 570), rx, ry)
    for side in (-1, 1):
        half = whole.intersection(
            Polygon([(500, 0), (500 + side * 700, 0), (500 + side * 700, 1200), (500, 1200)])
        )
        case = affinity.rotate(half, -side * open_deg, origin=(500, 290))
        parts.append(Form(case, "red"))
        places = [(0.36, 400), (0.62, 560), (0.34, 720), (0.3, 560)][:spots]
        for share, y in places:
            size = rng.uniform(42, 54)
            dot = affinity.rotate(
                oval((500 + side * rx * share, y), size, size), -side * open_deg, origin=(500, 290)
            )
            parts.append(Dot(dot, "dark"))
    return parts


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


def caterpillar(rng: Hand) -> list[Part]:
    """A caterpillar arching its back on a leaf."""
    hump, count = rng.uniform(70, 190), rng.integers(6, 9)
    spine = through(
        [(170, 640), (330, 620), (500, 620 - hump), (650, 600), (780, 560)], closed=False, steps=30
    )
    parts: list[Part] = []
    ground = leaf((80, 760), (930, 740), width=150, bend=-30)
    parts.append(Form(ground, "leaf"))
    parts.append(Mark(rib((80, 760), (930, 740), bend=-30), "lime", 0.9))
    size = 84.0
    for k in range(count):
        x, y = spine[int(k / count * (len(spine) - 1))]
        for dx in (-14, 22):
            parts.append(
                Form(limb([(x + dx, y + 60), (x + dx + 4, y + 112)], [30, 24]), "ochre", joined=True)
            )
        parts.append(
            Form(oval((float(x), float(y)), size, size), "lime" if k % 2 else "leaf", decor=k % 2 == 0)
        )
    head = (float(spine[-1][0]) + 10, float(spine[-1][1]) - 10)
    parts.append(Form(oval(head, 100, 98), "ochre"))
    for side in (-1, 1):
        tip: Spot = (head[0] + 26 + side * 52, head[1] - 185)
        parts.append(Mark(stroke([(head[0] + 14 + side * 30, head[1] - 88), tip]), "dark", -0.9))
        parts.append(Dot(oval(tip, 19, 19)))
        parts.append(Dot(oval((head[0] + 26 + side * 34, head[1] - 22), 15, 19)))
    parts.append(
        Mark(
            stroke([(head[0] - 8, head[1] + 36), (head[0] + 28, head[1] + 54), (head[0] + 62, head[1] + 34)]),
            "dark",
            0.9,
        )
    )
    return parts


def spider_web(rng: Hand) -> list[Part]:
    """A web between twigs with its small owner."""
    spokes, rings = 8, rng.integers(4, 6)
    turn = rng.uniform(0, 2 * math.pi / spokes)
    radius = np.array([rng.uniform(330, 400) for _ in range(spokes)])
    angle = turn + 2 * math.pi * np.arange(spokes) / spokes
    parts: list[Part] = []
    for k in range(spokes):
        far = (500 + radius[k] * 1.06 * math.cos(angle[k]), 480 + radius[k] * 1.06 * math.sin(angle[k]))
        parts.append(Mark(stroke([(500, 480), far]), "dark", -0.9))
    for ring in range(1, rings + 1):
        share = ring / rings
        for k in range(spokes):
            a, b = angle[k], angle[k] + 2 * math.pi / spokes
            ra, rb = radius[k] * share, radius[(k + 1) % spokes] * share
            start, end = (
                (500 + ra * math.cos(a), 480 + ra * math.sin(a)),
                (500 + rb * math.cos(b), 480 + rb * math.sin(b)),
            )
            middle = (0.42 * (start[0] + end[0]) + 0.16 * 500, 0.42 * (start[1] + end[1]) + 0.16 * 480)
            parts.append(
                Mark(stroke([start, middle, end]), "dark", -0.9, extra=ring % 2 == 0 and ring < rings)
            )
    bx, by = 500 + 0.52 * radius[0] * math.cos(angle[0]), 480 + 0.52 * radius[0] * math.sin(angle[0])
    parts.append(Form(oval((bx, by), 62, 70), "dark"))
    parts.append(Form(oval((bx, by - 76), 40, 36), "dark", joined=True))
    return parts
