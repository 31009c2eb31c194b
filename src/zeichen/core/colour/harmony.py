"""Palettes by harmony: hues in fixed relations, each colour as light as it was."""

import random

from zeichen.core.colour.spaces import from_polar, polar
from zeichen.core.errors import InvalidInputError

# Hues away from the first one, degrees. The relations are those of the colour wheel (common practice, no source).
HARMONIES: dict[str, tuple[float, ...]] = {
    "complementary": (0.0, 180.0),
    "analogous": (0.0, 30.0, -30.0),
    "triadic": (0.0, 120.0, 240.0),
    "split": (0.0, 150.0, 210.0),
    "tetradic": (0.0, 90.0, 180.0, 270.0),
    "monochrome": (0.0,),
}
# Chroma below this is a grey, and stays one.
GREY = 0.03
_CHROMA = (0.07, 0.15)
# Lighter than this is paper.
_PAPER = 0.95


def harmonised(colours: list[str], harmony: str, *, seed: int = 0) -> dict[str, str]:
    """Return for each colour what it becomes in a harmony; the same seed gives the same palette.

    Every colour keeps its lightness, so their order from dark to light stays; greys stay greys where there are colours.

    Parameters
    ----------
    colours : list of #rrggbb, the largest area first
        It gets the first hue, the next one the next.
    harmony : str
        One of HARMONIES.

    Raises
    ------
    InvalidInputError
        If there is no such harmony.
    """
    if harmony not in HARMONIES:
        raise InvalidInputError(f"There is no harmony {harmony}. Known are: {', '.join(HARMONIES)}.")
    rng = random.Random(seed)
    base, chroma = rng.uniform(0.0, 360.0), rng.uniform(*_CHROMA)
    steps = HARMONIES[harmony]
    out: dict[str, str] = {}
    number = 0
    changed = changing(colours)
    for colour in colours:
        lightness = polar(colour)[0]
        if colour not in changed:
            out[colour] = colour
            continue
        hue = base + steps[number % len(steps)]
        # A second round through the hues is paler, so that no two colours of one hue look the same.
        out[colour] = from_polar(lightness, chroma * 0.75 ** (number // len(steps)), hue)
        number += 1
    return in_order(out)


def changing(colours: list[str]) -> set[str]:
    """Return the colours that a new palette changes: greys stay, unless there is nothing else but paper."""
    bright = {colour for colour in colours if polar(colour)[1] >= GREY}
    return bright or {colour for colour in colours if polar(colour)[0] < _PAPER}


def in_order(change: dict[str, str]) -> dict[str, str]:
    """Return a change of colours in which no two of different lightness became the same or changed places."""
    ranked = sorted(change, key=lambda colour: polar(colour)[0])
    out = dict(change)
    last = -1.0
    for colour in ranked:
        wanted, chroma, hue = polar(out[colour])
        got = wanted
        # Rounding to 8 bits may swap neighbours: a step lighter, as often as it takes.
        while got <= last and wanted < 1.0:
            wanted = min(1.0, max(wanted, last) + 0.004)
            out[colour] = from_polar(wanted, chroma, hue)
            got = polar(out[colour])[0]
        last = max(last, got)
    return out
