"""Small wildlife of the allotment."""

import math

import numpy as np
import shapely
from shapely.geometry import Polygon

from zeichen.standins.studio.hand import Hand
from zeichen.standins.studio.pen import Dot, Form, Mark, Part, blob, leaf, limb, oval, rib, spiral, stroke


def snail(rng: Hand) -> list[Part]:
    """A snail on its way, horns up."""
    lift = rng.uniform(-40, 50)
    shell_r = rng.uniform(225, 275)
    cx, cy = rng.uniform(430, 490), 780 - shell_r - rng.uniform(30, 60)
    head_x = rng.uniform(790, 840)
    body = blob(
        [
            (70, 800),
            (190, 742),
            (330, 715),
            (600, 715),
            (head_x - 110, 640),
            (head_x - 85, 520 - lift),
            (head_x - 10, 455 - lift),
            (head_x + 65, 500 - lift),
            (head_x + 70, 580 - lift / 2),
            (head_x + 30, 690),
            (head_x - 30, 790),
            (head_x - 140, 828),
            (400, 830),
            (160, 828),
        ]
    )
    lean = rng.uniform(-25, 35)
    horns = [
        limb(
            [(head_x - 20, 500 - lift), (head_x - 45 + lean, 390 - lift), (head_x - 30 + lean, 300 - lift)],
            [40, 30, 28],
        ),
        limb(
            [(head_x + 30, 500 - lift), (head_x + 50 + lean, 410 - lift), (head_x + 95 + lean, 335 - lift)],
            [40, 30, 28],
        ),
    ]
    tips = [oval((head_x - 30 + lean, 296 - lift), 27, 27), oval((head_x + 97 + lean, 330 - lift), 27, 27)]
    turns = rng.uniform(1.9, 2.5)
    shell = oval((cx, cy), shell_r, shell_r * rng.uniform(0.94, 1.0))
    coil = spiral(
        (cx + 8, cy + 8), inner=22, outer=shell_r * 0.86, turns=turns, start_deg=rng.uniform(-20, 50)
    )
    smile = stroke(
        [(head_x + 66, 575 - lift * 0.6), (head_x + 40, 590 - lift * 0.6), (head_x + 22, 578 - lift * 0.6)]
    )
    return [
        Form(shapely.union_all([body, *horns, *tips]), "ochre"),
        Form(shell, "rust"),
        Mark(coil, "cream", 1.2),
        Mark(smile, "dark", 0.8, extra=True),
    ]


def hedgehog(rng: Hand) -> list[Part]:
    """A hedgehog with spines along its back and a pointed nose."""
    spines = int(rng.integers(15, 20))
    length = rng.uniform(78, 112)
    cx, cy, rx, ry = 455.0, 610.0, rng.uniform(325, 350), rng.uniform(235, 275)
    points: list[tuple[float, float]] = []
    angles = np.linspace(math.radians(172), math.radians(318), spines)
    for k, angle in enumerate(angles):
        step = (angles[1] - angles[0]) / 2
        far = length * rng.uniform(0.9, 1.12)
        points.append((cx + rx * math.cos(angle - step), cy + ry * math.sin(angle - step)))
        swept = angle - 0.07
        points.append((cx + (rx + far) * math.cos(swept), cy + (ry + far) * math.sin(swept)))
        if k == spines - 1:
            points.append((cx + rx * math.cos(angle + step), cy + ry * math.sin(angle + step)))
    coat = Polygon([*points, (720, 690), (640, 770), (420, 800), (190, 770)]).buffer(0)
    coat = shapely.union_all([coat, oval((cx - 20, cy + 40), rx * 0.93, ry * 0.75)])
    nose_y = rng.uniform(655, 700)
    face = blob(
        [
            (650, 500),
            (735, 520),
            (800, 590),
            (905, nose_y - 20),
            (925, nose_y + 8),
            (890, nose_y + 36),
            (800, 752),
            (690, 790),
            (610, 740),
            (590, 610),
        ]
    )
    belly = blob(
        [(160, 770), (300, 745), (560, 745), (720, 765), (690, 815), (540, 838), (300, 838), (190, 820)]
    )
    feet = [oval((x, 836), 58, 26) for x in (300, 400, 600, 690)]
    ear = oval((665, 535), 44, 50, turn_deg=rng.uniform(-15, 15))
    rows = []
    for k in range(3):
        shrink = 0.84 - 0.2 * k
        for angle in np.radians(np.linspace(186 + 6 * k, 296 - 8 * k, 8 - 2 * k)):
            x, y = cx + rx * shrink * math.cos(angle), cy + ry * shrink * math.sin(angle)
            rows.append(
                Mark(
                    stroke([(x, y), (x + 38 * math.cos(angle - 0.3), y + 38 * math.sin(angle - 0.3))]),
                    "cream",
                    0.9,
                    extra=k > 0,
                )
            )
    return [
        *[Form(foot, "dark", joined=True) for foot in feet],
        Form(belly, "ochre", joined=True),
        Form(coat, "brown"),
        *rows,
        Form(face, "ochre"),
        Form(ear, "rust"),
        Dot(oval((775, nose_y - 52), 17, 19)),
        Form(oval((918, nose_y + 6), 27, 24), "dark", joined=True),
        Mark(stroke([(868, nose_y + 44), (835, nose_y + 48), (812, nose_y + 30)]), "dark", 0.8, extra=True),
    ]


def dragonfly(rng: Hand) -> list[Part]:
    """A dragonfly from above, wings spread."""
    sweep = rng.uniform(-18, 30)
    span = rng.uniform(370, 415)
    curl = rng.uniform(-50, 50)
    parts: list[Part] = []
    for side in (-1, 1):
        for row, (root_y, rise, share) in enumerate(
            ((395, 120 + sweep, 1.0), (455, -95 + sweep * 0.4, 0.86))
        ):
            base, tip = (500 + side * 22, root_y), (500 + side * span * share, root_y - rise)
            wide = rng.uniform(120, 138) if row == 0 else rng.uniform(128, 150)
            parts.append(Form(leaf(base, tip, width=wide, bend=side * -16, belly=0.62), "sky"))
            parts.append(Mark(rib(base, tip, bend=side * -16, reach=0.86), "dark", 0.8))
    tail = limb(
        [(500, 460), (500 + curl * 0.2, 640), (500 + curl, 800), (500 + curl * 1.5, 905)], [54, 38, 34, 46]
    )
    parts.append(Form(tail, "teal"))
    for k in range(5):
        t = 0.3 + 0.13 * k
        x = 500 + curl * (0.15 + 1.25 * max(0.0, t - 0.3) * 1.4)
        y = 560 + 70 * k
        parts.append(Mark(stroke([(x - 24, y), (x, y + 7), (x + 24, y)]), "cream", 0.8, extra=True))
    parts.append(Form(oval((500, 425), 58, 92), "teal"))
    parts.append(Form(oval((500, 310), 56, 46), "teal"))
    parts += [Form(oval((500 - 44, 294), 36, 38), "rust"), Form(oval((500 + 44, 294), 36, 38), "rust")]
    for side in (-1, 1):
        parts.append(
            Mark(
                stroke([(500 + side * 12, 268), (500 + side * 26, 226), (500 + side * 48, 200)]), "dark", -0.9
            )
        )
    return parts
