"""Flowers, seedlings and what grows by itself."""

import math

import numpy as np
import shapely
from shapely import affinity

from zeichen.standins.studio.hand import Hand
from zeichen.standins.studio.pen import Dot, Form, Mark, Part, blob, leaf, limb, oval, rib, stroke


def toadstool(rng: Hand) -> list[Part]:
    """A spotted toadstool with a small one beside it."""
    parts: list[Part] = []
    for x, y, size in ((440.0, 860.0, 1.0), (760.0, 868.0, rng.uniform(0.42, 0.56))):
        wide, tall = 300 * size, rng.uniform(215, 270) * size
        top = y - 420 * size
        stem = blob(
            [
                (x - 60 * size, top),
                (x + 60 * size, top),
                (x + 70 * size, y - 120 * size),
                (x + 105 * size, y - 20 * size),
                (x, y),
                (x - 105 * size, y - 20 * size),
                (x - 70 * size, y - 120 * size),
            ]
        )
        cap = blob(
            [
                (x - wide, top + 20 * size),
                (x - wide * 0.86, top - tall * 0.55),
                (x, top - tall),
                (x + wide * 0.86, top - tall * 0.55),
                (x + wide, top + 20 * size),
                (x + wide * 0.6, top + 62 * size),
                (x, top + 36 * size),
                (x - wide * 0.6, top + 62 * size),
            ]
        )
        skirt = blob(
            [
                (x - 62 * size, top + 105 * size),
                (x + 62 * size, top + 105 * size),
                (x + 98 * size, top + 172 * size),
                (x, top + 150 * size),
                (x - 98 * size, top + 172 * size),
            ]
        )
        parts += [Form(stem, "cream"), Form(skirt, "cream"), Form(cap, "red")]
        places = ((-0.5, 0.34, 52), (0.04, 0.62, 60), (0.56, 0.3, 48), (0.1, 0.14, 40), (-0.14, 0.88, 24))
        parts += [
            Dot(oval((x + dx * wide, top - dy * tall), r * size, r * 0.86 * size), "cream", extra=r < 30)
            for dx, dy, r in (places if size > 0.6 else places[:3])
        ]
    for base, tip in (((300, 870), (235, 770)), ((320, 872), (320, 760)), ((610, 872), (655, 780))):
        parts.append(Form(leaf(base, tip, width=36), "leaf"))
    return parts


def acorn(rng: Hand) -> list[Part]:
    """An acorn with an oak leaf."""
    wide, tall = rng.uniform(158, 182), rng.uniform(300, 345)
    x = 620.0
    nut = blob(
        [
            (x - wide, 470),
            (x, 440),
            (x + wide, 470),
            (x + wide * 0.92, 470 + tall * 0.55),
            (x + wide * 0.34, 470 + tall * 0.94),
            (x, 470 + tall * 1.08),
            (x - wide * 0.34, 470 + tall * 0.94),
            (x - wide * 0.92, 470 + tall * 0.55),
        ]
    )
    cup = blob(
        [
            (x - wide * 1.18, 488),
            (x - wide * 0.95, 350),
            (x, 285),
            (x + wide * 0.95, 350),
            (x + wide * 1.18, 488),
            (x + wide * 0.5, 524),
            (x - wide * 0.5, 524),
        ]
    )
    stalk = limb([(x, 300), (x + 10, 230), (x - 30, 160)], [40, 34, 40])
    bend = rng.uniform(-20, 40)
    # An oak leaf: lobes beside a midrib, broad in the middle.
    lobes: list[shapely.Geometry] = [limb([(590, 215), (400, 330 + bend), (150, 560 + bend)], [44, 130, 70])]
    for share, reach in ((0.22, 92.0), (0.48, 128.0), (0.76, 96.0)):
        x0, y0 = 590 - share * 420, 215 + share * 335 + bend * share
        for side in (-1, 1):
            angle = math.radians(142) - side * 1.05
            lobes.append(
                oval(
                    (x0 + 0.72 * reach * math.cos(angle), y0 + 0.72 * reach * math.sin(angle)),
                    reach * 0.78,
                    reach * 0.5,
                    turn_deg=math.degrees(angle),
                )
            )
    foliage = shapely.union_all(lobes).buffer(-8).buffer(8)
    parts: list[Part] = [Form(foliage, "leaf")]
    parts.append(Mark(stroke([(560, 238), (400, 330 + bend), (196, 516 + bend)]), "lime", 1.0))
    parts += [Form(stalk, "brown"), Form(nut, "ochre"), Form(cup, "brown", decor=True)]
    parts.append(
        Mark(
            stroke([(x - wide * 0.56, 590), (x - wide * 0.5, 660), (x - wide * 0.32, 720)]),
            "cream",
            1.0,
            extra=True,
        )
    )
    return parts


