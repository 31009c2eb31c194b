"""Insects of the beds, and a spider at work."""

import math

import numpy as np
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
