"""Where a marker stands on its path, and which way it faces (SVG 2, section 13.7)."""

import math

from zeichen.core.formats.foreign.outlines import Vertex
from zeichen.core.formats.foreign.values import length_px, number_or


def reference_place(text: str | None, size: float, first: str, last: str) -> float:
    """Return refX or refY of a marker: a length, or one of the words for its sides and its middle."""
    word = (text or "0").strip()
    shares = {first: 0.0, "center": 0.5, last: 1.0}
    if word in shares:
        return shares[word] * size
    return length_px(word, font_px=16.0, whole=size, default=0.0)


def facing(orient: str, key: str, vertex: Vertex) -> float:
    """Return the angle a marker is turned by, radians."""
    word = orient.strip()
    if not word.startswith("auto"):
        if word.endswith("rad") and not word.endswith("grad"):
            return number_or(word[:-3], 0.0)
        if word.endswith("turn"):
            return number_or(word[:-4], 0.0) * 2.0 * math.pi
        if word.endswith("grad"):
            return number_or(word[:-4], 0.0) * math.pi / 200.0
        return math.radians(number_or(word.removesuffix("deg"), 0.0))
    ways = [way for way in (vertex.coming, vertex.going) if way is not None]
    if not ways:
        return 0.0
    angles = [math.atan2(y, x) for x, y in ways]
    turn = angles[0]
    if len(angles) == 2:
        # Half way between the two, the short way round.
        turn += math.remainder(angles[1] - angles[0], 2.0 * math.pi) / 2.0
    return turn + (math.pi if word == "auto-start-reverse" and key == "marker-start" else 0.0)
