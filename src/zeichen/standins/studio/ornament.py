"""Ornament inside a form: dots, bands, an inner line, zigzags, scales, a sprig. Clear of the form's rim."""

import math
from collections.abc import Callable

import numpy as np
from shapely import affinity
from shapely.geometry import LineString, MultiLineString, Point
from shapely.geometry.base import BaseGeometry

from zeichen.standins.studio.hand import Hand
from zeichen.standins.studio.pen import Dot, Mark, Part, leaf

_TONE = "cream"


def adorn(tone: str, room: BaseGeometry, hand: Hand, *, weight: float, kind: str) -> list[Part]:
    """Return ornament on a form of some tone, within the room there is, in lines of the given weight."""
    if room.is_empty or room.area < (6 * weight) ** 2:
        return []
    light = "ochre" if tone == _TONE else _TONE
    parts: list[Part] = []
    for made in KINDS[kind](room, hand, weight):
        if made.geom_type in ("LineString", "MultiLineString"):
            parts += [Mark(line, light, 0.9) for line in _runs(made) if line.length > 1.5 * weight]
        else:
            parts.append(Dot(made, light))
    return parts


def _dots(room: BaseGeometry, hand: Hand, weight: float) -> list[BaseGeometry]:
    radius = weight * hand.uniform(0.75, 1.05)
    step = radius * hand.uniform(4.6, 6.0)
    spots = room.buffer(-radius)
    x0, y0, x1, y1 = room.bounds
    made: list[BaseGeometry] = []
    for row, y in enumerate(np.arange(y0 + step / 2, y1, step * 0.87)):
        for x in np.arange(x0 + (step / 2 if row % 2 else step), x1, step):
            if spots.contains(Point(x, y)):
                made.append(Point(x, y).buffer(radius, quad_segs=16))
    return made[:90]


def _bands(room: BaseGeometry, hand: Hand, weight: float) -> list[BaseGeometry]:
    x0, y0, x1, y1 = room.bounds
    count = hand.integers(2, 4)
    sag = hand.uniform(-0.04, 0.10) * (x1 - x0)
    made = []
    for k in range(count):
        y = y0 + (y1 - y0) * (0.32 + 0.36 * (k + 0.5) / count)
        t = np.linspace(-1, 1, 40)
        line = LineString(np.stack([(x0 + x1) / 2 + t * (x1 - x0) / 2, y + sag * (1 - t * t)], axis=1))
        made.append(line.intersection(room))
    return made


def _inner_line(room: BaseGeometry, _: Hand, weight: float) -> list[BaseGeometry]:
    inner = room.buffer(-0.9 * weight).buffer(0.4 * weight)
    rings = getattr(inner, "geoms", [inner])
    return [
        LineString(ring.exterior.coords) for ring in rings if not ring.is_empty and ring.length > 8 * weight
    ]


def _zigzag(room: BaseGeometry, hand: Hand, weight: float) -> list[BaseGeometry]:
    x0, y0, x1, y1 = room.bounds
    step = weight * hand.uniform(3.0, 4.2)
    rise = weight * hand.uniform(1.2, 2.0)
    made = []
    for share in (0.5,) if hand.random() < 0.5 else (0.4, 0.62):
        y = y0 + (y1 - y0) * share
        x = np.arange(x0 - step, x1 + step, step)
        line = LineString(np.stack([x, y + rise * (-1.0) ** np.arange(len(x))], axis=1))
        made.append(line.intersection(room))
    return made


def _scales(room: BaseGeometry, hand: Hand, weight: float) -> list[BaseGeometry]:
    radius = weight * hand.uniform(2.6, 3.6)
    x0, y0, x1, y1 = room.bounds
    made: list[BaseGeometry] = []
    angle = np.linspace(0.12 * math.pi, 0.88 * math.pi, 14)
    for row, y in enumerate(np.arange(y0 + radius, y1, radius * 1.7)):
        for x in np.arange(x0 + (radius * 1.25 if row % 2 else 0), x1 + radius, radius * 2.5):
            arc = LineString(np.stack([x + radius * np.cos(angle), y + radius * np.sin(angle)], axis=1))
            if room.contains(arc):
                made.append(arc)
    return made[:60]


def _sprig(room: BaseGeometry, hand: Hand, weight: float) -> list[BaseGeometry]:
    centre = room.representative_point()
    size = 0.78 * math.sqrt(room.area / math.pi)
    if size < 6 * weight:
        return []
    x, y = centre.x, centre.y
    made: list[BaseGeometry] = [LineString([(x, y + size), (x, y - size * 0.35)])]
    for side in (-1, 1):
        for k in range(2):
            base = (x + side * weight * 0.9, y + size * (0.62 - 0.62 * k))
            tip = (x + side * size * 0.72, base[1] - size * 0.5)
            made.append(leaf(base, tip, width=max(2.4 * weight, size * 0.26), bend=side * -size * 0.06))
    made.append(leaf((x, y - size * 0.42), (x, y - size), width=max(2.4 * weight, size * 0.28)))
    turned = [affinity.rotate(part, hand.uniform(-12, 12), origin=(x, y)) for part in made]
    return turned if all(room.contains(part) for part in turned) else []


KINDS: dict[str, Callable[[BaseGeometry, Hand, float], list[BaseGeometry]]] = {
    "dots": _dots,
    "bands": _bands,
    "inner line": _inner_line,
    "zigzag": _zigzag,
    "scales": _scales,
    "sprig": _sprig,
}


def _runs(made: BaseGeometry) -> list[LineString]:
    if isinstance(made, LineString):
        return [made]
    return (
        [line for line in made.geoms if isinstance(line, LineString)]
        if isinstance(made, MultiLineString)
        else []
    )
