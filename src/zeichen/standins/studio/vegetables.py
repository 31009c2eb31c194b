"""Vegetables, with their leaves and roots."""

import math

import shapely

from zeichen.standins.studio.hand import Hand
from zeichen.standins.studio.pen import Form, Mark, Part, blob, leaf, limb, stroke


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
