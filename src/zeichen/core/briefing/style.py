"""House style: what keeps a set looking like one hand, and how it is handed to a generator.

A line weight belongs to a finished piece, in mm. A generator knows only its picture, so there it becomes
a share of the picture's longer side; a figure is taken to fill `FIGURE_SHARE` of it (our own rule).
"""

from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING

from zeichen.core.values import require_number, require_palette

if TYPE_CHECKING:
    from zeichen.core.raster.style_reading import StyleReading

FIGURE_SHARE = 0.84
MOST_COLOURS = 12
# Length drawn over the square root of the outlined area, where plain, some and rich detail part: from
# figures drawn at the three levels, which overlap widely (own measurement).
_PLAIN_BELOW, _RICH_ABOVE = 7.0, 14.0


class Look(StrEnum):
    """The looks of a house style."""

    SILHOUETTE = "silhouette"
    LINE = "line"
    FLAT = "flat"
    STENCIL = "stencil"
    INK = "ink"


class Detail(StrEnum):
    """How much is drawn inside a figure."""

    PLAIN = "plain"
    SOME = "some"
    RICH = "rich"


class PictureFormat(StrEnum):
    """Shape of a picture; the sides of landscape and portrait are as 4 to 3."""

    SQUARE = "square"
    LANDSCAPE = "landscape"
    PORTRAIT = "portrait"

    def size_px(self, longer_px: int) -> tuple[int, int]:
        """Return width and height.

        Examples
        --------
        >>> PictureFormat.PORTRAIT.size_px(1024)
        (768, 1024)
        """
        shorter = round(longer_px * 0.75)
        if self is PictureFormat.LANDSCAPE:
            return longer_px, shorter
        return (shorter if self is PictureFormat.PORTRAIT else longer_px), longer_px


@dataclass(frozen=True, slots=True)
class Manner:
    """The hand a picture is drawn in; None leaves it to the generator.

    line_share: line weight as a share of the picture's longer side; corner_share: radius of its corners
    likewise; colours: most colours of a flat drawing; palette: #rrggbb.
    """

    line_share: float | None = None
    corner_share: float | None = None
    detail: Detail | None = None
    colours: int | None = None
    palette: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if self.line_share is not None:
            require_number(self.line_share, "Line weight", least=0.002, most=0.12, unit="of the picture")
        if self.corner_share is not None:
            require_number(self.corner_share, "Corner radius", least=0, most=0.2, unit="of the picture")
        if self.colours is not None:
            require_number(self.colours, "Number of colours", least=1, most=MOST_COLOURS)
        require_palette(self.palette, most=MOST_COLOURS)


@dataclass(frozen=True, slots=True)
class HouseStyle:
    """A set's look; line_mm is measured on the finished piece, None is the look's usual weight."""

    look: Look = Look.SILHOUETTE
    line_mm: float | None = None
    detail: Detail = Detail.SOME
    colours: int | None = None
    palette: tuple[str, ...] = ()
    format: PictureFormat = PictureFormat.SQUARE

    def __post_init__(self) -> None:
        if self.line_mm is not None:
            require_number(self.line_mm, "Line weight", least=0.05, most=50, unit="mm")
        if self.colours is not None:
            require_number(self.colours, "Number of colours", least=1, most=MOST_COLOURS)
        require_palette(self.palette, most=MOST_COLOURS)

    def line_share(self, *, width_mm: float) -> float | None:
        """Return the line weight as a share of the picture, for a figure finished that wide.

        Examples
        --------
        >>> round(HouseStyle(line_mm=2.0).line_share(width_mm=80.0), 3)
        0.021
        """
        if self.line_mm is None:
            return None
        share = self.line_mm / require_number(width_mm, "Width", above=0, unit="mm") * FIGURE_SHARE
        return min(max(share, 0.002), 0.12)

    def manner(self, *, width_mm: float, reference: "StyleReading | None" = None) -> Manner:
        """Return the hand to draw in; what was measured from a reference goes before the style's own."""
        own = Manner(
            self.line_share(width_mm=width_mm),
            None,
            None if self.detail is Detail.SOME else self.detail,
            self.colours,
            self.palette,
        )
        return own if reference is None else manner_after(reference, own)


def manner_after(reading: "StyleReading", own: Manner | None = None) -> Manner:
    """Return the hand of a picture that was measured; what it does not show comes from `own`."""
    own = own or Manner()
    line = None if reading.line_share is None else min(max(reading.line_share, 0.002), 0.12)
    corner = None if reading.corner_share is None else min(reading.corner_share, 0.2)
    palette = reading.palette[:MOST_COLOURS] or own.palette
    return Manner(
        line if line is not None else own.line_share,
        corner if corner is not None else own.corner_share,
        detail_of(reading.detail),
        len(palette) or own.colours,
        palette,
    )


def detail_of(reading: float) -> Detail:
    """Return the level of detail that a measured one belongs to."""
    if reading < _PLAIN_BELOW:
        return Detail.PLAIN
    return Detail.RICH if reading > _RICH_ABOVE else Detail.SOME
