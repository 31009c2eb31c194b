"""Colour as people see it: a perceptual space, harmonies, palettes from words, contrast."""

from zeichen.core.colour.contrast import contrast, readable_on
from zeichen.core.colour.harmony import HARMONIES, harmonised
from zeichen.core.colour.recolouring import by_map, fills, merged, recoloured, toned
from zeichen.core.colour.words import from_words, known_words, proposals_from_words

__all__ = [
    "HARMONIES",
    "by_map",
    "contrast",
    "fills",
    "from_words",
    "harmonised",
    "known_words",
    "merged",
    "proposals_from_words",
    "readable_on",
    "recoloured",
    "toned",
]
