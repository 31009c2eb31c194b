"""Changing the colours of a drawing and nothing else."""

from dataclasses import replace

from zeichen.core.colour.merging import merged_colours
from zeichen.core.colour.naming import hex_of
from zeichen.core.colour.spaces import from_polar, polar
from zeichen.core.errors import InvalidInputError
from zeichen.core.geometry.drawing import Drawing
from zeichen.core.values import require_palette

_MOST = 2048


def fills(drawing: Drawing) -> dict[str, float]:
    """Return each colour's share of the painted area, the largest first."""
    areas: dict[str, float] = {}
    for shape in drawing.shapes:
        if shape.node_count:
            colour = shape.fill.lower()
            areas[colour] = areas.get(colour, 0.0) + shape.area
    total = sum(areas.values()) or 1.0
    return {colour: areas[colour] / total for colour in sorted(areas, key=lambda name: -areas[name])}


def recoloured(drawing: Drawing, change: dict[str, str]) -> Drawing:
    """Return the drawing with some colours changed into others; order, shapes and paths stay.

    Raises
    ------
    InvalidInputError
        If a colour is not one of the drawing's, or no #rrggbb.
    """
    lower = {old.lower(): new.lower() for old, new in change.items()}
    require_palette([*lower, *lower.values()], most=_MOST)
    known = fills(drawing)
    unknown = sorted(set(lower) - set(known))
    if unknown:
        raise InvalidInputError(
            f"The drawing has no colour {unknown[0]}. Its colours are: {', '.join(known)}."
        )
    shapes = tuple(replace(shape, fill=lower.get(shape.fill.lower(), shape.fill)) for shape in drawing.shapes)
    return replace(drawing, shapes=shapes)


def by_map(text: str) -> dict[str, str]:
    """Return a change of colours from text such as "#aa5500=#3e7b4f, black=teal, #fff=#f4e9d0".

    Raises
    ------
    InvalidInputError
        If a part is no pair, or names no colour.

    Examples
    --------
    >>> by_map("#aa5500=#3e7b4f, black=#fff")
    {'#aa5500': '#3e7b4f', '#000000': '#ffffff'}
    """
    change: dict[str, str] = {}
    for part in (piece.strip() for piece in text.split(",")):
        old, equals, new = (word.strip() for word in part.partition("="))
        if not (old and equals and new):
            raise InvalidInputError(f"Write pairs like #aa5500=#3e7b4f, separated by commas; got {part!r}.")
        change[hex_of(old)] = hex_of(new)
    return change


def toned(colours: list[str], *, lightness: float = 0.0, chroma: float = 1.0) -> dict[str, str]:
    """Return for each colour what it becomes lighter (below 0: darker) and with more or less colour.

    Parameters
    ----------
    lightness : float
        -1 to 1; colours near black and white move less, so that none is lost.
    chroma : float
        Factor, 0 (greys) to 3.

    Raises
    ------
    InvalidInputError
        If either is out of range.
    """
    if not -1.0 <= lightness <= 1.0 or not 0.0 <= chroma <= 3.0:
        raise InvalidInputError("Lighter goes from -1 to 1, more colour from 0 to 3.")
    out = {}
    for colour in colours:
        light, own, hue = polar(colour)
        room = 1.0 - light if lightness > 0 else light
        out[colour] = from_polar(light + lightness * room, own * chroma, hue)
    return out


def merged(drawing: Drawing, *, most: int) -> Drawing:
    """Return the drawing with its nearest colours merged until no more than so many are left."""
    if most < 1:
        raise InvalidInputError(f"At least one colour must be left; got {most}.")
    return recoloured(drawing, merged_colours(fills(drawing), most=most))
