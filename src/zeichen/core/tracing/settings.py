"""What a maker chooses for a trace, and what comes out of it."""

from dataclasses import dataclass
from functools import cached_property

from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.geometry.drawing import Drawing, Path
from zeichen.core.methods import (
    CORNER_DEG,
    MIN_SPOT_PX2,
    TOLERANCE_PX,
    UNDERLAY_PX,
    AreaTone,
    Borders,
    Figure,
    Inside,
    Method,
    Shading,
    Strokes,
)
from zeichen.core.raster.even_light import even_light
from zeichen.core.raster.picture import Picture
from zeichen.core.tracing.deviation import Deviation, Veil, measure_deviation, measure_veil
from zeichen.core.tracing.inside_places import InsideAt, InsidePlace
from zeichen.core.values import Bytes8Array, FloatArray, require_number, require_palette


@dataclass(frozen=True, slots=True)
class TraceSettings:
    """What the maker chooses. Lengths in picture pixels.

    level: grey up to this is dark, 0-255; None finds it.
    min_spot_px2: areas (dark or light) smaller than this are dropped.
    tolerance_px: how far curves may leave the picture's boundary.
    corner_deg: turns sharper than this stay corners.
    invert: trace light on dark.
    even_light: even out the light first, for photos and scans with a shadow side.
    colours: for flats, how many colours the figure has, ground not counted; None proposes it.
    palette: for flats, the colours themselves as "#rrggbb"; empty finds them in the picture.
    keep_ground: for flats, draw the ground too.
    borders: for flats, whether areas lie side by side or reach under their neighbours.
    underlay_px: how far they reach under.
    shading: for flats, whether light and shade come in steps or are taken out; auto, with nothing said of what the
        drawing is for, is steps.
    figure: for solid, whether what is darker than the level is drawn, or all that is not ground; auto finds out, and
        with a level of the maker's own that is what counts.
    inside: for flats and whole figures, what becomes of enclosed places of the ground's colour; auto, with nothing said
        of what the drawing is for, leaves them open.
    turned_inside: points in those that are to be the other way.
    strokes: for centreline, whether lines are single strokes or the outlines of what they cover.
    tone: for shading taken out, whether an area gets its middle or its light tone.
    """

    method: Method = Method.SOLID
    level: int | None = None
    min_spot_px2: float = MIN_SPOT_PX2
    tolerance_px: float = TOLERANCE_PX
    corner_deg: float = CORNER_DEG
    invert: bool = False
    even_light: bool = False
    colours: int | None = None
    palette: tuple[str, ...] = ()
    keep_ground: bool = False
    borders: Borders = Borders.SIDE_BY_SIDE
    underlay_px: float = UNDERLAY_PX
    shading: Shading = Shading.AUTO
    tone: AreaTone = AreaTone.MIDDLE
    figure: Figure = Figure.AUTO
    inside: Inside = Inside.AUTO
    turned_inside: tuple[InsideAt, ...] = ()
    strokes: Strokes = Strokes.SINGLE

    def __post_init__(self) -> None:
        if self.colours is not None:
            require_number(self.colours, "Number of colours", least=1, most=30)
        require_palette(self.palette, most=31)
        require_number(self.underlay_px, "Underlay", least=0, most=200, unit="px")
        if self.level is not None:
            require_number(self.level, "Level", least=0, most=255, advice="0 is black, 255 is white.")
        require_number(self.min_spot_px2, "Smallest spot", least=0, most=1e7, unit="px²")
        FitSettings(tolerance_px=self.tolerance_px, corner_deg=self.corner_deg)


@dataclass(frozen=True)
class Trace:
    """A finished trace.

    curves, boundary: each fitted curve once, and the measured points that it was fitted to, px. inside: the places
    of the ground's colour that the figure encloses. shading: what became of it, None if the picture has none. figure:
    for solid, what was drawn.
    """

    drawing: Drawing
    level: int
    dropped_spots: int
    self_crossings: int
    gradient_share: float = 0.0
    curves: tuple[Path, ...] = ()
    boundary: tuple[FloatArray, ...] = ()
    inside: tuple[InsidePlace, ...] = ()
    shading: Shading | None = None
    figure: Figure = Figure.DARK

    @cached_property
    def deviation(self) -> Deviation:
        """How far the curves are from what they were fitted to, both ways; measured when first asked for."""
        return measure_deviation(
            list(self.curves), list(self.boundary), closed=[curve.closed for curve in self.curves]
        )

    def veil(self) -> Veil:
        """Return how far the drawing lies off the picture's boundary, place by place."""
        return measure_veil(list(self.curves), list(self.boundary))


def lit_grey(picture: Picture, settings: TraceSettings) -> Bytes8Array:
    """Return the picture's grey, (height, width), evenly lit if the settings ask for it."""
    grey = picture.grey()
    if not settings.even_light:
        return grey
    if settings.invert:
        # On a dark ground the light shows where the figure is; the ground's own grey is left.
        return grey
    return even_light(grey)
