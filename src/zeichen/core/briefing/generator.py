"""What is asked of a picture generator, and the shape every generator has."""

from dataclasses import dataclass
from enum import StrEnum
from typing import Protocol

from zeichen.core.raster.picture import Picture
from zeichen.core.values import require_number


class Look(StrEnum):
    """The three looks of a house style."""

    SILHOUETTE = "silhouette"
    LINE = "line"
    FLAT = "flat"


@dataclass(frozen=True, slots=True)
class SketchOrder:
    """One picture to draw. The same order always gives the same picture."""

    subject: str
    look: Look
    seed: int
    wording: str = ""
    size_px: int = 1024

    def __post_init__(self) -> None:
        require_number(self.seed, "Seed", least=0, most=2**32 - 1)
        require_number(self.size_px, "Picture size", least=64, most=4096, unit="px")


class Generator(Protocol):
    """Draws pictures from orders."""

    @property
    def name(self) -> str:
        """Return the name that is kept with each sketch."""
        ...

    def draw(self, order: SketchOrder) -> Picture:
        """Return the picture; InvalidInputError if the generator cannot draw the subject."""
        ...
