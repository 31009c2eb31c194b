"""Things of the plot and the shed."""

import math

import numpy as np
import shapely

from zeichen.standins.studio.hand import Hand
from zeichen.standins.studio.pen import (
    Form,
    Mark,
    Part,
    blob,
    leaf,
    limb,
    oval,
    rib,
    rounded,
    stroke,
    through,
    tube,
)


def beetroot(rng: Hand) -> list[Part]:
    """A beetroot with its leaves."""
    wide, tall = rng.uniform(195, 235), rng.uniform(195, 225)
    cy, sway = 640.0, rng.uniform(-35, 35)
    root = blob(
        [
            (500, cy - tall * 0.92),
            (500 + wide * 0.62, cy - tall * 0.8),
            (500 + wide, cy - tall * 0.12),
            (500 + wide * 0.72, cy + tall * 0.55),
            (500 + 42, cy + tall * 0.98),
            (506 + sway * 0.5, 905),
            (500 + sway, 962),
            (494 + sway * 0.5, 905),
            (500 - 42, cy + tall * 0.98),
            (500 - wide * 0.72, cy + tall * 0.55),
            (500 - wide, cy - tall * 0.12),
            (500 - wide * 0.62, cy - tall * 0.8),
        ]
    )
    crown = (500.0, cy - tall * 0.86)
    parts: list[Part] = []
    spread = rng.uniform(40, 52)
    order = ((-1.0, 300.0), (1.0, 300.0), (-0.42, 390.0), (0.46, 385.0), (0.0, 430.0))
    for turn, size in (
        order[: 5 if rng.random() < 0.6 else 4] if rng.random() < 0.8 else order[:2] + order[4:]
    ):
        angle = math.radians(-90 + turn * spread + rng.uniform(-5, 5))
        length = size * rng.uniform(0.88, 1.05)
        joint = (crown[0] + 0.28 * length * math.cos(angle), crown[1] + 0.28 * length * math.sin(angle))
        tip = (crown[0] + length * math.cos(angle), max(40.0, crown[1] + length * math.sin(angle)))
        bend = turn * 34
        parts.append(Form(limb([crown, joint], [36, 26]), "beet", joined=True))
        parts.append(Form(leaf(joint, tip, width=rng.uniform(118, 150), bend=bend, belly=0.5), "leaf"))
        parts.append(Mark(rib(joint, tip, bend=bend, reach=0.78), "beet", 0.9))
    parts.append(Form(root, "beet", decor=True))
    for k in range(2):
        y = cy + tall * (0.12 + 0.3 * k)
        half = wide * (0.5 - 0.16 * k)
        parts.append(
            Mark(
                stroke([(500 - half, y), (500, y + 26), (500 + half * 0.6, y + 16)]), "rose", 0.9, extra=True
            )
        )
    return parts


def watering_can(rng: Hand) -> list[Part]:
    """A watering can with a rose on its spout."""
    top, bottom = rng.uniform(125, 150), rng.uniform(165, 190)
    cx, y_top, y_bottom = 560.0, rng.uniform(400, 430), 815.0
    body = rounded(
        [(cx - top, y_top), (cx + top, y_top), (cx + bottom, y_bottom), (cx - bottom, y_bottom)], radius=26
    )
    reach = rng.uniform(95, 135)
    rise = rng.uniform(285, 340)
    spout = limb(
        [(cx - bottom + 40, y_bottom - 90), (cx - bottom - 70, y_bottom - 190), (reach + 75, rise + 30)],
        [92, 64, 48],
    )
    rose = rounded(
        [(reach + 10, rise + 92), (reach + 128, rise - 26), (reach + 30, rise - 72), (reach - 74, rise + 34)],
        radius=14,
    )
    handle = tube(
        [
            (cx + top - 12, y_top + 60),
            (cx + top + 150, y_top + 70),
            (cx + bottom + 130, y_bottom - 190),
            (cx + bottom - 18, y_bottom - 90),
        ],
        44,
    )
    bow = tube(
        [
            (cx - top + 28, y_top + 14),
            (cx - top + 42, y_top - 130),
            (cx, y_top - 185),
            (cx + top - 42, y_top - 130),
            (cx + top - 28, y_top + 14),
        ],
        44,
    )
    rim = rounded(
        [
            (cx - top - 22, y_top - 22),
            (cx + top + 22, y_top - 22),
            (cx + top + 22, y_top + 30),
            (cx - top - 22, y_top + 30),
        ],
        radius=22,
    )
    share = 0.3
    left = cx - top + (top - bottom) * share
    band = y_top + (y_bottom - y_top) * share
    return [
        Form(handle, "teal"),
        Form(bow, "teal"),
        Form(spout, "teal"),
        Form(rose, "ochre"),
        Form(body, "sky", decor=True),
        Form(rim, "teal"),
        Mark(stroke([(left + 22, band), (cx, band + 12), (2 * cx - left - 22, band)]), "cream", 0.9),
        Mark(
            stroke(
                [(cx - bottom + 46, y_bottom - 74), (cx, y_bottom - 60), (cx + bottom - 46, y_bottom - 74)]
            ),
            "cream",
            0.9,
        ),
    ]