def sunflower(rng: Hand) -> list[Part]:
    """A sunflower on its stalk."""
    petals, r = rng.integers(11, 15), rng.uniform(142, 165)
    cx, cy = 500.0, 360.0
    lean = rng.uniform(-40, 40)
    stem = limb([(cx, cy + 100), (cx + lean, 680), (cx + lean * 0.4, 960)], [42, 40, 48])
    parts: list[Part] = [Form(stem, "leaf")]
    for side, y in ((-1, 760.0), (1, 690.0)):
        base, tip = (cx + lean * 0.8, y), (cx + side * 260, y - 130)
        parts += [
            Form(leaf(base, tip, width=124, bend=side * 22), "leaf"),
            Mark(rib(base, tip, bend=side * 22), "lime", 0.9),
        ]
    for layer, (reach, offset) in enumerate(((1.98, 0.5), (1.86, 0.0))):
        for k in range(petals):
            a = 2 * math.pi * (k + offset) / petals
            base = (cx + r * 0.6 * math.cos(a), cy + r * 0.6 * math.sin(a))
            tip = (cx + r * reach * math.cos(a), cy + r * reach * math.sin(a))
            if layer == 1 or petals < 13:
                parts.append(
                    Form(
                        leaf(base, tip, width=2.5 * math.pi * r / petals, belly=0.55),
                        "ochre",
                        joined=layer == 0,
                    )
                )
    parts.append(Form(oval((cx, cy), r, r), "brown"))
    for ring, count in ((0.66, 10), (0.34, 5)):
        parts += [
            Dot(
                oval((cx + r * ring * math.cos(a), cy + r * ring * math.sin(a)), 14, 14),
                "cream",
                extra=ring < 0.5,
            )
            for a in (2 * np.pi * np.arange(count) / count).tolist()
        ]
    return parts


def tulip(rng: Hand) -> list[Part]:
    """A tulip with two leaves."""
    wide, tall, lean = rng.uniform(150, 185), rng.uniform(285, 330), rng.uniform(-45, 45)
    x, y = 500 + lean, 440.0
    stem = limb([(x, y - 30), (500 + lean * 0.6, 680), (500, 940)], [40, 36, 44])
    parts: list[Part] = [Form(stem, "leaf")]
    for side, reach in ((-1, rng.uniform(200, 250)), (1, rng.uniform(170, 230))):
        parts.append(
            Form(
                leaf((500 - side * 6, 930), (500 + side * reach, 500), width=126, bend=side * 66, belly=0.5),
                "leaf",
            )
        )
    for side in (-1, 1):
        outer = blob(
            [
                (x, y),
                (x + side * wide * 0.9, y - 60),
                (x + side * wide * 1.02, y - tall * 0.62),
                (x + side * wide * 0.86, y - tall * 0.98),
                (x + side * wide * 0.3, y - tall * 0.5),
            ]
        )
        parts.append(Form(outer, "rose"))
    middle = blob(
        [
            (x, y + 8),
            (x + wide * 0.62, y - 70),
            (x + wide * 0.5, y - tall * 0.6),
            (x, y - tall),
            (x - wide * 0.5, y - tall * 0.6),
            (x - wide * 0.62, y - 70),
        ]
    )
    parts.append(Form(middle, "red", decor=True))
    return parts


def seedling(rng: Hand) -> list[Part]:
    """A young plant with two leaves, its root in the ground."""
    lean, size = rng.uniform(-40, 40), rng.uniform(250, 300)
    heap = blob(
        [(170, 850), (300, 770), (500, 735), (700, 770), (830, 850), (680, 890), (500, 900), (320, 890)]
    )
    stem = limb([(500, 780), (500 + lean * 0.4, 600), (500 + lean, 420)], [44, 38, 32])
    top = (500 + lean, 430.0)
    parts: list[Part] = [Form(heap, "brown", decor=True), Form(stem, "leaf")]
    for side in (-1, 1):
        tip = (top[0] + side * size, top[1] - size * 0.55)
        parts += [
            Form(leaf(top, tip, width=size * 0.6, bend=side * -34), "leaf"),
            Mark(rib(top, tip, bend=side * -34), "lime", 1.0),
        ]
    bud = affinity.rotate(oval((top[0], top[1] - 66), 40, 78), rng.uniform(-10, 10))
    parts.append(Form(bud, "lime"))
    return parts


def wheat_ear(rng: Hand) -> list[Part]:
    """An ear of wheat."""
    bow, rows = rng.uniform(20, 110), rng.integers(5, 7)
    spine = [(470.0, 960.0), (490.0, 640.0), (500 + bow * 0.5, 330.0), (500 + bow, 120.0)]
    parts: list[Part] = [Form(limb(spine, [24, 24, 22, 18]), "ochre")]
    at = np.linspace(0.46, 0.94, rows)
    line = stroke(spine)
    for share in at.tolist():
        spot = line.interpolate(share, normalized=True)
        ahead = line.interpolate(min(1.0, share + 0.02), normalized=True)
        heading = math.atan2(ahead.y - spot.y, ahead.x - spot.x)
        for side in (-1, 1):
            a = heading + side * 0.62
            tip = (spot.x + 150 * math.cos(a), spot.y + 150 * math.sin(a))
            parts.append(Form(leaf((spot.x, spot.y), tip, width=70, bend=-side * 8), "ochre"))
    end = line.interpolate(0.97, normalized=True)
    parts.append(Form(leaf((end.x, end.y), (end.x + bow * 0.16, end.y - 135), width=64), "ochre"))
    parts.append(Form(leaf((480, 800), (250, 560), width=74, bend=26), "leaf"))
    return parts
