"""Laser: engraved areas, cut lines, G-code and SVG.

Machine frame: mm, x right, y up, origin at the lower left of the blank. Engraving comes before
cutting and inner cuts before outer ones, because a piece that is cut free may move (common
practice, no source).
"""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
import shapely
from shapely.geometry import LineString, MultiPolygon, Point, Polygon
from shapely.geometry.base import BaseGeometry

from zeichen.core.errors import InvalidInputError
from zeichen.core.formats.gcode import GcodeWriter
from zeichen.core.formats.svg import Layer, write_svg
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.placement import at_true_size
from zeichen.core.geometry.polygons import as_multipolygon, drawing_area, is_light, path_from_ring
from zeichen.core.making.product import MadeFile, Product, Reading
from zeichen.core.values import FloatArray, require_number

_TOLERANCE_MM = 0.01
_MOST_SCAN_LINES = 40_000


class CutLine(StrEnum):
    """What is cut through: nothing, the figure's own outlines, or a tag around the figure."""

    NONE = "none"
    SHAPES = "shapes"
    AROUND = "around"


@dataclass(frozen=True, slots=True)
class LaserSettings:
    """How the laser works. Speeds in mm/s, power in % of the tube.

    spacing_mm: between engraved lines; lines per inch = 25.4 / spacing.
    kerf_mm: width of a cut; outer contours grow and holes shrink by half of it.
    margin_mm: tag border around the figure. hole_mm: diameter of a hanging hole, 0 for none.
    """

    engrave: bool = True
    cut: CutLine = CutLine.AROUND
    spacing_mm: float = 0.1
    engrave_speed_mm_s: float = 280.0
    engrave_power_percent: float = 36.0
    cut_speed_mm_s: float = 11.0
    cut_power_percent: float = 82.0
    cut_passes: int = 1
    kerf_mm: float = 0.16
    margin_mm: float = 4.0
    hole_mm: float = 0.0
    acceleration_mm_s2: float = 4200.0

    def __post_init__(self) -> None:
        require_number(self.spacing_mm, "Line spacing", least=0.02, most=5, unit="mm")
        for name, value in (
            ("Engraving speed", self.engrave_speed_mm_s),
            ("Cutting speed", self.cut_speed_mm_s),
        ):
            require_number(value, name, above=0, most=5000, unit="mm/s")
        for name, value in (
            ("Engraving power", self.engrave_power_percent),
            ("Cutting power", self.cut_power_percent),
        ):
            require_number(value, name, above=0, most=100, unit="%")
        require_number(self.cut_passes, "Passes", least=1, most=50)
        require_number(
            self.kerf_mm, "Kerf", least=0, most=2, unit="mm", advice="Enter the measured width of the cut."
        )
        require_number(self.margin_mm, "Margin", least=0, most=500, unit="mm")
        require_number(self.hole_mm, "Hanging hole", least=0, most=50, unit="mm")
        require_number(self.acceleration_mm_s2, "Acceleration", above=0, most=100_000, unit="mm/s²")
        if not self.engrave and self.cut is CutLine.NONE:
            raise InvalidInputError("The laser has nothing to do: engrave, cut, or both must be on.")

    @property
    def run_out_mm(self) -> float:
        """Distance the head needs to reach engraving speed: v² / (2 a)."""
        return self.engrave_speed_mm_s**2 / (2 * self.acceleration_mm_s2)


@dataclass(frozen=True, slots=True)
class LaserPlan:
    """What the laser will do, in machine coordinates; `page` is the drawing on its page, y down."""

    figure: MultiPolygon
    page: Drawing
    scan_lines: list[tuple[float, list[tuple[float, float]]]]
    cuts: list[FloatArray]


def plan_laser(
    drawing: Drawing, settings: LaserSettings, *, width_mm: float, blank_mm: tuple[float, float] | None = None
) -> LaserPlan:
    """Return scan lines and cut contours at true size, centred on the blank if there is one.

    Raises
    ------
    InvalidInputError
        If the drawing is empty or does not fit the blank.
    """
    placed = at_true_size(drawing, width_mm=width_mm)
    area = drawing_area(placed, tolerance=_TOLERANCE_MM)
    if area.is_empty:
        raise InvalidInputError("The drawing covers no area: there is nothing to engrave or cut.")
    figure = shapely.transform(area, lambda p: np.stack([p[:, 0], placed.height - p[:, 1]], axis=1))
    cuts = _cut_contours(as_multipolygon(figure), settings)
    corners = np.vstack([shapely.get_coordinates(figure), *cuts])
    # The beam burns half a kerf beyond the line it follows.
    beam_mm = settings.kerf_mm / 2 if cuts else 0.0
    low, high = corners.min(axis=0) - beam_mm, corners.max(axis=0) + beam_mm
    page_mm = np.array(blank_mm) if blank_mm is not None else high - low
    if (high - low > page_mm + 1e-6).any():
        raise InvalidInputError(
            f"The work is {high[0] - low[0]:.1f} x {high[1] - low[1]:.1f} mm and does not fit the "
            f"{page_mm[0]:g} x {page_mm[1]:g} mm blank. Make it smaller or choose a larger blank."
        )
    shift = (page_mm - (high - low)) / 2 - low
    figure = as_multipolygon(shapely.transform(figure, lambda p: p + shift))
    drop = np.array([shift[0], page_mm[1] - placed.height - shift[1]])
    on_page = placed.moved(lambda p: p + drop, width=float(page_mm[0]), height=float(page_mm[1]))
    return LaserPlan(
        figure=figure,
        page=on_page,
        scan_lines=scan(figure, spacing_mm=settings.spacing_mm) if settings.engrave else [],
        cuts=[contour + shift for contour in cuts],
    )


