"""Palettes from words: materials, places, foods, weathers, times and moods, in English and German."""

import difflib
import re
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from zeichen.core.colour.harmony import changing, in_order
from zeichen.core.colour.spaces import from_polar, polar
from zeichen.core.errors import InvalidInputError

_PASSED_OVER = (
    " and with of the a an in on or like at by to for from some very more und mit von vom der die das den dem des "
    "ein eine einem einen am im auf oder wie bei zum zur sehr mehr "
)
# Endings that leave a word of the dictionary, or nearly so: frosty, reddish, snowy, leaves; frostig, Moose, rötlich.
_ENDINGS = (
    "", "s", "es", "y", "al", "ny", "ry", "ish", "dish", "ed", "en", "n", "e", "ly", "ing", "ies", "ves",
    "er", "em", "r", "ig", "ige", "iger", "iges", "igen", "igem", "lich", "liche", "licher", "liches", "lichen",
    "farben", "farbene", "haft", "isch", "ische", "ischer", "isches", "d", "de", "der", "des", "end", "ende", "ender",
    "ne", "ner", "nes",
)  # fmt: skip
# What a stem may have lost before its ending: rosy, icy; Kirsche, Rose; berries, leaves.
_LOST = ("", "e", "y", "f", "el", "er", "en", "n")
_UMLAUTS = {"ä": "a", "ö": "o", "ü": "u"}
_LEAST_STEM, _LEAST_PART = 3, 3
# Ways to lay one palette on a figure: how far the hues are moved on among the colours, factor of chroma, change of
# lightness. The first is what was said.
_WAYS: tuple[tuple[str, int, float, float], ...] = (
    ("", 0, 1.0, 0.0),
    ("other way round", -1, 1.0, 0.0),
    ("moved on", 1, 1.0, 0.0),
    ("quieter", 0, 0.6, 0.03),
    ("stronger", 0, 1.35, 0.0),
    ("darker", 0, 1.0, -0.07),
)


@dataclass(frozen=True, slots=True)
class Proposal:
    """One way to colour a figure: what it is called, and what each colour becomes."""

    said: str
    change: dict[str, str]


@dataclass(frozen=True, slots=True)
class Proposals:
    """Several ways to choose from, and the words that the dictionary does not have."""

    ways: tuple[Proposal, ...]
    unknown: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Meaning:
    """What a word says: hues with chroma, or a mood (factor of chroma, change of lightness, turn in degrees)."""

    anchors: tuple[tuple[float, float], ...] = ()
    moods: tuple[tuple[float, float, float], ...] = ()


def known_words() -> tuple[str, ...]:
    """Return every word of the dictionary, in order."""
    return tuple(sorted(_dictionary()))


def meaning_of(word: str) -> Meaning | None:
    """Return what a word says in any of its forms, or None.

    Examples
    --------
    >>> meaning_of("frostig") == meaning_of("frosty") == meaning_of("frost")
    True
    >>> meaning_of("moosgrün").anchors[-1] == meaning_of("green").anchors[0]
    True
    """
    word = word.lower()
    found = _form_of(word)
    if found is not None:
        return found
    # Two words in one: moosgrün, hellblau, skyblue.
    for cut in range(len(word) - _LEAST_PART, _LEAST_PART - 1, -1):
        first, second = _form_of(word[:cut]), _form_of(word[cut:])
        if first is not None and second is not None:
            return Meaning(first.anchors + second.anchors, first.moods + second.moods)
    return None


def from_words(colours: list[str], words: str) -> dict[str, str]:
    """Return for each colour what it becomes in a palette described in words: the first of proposals_from_words."""
    return proposals_from_words(colours, words).ways[0].change


def proposals_from_words(colours: list[str], words: str) -> Proposals:
    """Return several palettes described in words, as each would lie on a figure.

    Every colour keeps its place from dark to light; greys stay greys where there are colours. A word that the
    dictionary does not have is passed over as long as it has one.

    Parameters
    ----------
    colours : list of #rrggbb, the largest area first
    words : str
        For example "pale moss and honey", "frostiger Morgen".

    Raises
    ------
    InvalidInputError
        If the dictionary has none of the words (near ones are named).
    """
    said = [word for word in re.findall(r"[^\W\d_]+", words.lower()) if f" {word} " not in _PASSED_OVER]
    found = [(word, meaning_of(word)) for word in said]
    unknown = tuple(word for word, meaning in found if meaning is None)
    anchors = [anchor for _, meaning in found if meaning for anchor in meaning.anchors]
    moods = [mood for _, meaning in found if meaning for mood in meaning.moods]
    if not anchors and not moods:
        if not unknown:
            raise InvalidInputError("Say at least one colour or mood, for example: pale moss and honey.")
        near = difflib.get_close_matches(unknown[0], known_words(), 3, 0.5)
        hint = f"Near it: {', '.join(near)}." if near else "Say a colour, a material, a season or a mood."
        raise InvalidInputError(f"The dictionary has no word {unknown[0]}. {hint}")
    name = " ".join(words.split())
    ways: list[Proposal] = []
    for called, moved, factor, shift in _WAYS:
        turned = anchors[::-1] if moved < 0 else [*anchors[moved:], *anchors[:moved]]
        change = _laid(colours, turned, [*moods, (factor, shift, 0.0)])
        if all(change != way.change for way in ways):
            ways.append(Proposal(f"{name}, {called}" if called else name, change))
    return Proposals(tuple(ways), unknown)


def _laid(
    colours: list[str], anchors: list[tuple[float, float]], moods: list[tuple[float, float, float]]
) -> dict[str, str]:
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


@cache
def _dictionary() -> dict[str, Meaning]:
    words: dict[str, Meaning] = {}
    for line in _lines("words.txt"):
        pairs, *said = line.split(";")
        anchors = []
        for pair in pairs.split():
            hue, chroma = (float(value) for value in pair.split("/"))
            anchors.append((hue, chroma))
        for word in " ".join(said).split():
            words.setdefault(word, Meaning(anchors=tuple(anchors)))
    for line in _lines("moods.txt"):
        figures, *said = line.split(";")
        factor, shift, turn = (float(value) for value in figures.split())
        for word in " ".join(said).split():
            words.setdefault(word, Meaning(moods=((factor, shift, turn),)))
    return words


def _lines(name: str) -> list[str]:
    text = files("zeichen.core.colour").joinpath(name).read_text(encoding="utf-8")
    return [line for line in text.splitlines() if line and not line.startswith("#")]


@cache
def _form_of(word: str) -> Meaning | None:
    """Return what a word says, its endings taken off; None if the dictionary has no such word."""
    words = _dictionary()
    if word in words:
        return words[word]
    plain = "".join(_UMLAUTS.get(letter, letter) for letter in word)
    for stem_of in dict.fromkeys((word, plain)):
        for ending in _ENDINGS:
            if not stem_of.endswith(ending) or len(stem_of) - len(ending) < _LEAST_STEM:
                continue
            stem = stem_of[: len(stem_of) - len(ending)] if ending else stem_of
            for lost in _LOST:
                if stem + lost in words:
                    return words[stem + lost]
            # A doubled letter: sunny, foggy.
            if len(stem) > _LEAST_STEM and stem[-1] == stem[-2] and stem[:-1] in words:
                return words[stem[:-1]]
    return None
