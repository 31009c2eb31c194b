"""What the sky brings, and what keeps it off."""

import math

import numpy as np
import shapely
from shapely.geometry import Polygon

from zeichen.standins.studio.hand import Hand
from zeichen.standins.studio.pen import Dot, Form, Mark, Part, blob, leaf, limb, oval, stroke


def rain_cloud(rng: Hand) -> list[Part]:
    """A cloud with its rain."""
    bulge = [rng.uniform(0.9, 1.1) for _ in range(4)]
    cloud = (
        shapely.union_all(
            [
                oval((300, 440), 150 * bulge[0], 130 * bulge[0]),
                oval((460, 340), 180 * bulge[1], 175 * bulge[1]),
                oval((650, 390), 160 * bulge[2], 150 * bulge[2]),
                oval((760, 470), 120 * bulge[3], 105 * bulge[3]),
                Polygon([(300, 420), (770, 420), (790, 574), (280, 574)]).buffer(-20).buffer(20),
            ]
        )
        .buffer(18)
        .buffer(-18)
    )
    slant = rng.uniform(-40, 40)
    parts: list[Part] = [Form(cloud, "sky", decor=True)]
    for row, count in ((0, 4), (1, 3)):
        for k in range(count):
            x = 500 + (k - (count - 1) / 2) * 140
            y = 660 + 135 * row
            drop = blob(
                [
                    (x + slant * 0.3, y - 66),
                    (x + 34, y + 14),
                    (x + 26, y + 48),
                    (x, y + 58),
                    (x - 26, y + 48),
                    (x - 34, y + 14),
                ]
            )
            parts.append(Form(drop, "teal"))
    return parts


def sun(rng: Hand) -> list[Part]:
    """A sun with a face."""
    rays, r = rng.integers(10, 15), rng.uniform(195, 225)
    wavy = rng.random() < 0.4
    parts: list[Part] = []
    for k in range(rays):
        a = 2 * math.pi * k / rays
        out = r * (1.92 if k % 2 else 1.66)
        base, tip = (
            (500 + r * 1.14 * math.cos(a), 500 + r * 1.14 * math.sin(a)),
            (500 + out * math.cos(a), 500 + out * math.sin(a)),
        )
        width = 1.25 * math.pi * r / rays
        ray = (
            leaf(base, tip, width=width * 1.1, bend=width * 0.5, belly=0.4)
            if wavy
            else Polygon(
                [
                    (base[0] - width * math.sin(a), base[1] + width * math.cos(a)),
                    tip,
                    (base[0] + width * math.sin(a), base[1] - width * math.cos(a)),
                ]
            )
            .buffer(-5)
            .buffer(9)
        )
        parts.append(Form(ray, "ochre"))
    parts.append(Form(oval((500, 500), r, r), "ochre"))
    eye = r * 0.36
    for side in (-1, 1):
        parts.append(Dot(oval((500 + side * eye, 470), 20, 26)))
        parts.append(Dot(oval((500 + side * r * 0.58, 545), 30, 22), "rose", extra=True))
    parts.append(
        Mark(
            stroke(
                [
                    (500 - eye, 545),
                    (500 - eye * 0.5, 592),
                    (500, 606),
                    (500 + eye * 0.5, 592),
                    (500 + eye, 545),
                ]
            ),
            "dark",
            1.1,
        )
    )
    return parts


def crescent_moon(rng: Hand) -> list[Part]:
    """A crescent moon with stars."""
    bite, r = rng.uniform(0.5, 0.62), 340.0
    moon = oval((470, 500), r, r).difference(oval((470 + r * bite, 500 - r * 0.12), r * 0.84, r * 0.84))
    parts: list[Part] = [Form(moon, "ochre")]
    for x, y, size in ((640, 430, 92), (760, 620, 60), (790, 300, 48))[: rng.integers(2, 4)]:
        a = np.radians(np.arange(10) * 36 - 90 + rng.uniform(-12, 12))
        reach = np.where(np.arange(10) % 2 == 0, size, size * 0.46)
        parts.append(
            Form(
                Polygon(np.stack([x + reach * np.cos(a), y + reach * np.sin(a)], axis=1))
                .buffer(-4)
                .buffer(7),
                "ochre",
            )
        )
    parts.append(Mark(stroke([(262, 470), (290, 492), (322, 480)]), "dark", 0.9, extra=True))
    parts.append(Mark(stroke([(255, 620), (300, 655), (352, 650)]), "dark", 0.9, extra=True))
    return parts


