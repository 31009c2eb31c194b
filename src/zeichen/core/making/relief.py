"""Relief: the drawing raised on a base, as watertight solids.

All parts share one origin: the base's lower left corner at (0, 0, 0).
"""

from dataclasses import dataclass
from enum import StrEnum

import manifold3d
import numpy as np
import shapely
from shapely.geometry import MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

from zeichen.core.errors import InvalidInputError
from zeichen.core.formats.stl import write_stl
from zeichen.core.formats.threemf import write_3mf
from zeichen.core.geometry.drawing import Drawing
from zeichen.core.geometry.mesh import Mesh, Part
from zeichen.core.geometry.placement import at_true_size
from zeichen.core.geometry.polygons import as_multipolygon, drawing_area
from zeichen.core.making.product import MadeFile, Product, Reading
from zeichen.core.values import FloatArray, require_number

PLA_G_CM3 = 1.24  # from memory: data sheets of PLA filament
_TOLERANCE_MM = 0.01
# Necks thinner than this would touch in a single edge, which no solid may.
_OPENING_MM = 0.004


class BaseForm(StrEnum):
    """The base under the figure: a plate with rounded corners, or the figure's own outline grown."""

    PLATE = "plate"
    OUTLINE = "outline"


@dataclass(frozen=True, slots=True)
class ReliefSettings:
    """Heights in mm, both multiples of the layer height."""

    base_mm: float = 2.0
    raised_mm: float = 1.0
    layer_mm: float = 0.2
    margin_mm: float = 3.0
    form: BaseForm = BaseForm.PLATE
    density_g_cm3: float = PLA_G_CM3
    base_colour: str = "#e9e2d0"
    figure_colour: str = "#24272b"

    def __post_init__(self) -> None:
        require_number(
            self.layer_mm, "Layer height", least=0.04, most=1, unit="mm", advice="0.2 mm is usual."
        )
        for name, height_mm in (("Base height", self.base_mm), ("Raised height", self.raised_mm)):
            require_number(height_mm, name, above=0, most=200, unit="mm")
            layers = height_mm / self.layer_mm
            if abs(layers - round(layers)) > 1e-6 or round(layers) < 1:
                below = max(1, int(layers)) * self.layer_mm
                raise InvalidInputError(
                    f"{name} must be a multiple of the {self.layer_mm:g} mm layer height; got {height_mm:g} mm. "
                    f"Try {below:g} or {below + self.layer_mm:g} mm."
                )
        require_number(self.margin_mm, "Margin", least=0, most=200, unit="mm")
        require_number(self.density_g_cm3, "Density", above=0, most=25, unit="g/cm³")


def relief_parts(drawing: Drawing, settings: ReliefSettings, *, width_mm: float) -> list[Part]:
    """Return base and figure as separate watertight solids that share one face."""
    base, figure = _outlines(drawing, settings, width_mm=width_mm)
    return [
        Part("base", settings.base_colour, _extruded(base, 0.0, settings.base_mm)),
        Part(
            "figure",
            settings.figure_colour,
            _extruded(figure, settings.base_mm, settings.base_mm + settings.raised_mm),
        ),
    ]


def relief_solid(drawing: Drawing, settings: ReliefSettings, *, width_mm: float) -> Mesh:
    """Return base and figure as one watertight solid."""
    base, figure = _outlines(drawing, settings, width_mm=width_mm)
    below = _manifold(base, 0.0, settings.base_mm)
    # Started inside the base, so that the union never has to judge two faces in the same plane.
    above = _manifold(figure, settings.base_mm / 2, settings.base_mm + settings.raised_mm)
    return _mesh(below + above)


def _outlines(
    drawing: Drawing, settings: ReliefSettings, *, width_mm: float
) -> tuple[MultiPolygon, MultiPolygon]:
    placed = at_true_size(drawing, width_mm=width_mm, margin_mm=settings.margin_mm)
    area = drawing_area(placed, tolerance=_TOLERANCE_MM)
    turned = shapely.transform(area, lambda p: np.stack([p[:, 0], placed.height - p[:, 1]], axis=1))
    opened = turned.buffer(-_OPENING_MM, join_style="mitre").buffer(_OPENING_MM, join_style="mitre")
    figure = as_multipolygon(shapely.set_precision(opened, 1e-4))
    if figure.is_empty:
        raise InvalidInputError("The drawing covers no area at this size: there is nothing to raise.")
    if settings.form is BaseForm.PLATE:
        radius = min(3.0, settings.margin_mm + 0.5, placed.width / 4, placed.height / 4)
        plate = shapely.box(radius, radius, placed.width - radius, placed.height - radius)
        base: BaseGeometry = plate.buffer(radius, quad_segs=24)
    else:
        grown = figure.buffer(max(settings.margin_mm, 0.2), quad_segs=24)
        base = shapely.union_all([Polygon(polygon.exterior) for polygon in as_multipolygon(grown).geoms])
        if len(as_multipolygon(base).geoms) > 1:
            base = shapely.union_all(
                [base, figure.convex_hull.buffer(max(settings.margin_mm, 0.2), quad_segs=24)]
            )
    return as_multipolygon(shapely.set_precision(base, 1e-4)), figure


def _manifold(area: MultiPolygon, bottom_mm: float, top_mm: float) -> manifold3d.Manifold:
    contours: list[FloatArray] = []
    for polygon in area.geoms:
        oriented = shapely.geometry.polygon.orient(polygon)
        contours.extend(
            shapely.get_coordinates(ring)[:-1] for ring in (oriented.exterior, *oriented.interiors)
        )
    section = manifold3d.CrossSection(contours, manifold3d.FillRule.Positive)
    return manifold3d.Manifold.extrude(section, top_mm - bottom_mm).translate((0, 0, bottom_mm))


def _extruded(area: MultiPolygon, bottom_mm: float, top_mm: float) -> Mesh:
    return _mesh(_manifold(area, bottom_mm, top_mm))


def _mesh(solid: manifold3d.Manifold) -> Mesh:
    mesh = solid.to_mesh()
    return Mesh(
        np.asarray(mesh.vert_properties, dtype=np.float64)[:, :3], np.asarray(mesh.tri_verts, dtype=np.int64)
    )


def make_relief(drawing: Drawing, settings: ReliefSettings, *, width_mm: float, title: str) -> Product:
    """Return a one-piece STL and a two-colour 3MF, with volume and mass printed solid."""
    solid = relief_solid(drawing, settings, width_mm=width_mm)
    parts = relief_parts(drawing, settings, width_mm=width_mm)
    size = solid.vertices_mm.max(axis=0) - solid.vertices_mm.min(axis=0)
    grams = solid.volume_mm3 / 1000 * settings.density_g_cm3
    return Product(
        files=(
            MadeFile("relief.stl", "model/stl", write_stl(solid, title=title)),
            MadeFile("relief.3mf", "model/3mf", write_3mf(parts, title=title)),
        ),
        readings=(
            Reading("Width", float(size[0]), "mm"),
            Reading("Height", float(size[1]), "mm"),
            Reading("Thickness", float(size[2]), "mm"),
            Reading("Layers", round((settings.base_mm + settings.raised_mm) / settings.layer_mm), ""),
            Reading("Colour changes", 1, ""),
            Reading("Volume", solid.volume_mm3 / 1000, "cm³"),
            Reading("Mass, printed solid", grams, "g"),
        ),
    )
