"""Fruit, vegetables, flowers and what grows by itself."""

import math

import numpy as np
import shapely
from shapely import affinity

from zeichen.standins.studio.hand import Hand
from zeichen.standins.studio.pen import Dot, Form, Mark, Part, blob, leaf, limb, oval, rib, stroke, tube


def carrot(rng: Hand) -> list[Part]:
    """A carrot with feathery greens."""
    wide, sway = rng.uniform(115, 150), rng.uniform(-50, 50)
    root = blob(
        [
            (500 - wide * 0.55, 385),
            (500, 372),
            (500 + wide * 0.55, 385),
            (500 + wide, 450),
            (500 + wide * 0.8, 600),
            (500 + wide * 0.42 + sway * 0.3, 780),
            (500 + sway, 945),
            (500 - wide * 0.36 + sway * 0.3, 780),
            (500 - wide * 0.8, 600),
            (500 - wide, 450),
        ]
    )
    parts: list[Part] = []
    for turn in (-1.0, 1.0, 0.0):
        angle = math.radians(-90 + turn * rng.uniform(40, 50))
        length = rng.uniform(250, 300) * (1.0 if turn else 1.1)
        tip = (500 + length * math.cos(angle), 385 + length * math.sin(angle))
        fronds: list[shapely.Geometry] = [limb([(500, 392), tip], [26, 20])]
        for share in (0.5, 0.78):
            base = (500 + share * (tip[0] - 500), 385 + share * (tip[1] - 385))
            for side in (-1, 1):
                out = angle + side * 0.85
                reach = 104 * (1.15 - 0.5 * share)
                end = (base[0] + reach * math.cos(out), base[1] + reach * math.sin(out))
                fronds.append(leaf(base, end, width=46, belly=0.6))
        fronds.append(leaf(tip, (tip[0] + 40 * math.cos(angle), tip[1] + 40 * math.sin(angle)), width=40))
        parts.append(Form(shapely.union_all(fronds), "leaf"))
    parts.append(Form(root, "ochre"))
    for y, share, side in ((470, 0.9, -1), (540, 0.8, 1), (630, 0.62, -1), (715, 0.46, 1)):
        half = wide * share
        parts.append(
            Mark(
                stroke([(500 + side * half * 0.9, y), (500 + side * half * 0.25, y + 14)]),
                "rust",
                0.9,
                extra=y > 600,
            )
        )
    return parts


def leek(rng: Hand) -> list[Part]:
    """A leek with its fan of leaves and its beard of roots."""
    half, bow = rng.uniform(58, 72), rng.uniform(20, 80)
    parts: list[Part] = []
    for side, reach, drop in ((-1, 250, 120), (1, 250, 120), (-1, 150, 20), (1, 160, 30), (0, 10, -20)):
        tip = (500 + side * (reach + bow), 130 + drop)
        parts.append(
            Form(
                leaf((500 + side * 20, 520), tip, width=112, bend=side * -(30 + bow * 0.4), belly=0.4),
                "leaf" if reach > 200 else "lime",
            )
        )
    shaft = blob(
        [
            (500 - half * 1.15, 470),
            (500, 500),
            (500 + half * 1.15, 470),
            (500 + half, 620),
            (500 + half * 1.1, 800),
            (500, 850),
            (500 - half * 1.1, 800),
            (500 - half, 620),
        ]
    )
    for k in range(-3, 4):
        parts.append(
            Mark(
                stroke([(500 + 14 * k, 835), (500 + 24 * k + rng.uniform(-8, 8), 895), (500 + 30 * k, 940)]),
                "brown",
                -0.8,
            )
        )
    parts.append(Form(shaft, "cream", decor=True))
    parts.append(
        Mark(
            stroke([(500 - half * 0.3, 560), (500 - half * 0.34, 690), (500 - half * 0.3, 790)]),
            "lime",
            0.9,
            extra=True,
        )
    )
    parts.append(
        Mark(
            stroke([(500 + half * 0.34, 580), (500 + half * 0.36, 700), (500 + half * 0.34, 780)]),
            "lime",
            0.9,
            extra=True,
        )
    )
    return parts


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


def onion(rng: Hand) -> list[Part]:
    """An onion, its lines running from neck to root."""
    wide, neck = rng.uniform(265, 300), rng.uniform(-50, 50)
    body = blob(
        [
            (470, 330),
            (530, 330),
            (500 + wide * 0.7, 430),
            (500 + wide, 620),
            (500 + wide * 0.66, 790),
            (500, 850),
            (500 - wide * 0.66, 790),
            (500 - wide, 620),
            (500 - wide * 0.7, 430),
        ]
    )
    shoots = [
        leaf((500, 390), (500 + neck + dx, 120 + abs(dx) * 0.5), width=66, bend=dx * 0.2)
        for dx in (-110, 0, 115)
    ]
    parts: list[Part] = [Form(shoot, "leaf") for shoot in shoots]
    for k in range(-3, 4):
        parts.append(Mark(stroke([(500 + 10 * k, 838), (500 + 22 * k, 900)]), "brown", -0.8))
    parts.append(Form(body, "ochre"))
    for share in (-0.62, -0.22, 0.22, 0.62):
        parts.append(
            Mark(
                stroke(
                    [
                        (500 + share * 60, 395),
                        (500 + share * wide * 0.98, 610),
                        (500 + share * wide * 0.42, 805),
                    ]
                ),
                "rust",
                0.9,
                extra=abs(share) > 0.5,
            )
        )
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
