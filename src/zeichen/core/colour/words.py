"""Palettes from words: a small dictionary of materials, places and moods. The hues are our own choice."""

import difflib
import re

from zeichen.core.colour.harmony import changing, in_order
from zeichen.core.colour.spaces import from_polar, polar
from zeichen.core.errors import InvalidInputError

# Word -> (hue in degrees, chroma) pairs of the perceptual space.
_HUES: dict[str, tuple[tuple[float, float], ...]] = {
    "moss": ((125.0, 0.09), (110.0, 0.07)),
    "meadow": ((135.0, 0.12), (100.0, 0.13), (20.0, 0.12)),
    "leaf": ((140.0, 0.12),),
    "clay": ((45.0, 0.09), (55.0, 0.06)),
    "brick": ((32.0, 0.12),),
    "rust": ((45.0, 0.12), (35.0, 0.10)),
    "honey": ((78.0, 0.13), (65.0, 0.11)),
    "straw": ((90.0, 0.08),),
    "wheat": ((85.0, 0.08), (75.0, 0.06)),
    "sand": ((80.0, 0.05), (70.0, 0.04)),
    "slate": ((250.0, 0.03), (240.0, 0.05)),
    "stone": ((85.0, 0.02), (250.0, 0.02)),
    "sea": ((225.0, 0.10), (195.0, 0.08)),
    "lake": ((235.0, 0.09),),
    "sky": ((240.0, 0.09), (230.0, 0.06)),
    "dusk": ((310.0, 0.09), (30.0, 0.10), (270.0, 0.08)),
    "dawn": ((45.0, 0.10), (10.0, 0.09), (85.0, 0.09)),
    "night": ((275.0, 0.07), (255.0, 0.06)),
    "plum": ((340.0, 0.11), (320.0, 0.09)),
    "berry": ((5.0, 0.14), (350.0, 0.12)),
    "beetroot": ((0.0, 0.14), (345.0, 0.10), (140.0, 0.10)),
    "rose": ((10.0, 0.12), (0.0, 0.08)),
    "lavender": ((300.0, 0.09), (290.0, 0.06)),
    "frost": ((225.0, 0.03), (210.0, 0.04)),
    "autumn": ((45.0, 0.13), (75.0, 0.12), (25.0, 0.12), (110.0, 0.08)),
    "spring": ((135.0, 0.13), (100.0, 0.14), (0.0, 0.10)),
    "summer": ((95.0, 0.15), (220.0, 0.11), (30.0, 0.15)),
    "winter": ((240.0, 0.06), (220.0, 0.03), (15.0, 0.10)),
    "oak": ((65.0, 0.07), (55.0, 0.05)),
    "walnut": ((50.0, 0.06), (60.0, 0.04)),
    "copper": ((50.0, 0.11), (180.0, 0.07)),
    "linen": ((85.0, 0.03), (70.0, 0.02)),
    "ink": ((265.0, 0.04),),
    "tea": ((65.0, 0.08), (90.0, 0.06)),
    "cherry": ((22.0, 0.17),),
    "lemon": ((105.0, 0.15),),
    "orchard": ((130.0, 0.11), (28.0, 0.14), (90.0, 0.12)),
    "marigold": ((65.0, 0.16),),
    "forest": ((150.0, 0.08), (130.0, 0.06), (60.0, 0.05)),
}
# Word -> (factor of chroma, change of lightness, turn of hue in degrees).
_MOODS: dict[str, tuple[float, float, float]] = {
    "pale": (0.6, 0.08, 0.0),
    "light": (0.9, 0.07, 0.0),
    "soft": (0.65, 0.04, 0.0),
    "dusty": (0.5, 0.02, 0.0),
    "muted": (0.5, 0.0, 0.0),
    "quiet": (0.6, 0.0, 0.0),
    "deep": (1.1, -0.08, 0.0),
    "dark": (0.9, -0.1, 0.0),
    "bright": (1.35, 0.03, 0.0),
    "vivid": (1.6, 0.0, 0.0),
    "bold": (1.4, -0.02, 0.0),
    "cheerful": (1.3, 0.04, 0.0),
    "warm": (1.0, 0.0, -12.0),
    "cool": (1.0, 0.0, 18.0),
    "faded": (0.45, 0.05, 0.0),
    "old": (0.6, -0.02, -5.0),
}
_PASSED_OVER = {"and", "with", "of", "the", "a", "an", "in", "on", "or", "like"}
KNOWN_WORDS = tuple(sorted({*_HUES, *_MOODS}))


def from_words(colours: list[str], words: str) -> dict[str, str]:
    """Return for each colour what it becomes in a palette described in words.

    Every colour keeps its place from dark to light; greys stay greys where there are colours.

    Parameters
    ----------
    colours : list of #rrggbb, the largest area first
    words : str
        For example "pale moss and honey".

    Raises
    ------
    InvalidInputError
        If a word is not in the dictionary (near ones are named), or none says a colour.
    """
    said = [word for word in re.findall(r"[a-zäöüß]+", words.lower()) if word not in _PASSED_OVER]
    unknown = [word for word in said if word not in _HUES and word not in _MOODS]
    if unknown:
        near = difflib.get_close_matches(unknown[0], KNOWN_WORDS, 3, 0.5)
        hint = f"Near it: {', '.join(near)}." if near else f"Known are: {', '.join(KNOWN_WORDS)}."
        raise InvalidInputError(f"The dictionary has no word {unknown[0]}. {hint}")
    anchors = [anchor for word in said for anchor in _HUES.get(word, ())]
    moods = [_MOODS[word] for word in said if word in _MOODS]
    if not anchors and not moods:
        raise InvalidInputError("Say at least one colour or mood, for example: pale moss and honey.")
    out: dict[str, str] = {}
    number = 0
    changed = changing(colours)
    for colour in colours:
        lightness, chroma, hue = polar(colour)
        if colour not in changed:
            out[colour] = colour
            continue
        if anchors:
            hue, chroma = anchors[number % len(anchors)]
            chroma *= 0.75 ** (number // len(anchors))
        for factor, shift, turn in moods:
            chroma, hue = chroma * factor, hue + turn
            lightness = lightness + shift * min(1.0, 4.0 * min(lightness, 1.0 - lightness))
        out[colour] = from_polar(lightness, chroma, hue)
        number += 1
    return in_order(out)