def teapot(rng: Hand) -> list[Part]:
    """A round teapot."""
    rx, ry = rng.uniform(235, 268), rng.uniform(205, 235)
    cx, cy = 500.0, 590.0
    body = oval((cx, cy), rx, ry)
    foot = rounded(
        [
            (cx - 125, cy + ry - 34),
            (cx + 125, cy + ry - 34),
            (cx + 145, cy + ry + 26),
            (cx - 145, cy + ry + 26),
        ],
        radius=14,
    )
    lift = rng.uniform(-30, 40)
    spout = limb(
        [
            (cx - rx + 40, cy + 70),
            (cx - rx - 70, cy - 10),
            (cx - rx - 90, cy - 120 - lift),
            (cx - rx - 150, cy - 165 - lift),
        ],
        [110, 72, 52, 56],
    )
    handle = tube(
        [(cx + rx - 30, cy - 100), (cx + rx + 105, cy - 150), (cx + rx + 150, cy), (cx + rx - 20, cy + 105)],
        46,
    )
    lid_y = cy - ry * 0.82
    half = rng.uniform(125, 150)
    lid = blob(
        [
            (cx - half, lid_y + 14),
            (cx - half * 0.72, lid_y - 46),
            (cx, lid_y - 82),
            (cx + half * 0.72, lid_y - 46),
            (cx + half, lid_y + 14),
            (cx, lid_y + 26),
        ]
    )
    knob = oval((cx, lid_y - 104), rng.uniform(32, 42), rng.uniform(30, 38))
    parts: list[Part] = [
        Form(spout, "rust"),
        Form(handle, "rust"),
        Form(foot, "rust"),
        Form(body, "rose", decor=True),
        Form(lid, "rust"),
        Form(knob, "ochre"),
    ]
    if rng.random() < 0.6:
        petals = int(rng.integers(5, 7))
        for k in range(petals):
            angle = 2 * math.pi * k / petals - math.pi / 2
            center = (cx + 62 * math.cos(angle), cy + 30 + 62 * math.sin(angle))
            parts.append(Form(oval(center, 42, 25, turn_deg=math.degrees(angle)), "cream"))
        parts.append(Form(oval((cx, cy + 30), 27, 27), "ochre"))
    else:
        for offset in (-20, 60):
            wide = rx * math.sqrt(max(0.0, 1 - (offset / ry) ** 2)) - 34
            parts.append(
                Mark(
                    stroke([(cx - wide, cy + offset), (cx, cy + offset + 34), (cx + wide, cy + offset)]),
                    "cream",
                    1.0,
                )
            )
    return parts


