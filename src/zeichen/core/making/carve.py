"""Carve: the drawing's exact outlines as DXF, true size."""

from dataclasses import dataclass

from zeichen.core.formats.dxf import Entity, write_dxf
from zeichen.core.geometry.drawing import Drawing
from zeichen.core.geometry.placement import at_true_size
from zeichen.core.making.product import MadeFile, Product, Reading
from zeichen.core.values import require_number


@dataclass(frozen=True, slots=True)
class CarveSettings:
    """How outlines are written: as splines, or as polylines within a tolerance in mm."""

    entity: Entity = Entity.SPLINE
    tolerance_mm: float = 0.01

    def __post_init__(self) -> None:
        require_number(self.tolerance_mm, "Tolerance", least=0.0005, most=5, unit="mm", advice="Try 0.01 mm.")


def make_carve(drawing: Drawing, settings: CarveSettings, *, width_mm: float) -> Product:
    """Return a DXF whose layer FIGURE holds every outline closed, in mm, y up, from the lower left corner."""
    placed = at_true_size(drawing, width_mm=width_mm)
    data = write_dxf({"FIGURE": placed}, entity=settings.entity, tolerance_mm=settings.tolerance_mm)
    return Product(
        files=(MadeFile("carve.dxf", "image/vnd.dxf", data),),
        readings=(
            Reading("Outlines", len(placed.paths), ""),
            Reading("Width", placed.width, "mm"),
            Reading("Height", placed.height, "mm"),
        ),
    )
