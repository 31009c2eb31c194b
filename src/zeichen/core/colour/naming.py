"""Colours as people write them: names of CSS, short and long hex."""

from tinycss2.color4 import parse_color

from zeichen.core.errors import InvalidInputError


def hex_of(text: str) -> str:
    """Return #rrggbb of an opaque colour written as #rrggbb, #rgb or a name of CSS Color 4.

    Raises
    ------
    InvalidInputError
        If it is none of these, or lets what lies below show through.

    Examples
    --------
    >>> hex_of("#0f8"), hex_of("Teal"), hex_of("#AA5500")
    ('#00ff88', '#008080', '#aa5500')
    """
    parsed = parse_color(text.strip())
    if parsed is None or isinstance(parsed, str) or (parsed.alpha is not None and parsed.alpha < 1):
        raise InvalidInputError(
            f"“{text.strip()}” is no colour. Write #rrggbb, #rgb or a name such as teal or goldenrod."
        )
    parts = (min(1.0, max(0.0, float(value or 0.0))) for value in parsed.to("srgb").coordinates)
    return "#" + "".join(f"{round(255 * part):02x}" for part in parts)