def bean_pod(rng: Hand) -> list[Part]:
    """An open bean pod, beans in a row."""
    bow = rng.uniform(120, 210)
    count = int(rng.integers(4, 7))
    line = through(
        [
            (130, 370),
            (330, 370 + bow * 0.85),
            (560, 380 + bow * 1.15),
            (800, 330 + bow * 0.85),
            (900, 270 + bow * 0.3),
        ],
        closed=False,
        steps=30,
    )
    spine = [(float(x), float(y)) for x, y in line[:: len(line) // 12]]
    pod = limb(spine, [10, 90, 165, 190, 198, 195, 188, 176, 150, 100, 46, 14])
    lip = limb(spine[1:-1], [8, 66, 104, 116, 120, 118, 112, 100, 70, 14])
    lip = shapely.transform(lip, lambda p: p + np.array([4.0, -14.0]))
    parts: list[Part] = [Form(pod, "leaf"), Form(lip, "lime")]
    for share in np.linspace(0.22, 0.77, count):
        index = int(share * (len(line) - 1))
        (x, y), (u, v) = line[index], line[min(index + 4, len(line) - 1)]
        turn = math.degrees(math.atan2(v - y, u - x))
        parts.append(
            Form(
                oval(
                    (x + 4, y - 14),
                    rng.uniform(44, 52) * min(1.15, 5.2 / count),
                    rng.uniform(36, 43),
                    turn_deg=turn,
                ),
                "rose",
            )
        )
    stalk = limb([(150, 385), (105, 330), (70, 300 - rng.uniform(0, 60))], [34, 24, 26])
    cap = leaf((135, 372), (250, 330 + bow * 0.2), width=64, bend=-14)
    return [Form(stalk, "brown"), *parts, Form(cap, "brown")]


def wheelbarrow(rng: Hand) -> list[Part]:
    """A wheelbarrow with a heap in it."""
    wheel_r = rng.uniform(112, 132)
    wx, wy = 245.0, 830 - wheel_r
    tray_top = rng.uniform(425, 460)
    tray = rounded(
        [(215, tray_top), (735, tray_top), (640, tray_top + 225), (355, tray_top + 225)], radius=24
    )
    shaft = tube([(wx, wy), (500, tray_top + 232), (760, tray_top + 60), (930, tray_top + 5)], 40)
    grip = limb([(862, tray_top + 22), (940, tray_top + 2)], [58, 56])
    leg = tube([(590, tray_top + 190), (640, 745), (662, 824)], 40)
    shoe = rounded([(606, 802), (730, 802), (730, 838), (606, 838)], radius=14)
    tyre = oval((wx, wy), wheel_r, wheel_r).difference(oval((wx, wy), wheel_r - 38, wheel_r - 38))
    parts: list[Part] = []
    heap = blob(
        [
            (250, tray_top + 30),
            (300, tray_top - 60),
            (390, tray_top - 105),
            (470, tray_top - rng.uniform(110, 160)),
            (570, tray_top - 115),
            (650, tray_top - 60),
            (700, tray_top + 30),
            (480, tray_top + 80),
        ]
    )
    parts.append(Form(heap, "brown"))
    sprouts = [(400.0, -18.0), (480.0, 4.0), (565.0, 16.0)][: int(rng.integers(2, 4))]
    for x, lean in sprouts:
        root = (x, tray_top - 80)
        for side in (-1, 1):
            tip = (x + lean + side * 74, tray_top - 235 - rng.uniform(0, 35))
            parts.append(Form(leaf(root, tip, width=58, bend=side * -16), "leaf"))
    spokes = [
        Form(
            limb(
                [(wx, wy), (wx + (wheel_r - 26) * math.cos(a), wy + (wheel_r - 26) * math.sin(a))], [22, 20]
            ),
            "brown",
            joined=True,
        )
        for a in np.radians(np.arange(6) * 60 + rng.uniform(0, 60))
    ]
    parts += [
        Form(leg, "brown"),
        Form(shoe, "brown", joined=True),
        Form(shaft, "brown"),
        Form(tray, "teal", decor=True),
        Form(
            rounded(
                [(186, tray_top - 22), (764, tray_top - 22), (764, tray_top + 24), (186, tray_top + 24)],
                radius=20,
            ),
            "teal",
        ),
        Form(grip, "rust"),
        Form(tyre, "dark"),
        *spokes,
        Form(oval((wx, wy), 30, 30), "dark", joined=True),
    ]
    seam = tray_top + 124
    parts.append(Mark(stroke([(315, seam), (480, seam + 8), (640, seam)]), "cream", 0.9))
    return parts
