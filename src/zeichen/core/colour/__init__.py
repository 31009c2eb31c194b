"""Colour as people see it: a perceptual space, harmonies, palettes from words, contrast."""

from zeichen.core.colour.contrast import contrast, readable_on
from zeichen.core.colour.harmony import HARMONIES, harmonised
from zeichen.core.colour.recolouring import by_map, fills, merged, recoloured, toned
from zeichen.core.colour.words import KNOWN_WORDS, from_words

__all__ = [
    "HARMONIES",
    "KNOWN_WORDS",
    "by_map",
    "contrast",
    "fills",
    "from_words",
    "harmonised",
    "merged",
    "readable_on",
    "recoloured",
    "toned",
]
