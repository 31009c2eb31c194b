"""Contrast of a colour on another.

Source: W3C, Web Content Accessibility Guidelines 2.2, "contrast ratio" and "relative luminance".
"""

from zeichen.core.colour.spaces import linear
from zeichen.core.values import rgb_colours

# WCAG 2.2, success criterion 1.4.11: what is needed to make out a graphic.
LEAST = 3.0


def luminance(colour: str) -> float:
    """Return the relative luminance of a #rrggbb colour, 0-1."""
    red, green, blue = (float(v) for v in linear(rgb_colours([colour])[0]))
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def contrast(first: str, second: str) -> float:
    """Return the contrast ratio of two colours, 1 to 21.

    Examples
    --------
    >>> contrast("#000000", "#ffffff")
    21.0
    """
    one, other = luminance(first), luminance(second)
    return (max(one, other) + 0.05) / (min(one, other) + 0.05)


def readable_on(colour: str, ground: str) -> bool:
    """Return whether a colour can be made out on a ground."""
    return contrast(colour, ground) >= LEAST