def scan(area: MultiPolygon, *, spacing_mm: float) -> list[tuple[float, list[tuple[float, float]]]]:
    """Return (y, [(x from, x to), ...]) for each engraved line, from the lower edge up.

    Lines lie half a spacing inside the edges, so n lines engrave exactly n spacings of height.
    """
    _, y_min, _, y_max = area.bounds
    count = max(1, round((y_max - y_min) / spacing_mm))
    if count > _MOST_SCAN_LINES:
        raise InvalidInputError(
            f"That takes {count} engraved lines. Use a wider spacing than {spacing_mm:g} mm."
        )
    pitch = (y_max - y_min) / count
    rings = [
        shapely.get_coordinates(ring)
        for polygon in area.geoms
        for ring in (polygon.exterior, *polygon.interiors)
    ]
    start = np.vstack([ring[:-1] for ring in rings])
    end = np.vstack([ring[1:] for ring in rings])
    low, high = np.minimum(start[:, 1], end[:, 1]), np.maximum(start[:, 1], end[:, 1])
    first = np.ceil((low - y_min) / pitch - 0.5).astype(int)
    last = np.ceil((high - y_min) / pitch - 0.5).astype(int) - 1
    hits = np.maximum(last - first + 1, 0)
    edge = np.repeat(np.arange(len(start)), hits)
    row = np.arange(len(edge)) - np.repeat(np.cumsum(hits) - hits, hits) + first[edge]
    y = y_min + (row + 0.5) * pitch
    share = (y - start[edge, 1]) / (end[edge, 1] - start[edge, 1])
    x = start[edge, 0] + share * (end[edge, 0] - start[edge, 0])
    order = np.lexsort((x, row))
    row, x = row[order], x[order]
    lines: list[tuple[float, list[tuple[float, float]]]] = []
    for number in np.unique(row).tolist():
        from_, to = np.searchsorted(row, [number, number + 1])
        crossings = x[from_:to].tolist()
        spans = [(a, b) for a, b in zip(crossings[::2], crossings[1::2], strict=False) if b - a > 1e-6]
        if spans:
            lines.append((y_min + (number + 0.5) * pitch, spans))
    return lines


def _cut_contours(figure: MultiPolygon, settings: LaserSettings) -> list[FloatArray]:
    """Return closed contours, kerf taken into account, inner ones first."""
    half_kerf = settings.kerf_mm / 2
    if settings.cut is CutLine.NONE:
        return []
    if settings.cut is CutLine.SHAPES:
        target: BaseGeometry = figure
    else:
        target = _tag(figure, settings)
    # Growing the wanted area by half the kerf grows its outer contours and shrinks its holes.
    compensated = as_multipolygon(target.buffer(half_kerf, quad_segs=16) if half_kerf else target)
    rings = [ring for polygon in compensated.geoms for ring in (*polygon.interiors, polygon.exterior)]
    return [shapely.get_coordinates(ring) for ring in _inner_first([Polygon(ring) for ring in rings])]


def _inner_first(rings: list[Polygon]) -> list[BaseGeometry]:
    """Order rings so that whatever lies inside another comes first; near ones follow each other."""
    depth = [sum(other.contains(ring) for other in rings if other is not ring) for ring in rings]
    ordered: list[BaseGeometry] = []
    here = Point(0, 0)
    for level in sorted(set(depth), reverse=True):
        group = [ring for ring, d in zip(rings, depth, strict=True) if d == level]
        while group:
            nearest = min(group, key=lambda ring: ring.exterior.distance(here))
            group.remove(nearest)
            ordered.append(nearest.exterior)
            here = Point(nearest.exterior.coords[0])
    return ordered


