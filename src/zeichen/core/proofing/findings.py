"""Findings: what a machine would stumble over, measured at true size.

Places are given twice: in drawing units for the screen, and in mm from the drawing's top left corner.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry import LinearRing, LineString, MultiPolygon, Polygon
from shapely.validation import explain_validity

from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.placement import Scale
from zeichen.core.geometry.polygons import as_multipolygon, is_simple, painted_area, ring_points, shape_area
from zeichen.core.proofing.narrow import Narrowness, narrow_places
from zeichen.core.proofing.yardstick import Yardstick
from zeichen.core.values import FloatArray


class Kind(StrEnum):
    """What can be wrong."""

    OPEN_PATH = "open_path"
    SELF_CROSSING = "self_crossing"
    DUPLICATE_OUTLINE = "duplicate_outline"
    SPECK = "speck"
    THIN_PART = "thin_part"
    SMALL_GAP = "small_gap"
    LOOSE_PIECE = "loose_piece"


@dataclass(frozen=True, slots=True)
class Finding:
    """One measured problem: kind, place, value, limit, and the shape it belongs to ('' if several)."""

    kind: Kind
    x_px: float
    y_px: float
    x_mm: float
    y_mm: float
    measured: float
    limit: float
    unit: str
    shape: str


@dataclass(frozen=True, slots=True)
class Readings:
    """The numbers of a drawing at its finished size. Widths over three limits are given as None."""

    width_mm: float
    height_mm: float
    shapes: int
    paths: int
    closed_paths: int
    nodes: int
    pieces: int
    thinnest_mm: float | None
    smallest_gap_mm: float | None
    area_mm2: float


@dataclass(frozen=True, slots=True)
class Proof:
    """A drawing judged by a yardstick."""

    findings: tuple[Finding, ...]
    readings: Readings

    @property
    def cut_ready(self) -> bool:
        """Whether nothing was found."""
        return not self.findings


class _Bench:
    """Collects findings and knows the scale between drawing units and mm."""

    def __init__(self, scale: Scale) -> None:
        self.scale = scale
        self.found: list[Finding] = []

    def add(
        self, kind: Kind, x_px: float, y_px: float, *, measured: float, limit: float, unit: str, shape: str
    ) -> None:
        self.found.append(
            Finding(
                kind,
                x_px,
                y_px,
                self.scale.to_mm(x_px),
                self.scale.to_mm(y_px),
                round(measured, 4),
                limit,
                unit,
                shape,
            )
        )


def proof(drawing: Drawing, yardstick: Yardstick) -> Proof:
    """Return the findings and readings of a drawing at the yardstick's size.

    Raises
    ------
    InvalidInputError
        If the drawing is empty.
    """
    scale = Scale.from_width(drawing, width_mm=yardstick.finished_width_mm(drawing))
    limits = yardstick.limits
    # A tenth of the finest limit would show in the measured widths; a hundredth does not.
    tolerance_px = max(scale.to_px(min(limits.thin_mm, limits.gap_mm)) / 100, 1e-4)
    bench = _Bench(scale)
    _check_paths(bench, drawing, tolerance_px)
    _check_duplicates(bench, drawing, tolerance_px)
    specks = _check_specks(bench, drawing, limits.speck_mm2)
    areas = {
        shape.id: shape_area(shape, tolerance=tolerance_px)
        for shape in drawing.shapes
        if shape.id not in specks
    }
    area = painted_area([(shape, areas[shape.id]) for shape in drawing.shapes if shape.id in areas])
    # Neighbours that share a border leave hairlines where it was flattened twice: no machine sees those.
    area = as_multipolygon(
        area.buffer(tolerance_px, join_style="mitre").buffer(-tolerance_px, join_style="mitre")
    )
    thin_px, gap_px = scale.to_px(limits.thin_mm), scale.to_px(limits.gap_mm)
    # In a stencil the light areas are the material: its parts are the drawing's gaps.
    parts = narrow_places(area, limit=thin_px, inside=not limits.cut_away)
    gaps = narrow_places(area, limit=gap_px, inside=limits.cut_away)
    owners = _Owners(areas)
    for kind, narrow, limit_mm in (
        (Kind.THIN_PART, parts, limits.thin_mm),
        (Kind.SMALL_GAP, gaps, limits.gap_mm),
    ):
        for place in narrow.places:
            bench.add(
                kind,
                place.x,
                place.y,
                measured=scale.to_mm(place.width),
                limit=limit_mm,
                unit="mm",
                shape=owners.at(place.x, place.y),
            )
    if limits.one_piece:
        _check_pieces(bench, area, owners, islands=limits.cut_away)
    return Proof(tuple(bench.found), _read(drawing, scale, area, parts, gaps))


def _read(
    drawing: Drawing, scale: Scale, area: MultiPolygon, parts: Narrowness, gaps: Narrowness
) -> Readings:
    x_min, y_min, x_max, y_max = drawing.bounds()
    paths = drawing.paths

    def mm(width_px: float) -> float | None:
        return round(scale.to_mm(width_px), 4) if math.isfinite(width_px) else None

    return Readings(
        width_mm=scale.to_mm(x_max - x_min),
        height_mm=scale.to_mm(y_max - y_min),
        shapes=len(drawing.shapes),
        paths=len(paths),
        closed_paths=sum(path.closed for path in paths),
        nodes=drawing.node_count,
        pieces=len(area.geoms),
        thinnest_mm=mm(parts.narrowest),
        smallest_gap_mm=mm(gaps.narrowest),
        area_mm2=scale.to_mm2(area.area),
    )


def _check_paths(bench: _Bench, drawing: Drawing, tolerance_px: float) -> None:
    for shape in drawing.shapes:
        drawn_line = shape.stroke_width is not None
        for path in shape.paths:
            if not path.closed and not drawn_line:
                end = (path.segments[0, 0] + path.segments[-1, 3]) / 2
                bench.add(
                    Kind.OPEN_PATH,
                    end[0],
                    end[1],
                    measured=bench.scale.to_mm(path.end_gap),
                    limit=0.0,
                    unit="mm",
                    shape=shape.id,
                )
            if not is_simple(path, tolerance=tolerance_px) and not drawn_line:
                x, y, times = _crossing(path, tolerance_px)
                bench.add(
                    Kind.SELF_CROSSING, x, y, measured=times, limit=0.0, unit="crossings", shape=shape.id
                )
        _check_crossing_paths(bench, shape, tolerance_px)


def _crossing(path: Path, tolerance_px: float) -> tuple[float, float, int]:
    points = ring_points(path, tolerance=tolerance_px)
    reason = explain_validity(Polygon(points)) if len(points) >= 4 else ""
    # Noding a loop that crosses itself k times cuts it into 2 k pieces.
    pieces = len(shapely.get_parts(shapely.node(LineString(points))))
    times = max(1, pieces // 2)
    if "[" in reason:
        x, y = reason[reason.index("[") + 1 : reason.index("]")].split()[:2]
        return float(x), float(y), times
    return float(points[0, 0]), float(points[0, 1]), times


def _check_crossing_paths(bench: _Bench, shape: Shape, tolerance_px: float) -> None:
    if len(shape.paths) < 2 or shape.stroke_width is not None:
        return
    rings = [
        LinearRing(points)
        for path in shape.paths
        if len(points := ring_points(path, tolerance=tolerance_px)) >= 4
    ]
    first, second = STRtree(rings).query(rings, predicate="crosses")
    for a, b in zip(first.tolist(), second.tolist(), strict=True):
        if a < b:
            places = shapely.get_coordinates(rings[a].intersection(rings[b]))
            bench.add(
                Kind.SELF_CROSSING,
                float(places[0, 0]),
                float(places[0, 1]),
                measured=len(places),
                limit=0.0,
                unit="crossings",
                shape=shape.id,
            )


def _check_duplicates(bench: _Bench, drawing: Drawing, tolerance_px: float) -> None:
    rings: list[tuple[str, FloatArray, str, bool]] = [
        (shape.id, points, shape.fill, path.area < 0)
        for shape in drawing.shapes
        for path in shape.paths
        if len(points := ring_points(path, tolerance=tolerance_px)) >= 4
    ]
    slack = 4 * tolerance_px
    boxes = np.array([[*points.min(axis=0), *points.max(axis=0)] for _, points, *_ in rings]).reshape(-1, 4)
    order: list[int] = np.lexsort(boxes.T[::-1]).tolist() if len(boxes) else []
    for pos, a in enumerate(order):
        for b in order[pos + 1 :]:
            if boxes[b, 0] - boxes[a, 0] > slack:
                break
            if np.abs(boxes[a] - boxes[b]).max() > slack:
                continue
            # One colour set into a hole of another: both follow their one border, and that is as it should be.
            if rings[a][2] != rings[b][2] and rings[a][3] != rings[b][3]:
                continue
            off = LineString(rings[a][1]).hausdorff_distance(LineString(rings[b][1]))
            if off <= slack:
                x, y = rings[b][1][0]
                bench.add(
                    Kind.DUPLICATE_OUTLINE,
                    float(x),
                    float(y),
                    measured=bench.scale.to_mm(off),
                    limit=bench.scale.to_mm(slack),
                    unit="mm",
                    shape=rings[max(a, b)][0],
                )


def _check_specks(bench: _Bench, drawing: Drawing, speck_mm2: float) -> set[str]:
    """Report small shapes that touch no other, and pin holes; returns the ids of the small shapes."""
    filled = [
        shape for shape in drawing.shapes if shape.stroke_width is None and all(p.closed for p in shape.paths)
    ]
    boxes = [shapely.box(*Drawing(1, 1, (shape,)).bounds()) for shape in drawing.shapes if shape.node_count]
    tree = STRtree(boxes)
    whole: set[str] = set()
    for shape in filled:
        largest = max(shape.paths, key=lambda path: abs(path.area))
        for path in shape.paths:
            area_mm2 = bench.scale.to_mm2(abs(path.area))
            if area_mm2 >= speck_mm2:
                continue
            # A small shape that lies on another one (a bridge, an eye) is part of the figure.
            if path is largest and len(tree.query(shapely.box(*Drawing(1, 1, (shape,)).bounds()))) > 1:
                continue
            centre = path.segments[:, 0].mean(axis=0)
            bench.add(
                Kind.SPECK,
                float(centre[0]),
                float(centre[1]),
                measured=area_mm2,
                limit=speck_mm2,
                unit="mm²",
                shape=shape.id,
            )
            if path is largest:
                whole.add(shape.id)
                break
    return whole


def _check_pieces(bench: _Bench, area: MultiPolygon, owners: "_Owners", *, islands: bool) -> None:
    if islands:
        pieces = [Polygon(hole) for polygon in area.geoms for hole in polygon.interiors]
        main = MultiPolygon()
    else:
        ordered = sorted(area.geoms, key=lambda polygon: -polygon.area)
        main, pieces = MultiPolygon(ordered[:1]), ordered[1:]
    for piece in pieces:
        middle = piece.representative_point()
        # An island of a stencil is as far from the sheet as the opening around it is wide.
        rest = _sheet_around(piece, area) if islands else main
        bench.add(
            Kind.LOOSE_PIECE,
            middle.x,
            middle.y,
            measured=bench.scale.to_mm(piece.distance(rest)),
            limit=0.0,
            unit="mm",
            shape=owners.at(middle.x, middle.y),
        )


def _sheet_around(island: Polygon, openings: MultiPolygon) -> LinearRing:
    around = next(p for p in openings.geoms if Polygon(p.exterior).contains(island.representative_point()))
    return around.exterior


class _Owners:
    """Finds which shape is at or nearest to a place."""

    def __init__(self, areas: dict[str, MultiPolygon]) -> None:
        self._ids = [name for name, area in areas.items() if not area.is_empty]
        self._tree = STRtree([areas[name] for name in self._ids])

    def at(self, x_px: float, y_px: float) -> str:
        if not self._ids:
            return ""
        return self._ids[int(self._tree.nearest(shapely.Point(x_px, y_px)))]
