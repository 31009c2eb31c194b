"""Apparel: a print file of 15 x 18 in at 300 dpi with a transparent ground (common practice, no source)."""

from dataclasses import dataclass

import numpy as np

from zeichen.core.errors import InvalidInputError
from zeichen.core.formats.picture import MM_PER_INCH, write_png
from zeichen.core.formats.render import render_drawing
from zeichen.core.geometry.drawing import Drawing
from zeichen.core.geometry.placement import at_true_size
from zeichen.core.making.product import MadeFile, Product, Reading
from zeichen.core.values import FloatArray, require_number


@dataclass(frozen=True, slots=True)
class ApparelSettings:
    """The print area in inches, its resolution, and how far below its top edge the figure starts."""

    area_width_in: float = 15.0
    area_height_in: float = 18.0
    resolution_dpi: float = 300.0
    top_mm: float = 40.0

    def __post_init__(self) -> None:
        require_number(self.area_width_in, "Print area width", above=0, most=40, unit="in")
        require_number(self.area_height_in, "Print area height", above=0, most=40, unit="in")
        require_number(self.resolution_dpi, "Resolution", least=36, most=600, unit="dpi")
        require_number(self.top_mm, "Distance from the top", least=0, most=1000, unit="mm")


def make_apparel(drawing: Drawing, settings: ApparelSettings, *, width_mm: float) -> Product:
    """Return the print file: the figure at true size, centred, on a transparent ground, sRGB.

    Raises
    ------
    InvalidInputError
        If the figure is larger than the print area.
    """
    area_mm = (settings.area_width_in * MM_PER_INCH, settings.area_height_in * MM_PER_INCH)
    placed = at_true_size(drawing, width_mm=width_mm)
    if placed.width > area_mm[0] + 1e-6 or placed.height > area_mm[1] + 1e-6:
        raise InvalidInputError(
            f"The figure is {placed.width:.0f} x {placed.height:.0f} mm, larger than the "
            f"{area_mm[0]:.0f} x {area_mm[1]:.0f} mm print area. Make it smaller."
        )
    left_mm = (area_mm[0] - placed.width) / 2
    top_mm = min(settings.top_mm, area_mm[1] - placed.height)

    px_per_mm = settings.resolution_dpi / MM_PER_INCH

    def change(points: FloatArray) -> FloatArray:
        return np.asarray((points + np.array([left_mm, top_mm])) * px_per_mm)

    # The sheet is laid out in whole print pixels, so that no renderer has to round its size.
    width_px = round(settings.area_width_in * settings.resolution_dpi)
    height_px = round(settings.area_height_in * settings.resolution_dpi)
    sheet = placed.moved(change, width=width_px, height=height_px)
    rgba = render_drawing(sheet, width_px=width_px)
    data = write_png(rgba, dpi=settings.resolution_dpi, srgb=True)
    inked = float((rgba[..., 3] > 0).mean())
    return Product(
        files=(MadeFile("apparel.png", "image/png", data),),
        readings=(
            Reading("Width", rgba.shape[1], "px"),
            Reading("Height", rgba.shape[0], "px"),
            Reading("Resolution", settings.resolution_dpi, "dpi"),
            Reading("Figure width", placed.width, "mm"),
            Reading("Figure height", placed.height, "mm"),
            Reading("Inked share", inked * 100, "%"),
        ),
    )