def _tag(figure: MultiPolygon, settings: LaserSettings) -> BaseGeometry:
    """Return the tag around a figure: all of it with a margin, holes filled, a hanging hole in its own tab."""
    grown = as_multipolygon(figure.buffer(max(settings.margin_mm, 0.01), quad_segs=32))
    if len(grown.geoms) > 1:
        grown = as_multipolygon(shapely.union_all([grown, figure.convex_hull]))
    body: BaseGeometry = shapely.union_all([Polygon(polygon.exterior) for polygon in grown.geoms])
    if settings.hole_mm:
        x_min, _, x_max, y_max = figure.bounds
        radius = settings.hole_mm / 2
        upright = LineString([((x_min + x_max) / 2, y_max + 1000), ((x_min + x_max) / 2, y_max - 1000)])
        top = max(shapely.get_coordinates(upright.intersection(body))[:, 1], default=y_max)
        centre = Point((x_min + x_max) / 2, top + radius * 0.6)
        body = shapely.union_all(
            [body, centre.buffer(radius + max(settings.margin_mm, 2.0) * 0.75, quad_segs=32)]
        )
        body = body.difference(centre.buffer(radius, quad_segs=32))
    return body


def laser_gcode(plan: LaserPlan, settings: LaserSettings, *, title: str) -> str:
    """Return the program: every engraved line there and back, then the cuts."""
    out = GcodeWriter(title=title)
    if plan.scan_lines:
        out.announce("engrave")
        feed = settings.engrave_speed_mm_s * 60
        power = settings.engrave_power_percent
        for number, (y, spans) in enumerate(plan.scan_lines):
            runs = spans if number % 2 == 0 else [(b, a) for a, b in reversed(spans)]
            ahead = math.copysign(settings.run_out_mm, runs[0][1] - runs[0][0])
            out.travel(runs[0][0] - ahead, y)
            for begin, end in runs:
                out.burn(begin, y, feed_mm_min=feed, power_percent=0)
                out.burn(end, y, feed_mm_min=feed, power_percent=power)
            out.burn(runs[-1][1] + ahead, y, feed_mm_min=feed, power_percent=0)
    if plan.cuts:
        out.announce("cut")
    for contour in plan.cuts:
        # All passes of one contour before the next, or an outer one would come free before an inner one is done.
        for number in range(settings.cut_passes):
            out.comment(f"pass {number + 1} of {settings.cut_passes}")
            out.polyline(
                contour, feed_mm_min=settings.cut_speed_mm_s * 60, power_percent=settings.cut_power_percent
            )
    return out.text()


def laser_svg(plan: LaserPlan, *, title: str, engrave: bool = True) -> str:
    """Return an SVG in mm with the groups "engrave" (filled areas) and "cut" (hairlines)."""

    def ring_path(points: FloatArray) -> Path:
        return path_from_ring(np.stack([points[:, 0], plan.page.height - points[:, 1]], axis=1))

    areas = plan.page.shapes
    if any(is_light(shape.fill) for shape in areas):
        # A light shape wipes out what lies below it; only the resolved area says that to a laser.
        areas = tuple(
            Shape(
                f"area{k}", tuple(ring_path(shapely.get_coordinates(r)) for r in (p.exterior, *p.interiors))
            )
            for k, p in enumerate(plan.figure.geoms, 1)
        )
    layers = [Layer("engrave", areas)] if engrave else []
    if plan.cuts:
        lines = tuple(Shape(f"line{k}", (ring_path(contour),)) for k, contour in enumerate(plan.cuts, 1))
        layers.append(Layer("cut", lines, outline="#c23b2a", outline_width=0.1))
    return write_svg(Drawing(plan.page.width, plan.page.height), unit="mm", layers=tuple(layers), title=title)


def make_laser(
    drawing: Drawing,
    settings: LaserSettings,
    *,
    width_mm: float,
    title: str,
    blank_mm: tuple[float, float] | None = None,
) -> Product:
    """Return the SVG and the G-code of a drawing at its true size."""
    plan = plan_laser(drawing, settings, width_mm=width_mm, blank_mm=blank_mm)
    burned_mm = sum(b - a for _, spans in plan.scan_lines for a, b in spans)
    cut_mm = sum(float(LineString(c).length) for c in plan.cuts) * settings.cut_passes
    energy = settings.engrave_power_percent / (settings.engrave_speed_mm_s * settings.spacing_mm)
    return Product(
        files=(
            MadeFile(
                "laser.svg", "image/svg+xml", laser_svg(plan, title=title, engrave=settings.engrave).encode()
            ),
            MadeFile("laser.gcode", "text/x.gcode", laser_gcode(plan, settings, title=title).encode()),
        ),
        readings=(
            Reading("Engraved lines", len(plan.scan_lines), ""),
            Reading("Line density", 25.4 / settings.spacing_mm, "lpi"),
            Reading("Engraved length", burned_mm / 1000, "m"),
            Reading("Cut length", cut_mm, "mm"),
            Reading("Kerf taken up", settings.kerf_mm, "mm"),
            Reading("Engraving dose", energy, "% s/mm²"),
        ),
    )
