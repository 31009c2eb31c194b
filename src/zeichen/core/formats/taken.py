"""What was taken of a file from elsewhere, and what was not."""

from dataclasses import dataclass
from typing import NamedTuple

from zeichen.core.geometry.drawing import Drawing


@dataclass(frozen=True, slots=True)
class LiveText:
    """Text that a file holds as letters: what it says, where its baseline begins and its size, in drawing units."""

    content: str
    x: float
    y: float
    size: float


class Taken(NamedTuple):
    """The drawing in a file; in words what the file holds and the drawing does not; its live text, word for word."""

    drawing: Drawing
    not_taken: list[str]
    texts: tuple[LiveText, ...] = ()


def text_line(texts: list[LiveText] | tuple[LiveText, ...]) -> list[str]:
    """Return what to say of live text that was left out: what it says, so that it can be set anew.

    Examples
    --------
    >>> text_line([LiveText("Tea", 0, 0, 9)])
    ['1 × live text: set it anew with Lettering (“Tea”)']
    """
    if not texts:
        return []
    said = [f"“{text.content[:60]}{'…' if len(text.content) > 60 else ''}”" for text in texts[:6]]
    more = f" and {len(texts) - 6} more" if len(texts) > 6 else ""
    return [f"{len(texts)} × live text: set it anew with Lettering ({', '.join(said)}{more})"]