def umbrella(rng: Hand) -> list[Part]:
    """An open umbrella."""
    half, tall, panels = rng.uniform(370, 400), rng.uniform(280, 330), 4
    arc = np.linspace(math.pi, 2 * math.pi, 50)
    rim: list[tuple[float, float]] = []
    step = 2 * half / panels
    for k in range(panels):
        x = 500 + half - (k + 0.5) * step
        for a in np.linspace(0, math.pi, 14)[1:-1].tolist():
            rim.append((x + step / 2 * math.cos(a), 520 - 56 * math.sin(a)))
        rim.append((x - step / 2, 520.0))
    dome = [(500 + half * math.cos(a), 520 + tall * math.sin(a)) for a in arc.tolist()]
    canopy = Polygon([*dome, *rim]).buffer(-3).buffer(3)
    shaft = limb([(500, 480), (500, 700), (500, 850)], [30, 30, 30])
    hook = limb([(500, 840), (512, 900), (566, 915), (606, 876), (604, 838)], [36, 36, 36, 36, 36])
    parts: list[Part] = [
        Form(shapely.union_all([shaft, hook]), "brown"),
        Form(limb([(500, 520 - tall + 8), (500, 520 - tall - 60)], [30, 22]), "brown", joined=True),
        Form(canopy, "red"),
    ]
    for share in (-0.5, 0.0, 0.5):
        end = (500 + half * share, 512)
        parts.append(
            Mark(
                stroke([(500, 520 - tall + 14), (500 + half * share * 0.72, 520 - tall * 0.62), end]),
                "cream",
                1.0,
            )
        )
    for x, y in ((210, 250), (800, 230), (120, 420), (880, 400))[: rng.integers(0, 5)]:
        drop = blob([(x, y - 56), (x + 27, y + 10), (x, y + 44), (x - 27, y + 10)])
        parts.append(Form(drop, "sky"))
    return parts


def snowflake(rng: Hand) -> list[Part]:
    """A snowflake of six equal arms."""
    reach, twig = rng.uniform(380, 410), rng.uniform(0.3, 0.42)
    first = rng.uniform(0.42, 0.54)
    shapes: list[shapely.Geometry] = []
    for k in range(6):
        a = math.pi / 3 * k + math.pi / 6
        c, s = math.cos(a), math.sin(a)
        shapes.append(limb([(500, 500), (500 + reach * c, 500 + reach * s)], [44, 40]))
        for share, size in ((first, 1.0), (first + 0.28, 0.72)):
            for side in (-1, 1):
                b = a + side * math.pi / 3
                x, y = 500 + reach * share * c, 500 + reach * share * s
                length = reach * twig * size
                shapes.append(limb([(x, y), (x + length * math.cos(b), y + length * math.sin(b))], [38, 34]))
    hexagon = [(500 + 96 * math.cos(math.pi / 3 * k), 500 + 96 * math.sin(math.pi / 3 * k)) for k in range(6)]
    whole = shapely.union_all([*shapes, Polygon(hexagon)])
    centre = Polygon([(500 + 0.42 * (x - 500), 500 + 0.42 * (y - 500)) for x, y in hexagon])
    return [Form(whole, "sky"), Dot(centre, "cream")]


def rainbow(rng: Hand) -> list[Part]:
    """A rainbow between two clouds."""
    bands = ("red", "ochre", "leaf", "teal")
    r, width = rng.uniform(370, 400), rng.uniform(58, 68)
    parts: list[Part] = []
    for k, tone in enumerate(bands):
        outer, inner = r - k * width, r - (k + 1) * width + width * 0.2
        ring = oval((500, 640), outer, outer).difference(oval((500, 640), inner, inner))
        parts.append(Form(ring.intersection(Polygon([(0, 0), (1000, 0), (1000, 640), (0, 640)])), tone))
    for side in (-1, 1):
        x = 500 + side * (r - 2 * width)
        puffs = [
            oval((x - 105, 660), 78, 70),
            oval((x, 632), 100, 92),
            oval((x + 108, 664), 76, 68),
            oval((x, 690), 150, 52),
        ]
        parts.append(Form(shapely.union_all(puffs).buffer(10).buffer(-10), "sky", decor=True))
    return parts
