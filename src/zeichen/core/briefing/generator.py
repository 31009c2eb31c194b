"""What is asked of a picture generator, and the shape every generator has."""

from dataclasses import dataclass, field
from enum import StrEnum
from typing import Protocol

from zeichen.core.briefing.style import Look, Manner, PictureFormat
from zeichen.core.raster.picture import Picture
from zeichen.core.values import require_number


class Reach(StrEnum):
    """How far a variation goes from the picture it starts from."""

    NEAR = "near"
    FAR = "far"


@dataclass(frozen=True, slots=True)
class Variation:
    """One step away from a picture, small or large; the seed says in which direction."""

    reach: Reach
    seed: int

    def __post_init__(self) -> None:
        require_number(self.seed, "Seed", least=0, most=2**32 - 1)


@dataclass(frozen=True, slots=True)
class SketchOrder:
    """One picture to draw. The same order always gives the same picture.

    size_px: the longer side. variations: steps from the picture that the seed alone gives, in order.
    """

    subject: str
    look: Look
    seed: int
    wording: str = ""
    size_px: int = 1024
    pose: str = ""
    format: PictureFormat = PictureFormat.SQUARE
    manner: Manner = field(default_factory=Manner)
    variations: tuple[Variation, ...] = ()

    def __post_init__(self) -> None:
        require_number(self.seed, "Seed", least=0, most=2**32 - 1)
        require_number(self.size_px, "Picture size", least=64, most=4096, unit="px")


class Generator(Protocol):
    """Draws pictures from orders."""

    @property
    def name(self) -> str:
        """Return the name that is kept with each sketch."""
        ...

    @property
    def licence(self) -> str:
        """Return the note on rights that is kept with each sketch."""
        ...

    def draw(self, order: SketchOrder) -> Picture:
        """Return the picture; InvalidInputError if the generator cannot draw the subject."""
        ...
