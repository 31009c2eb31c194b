"""Findings: what a machine would stumble over, measured at true size.

Places are given twice: in drawing units for the screen, and in mm from the drawing's top left corner.
"""

import math
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry import LinearRing, LineString, MultiPolygon, Polygon
from shapely.validation import explain_validity

from zeichen.core.colour.merging import colour_off
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.placement import Scale
from zeichen.core.geometry.polygons import is_light, shape_area
from zeichen.core.proofing.doubles import check_duplicates
from zeichen.core.proofing.facts import Box, Memory, ShapeFacts, facts_of
from zeichen.core.proofing.fineness import check_corners, check_lettering, check_nodes
from zeichen.core.proofing.kinds import Bench, Finding, How, Kind, Proof, Readings
from zeichen.core.proofing.layers import check_colours, check_layers, check_signature
from zeichen.core.proofing.narrow import NarrowPlace
from zeichen.core.proofing.plain import is_too_much, plain_proof
from zeichen.core.proofing.widths import Widths, look_at_widths
from zeichen.core.proofing.yardstick import Yardstick, finished_scale
from zeichen.core.values import FloatArray

# Neighbours of two colours this near to each other were meant to touch (our own rule).
_HAIRLINE_MM = 0.12
# A speck whose colour is this near (CIEDE2000) to its neighbour's belongs to it (our own rule).
_ALIKE = 20.0
# How much further apart the walls of a draft are sampled.
_DRAFT_COARSE = 2.0


def proof(
    drawing: Drawing, yardstick: Yardstick, memory: Memory | None = None, *, draft: bool = False
) -> Proof:
    """Return the findings and readings of a drawing at the yardstick's size.

    Parameters
    ----------
    memory : Memory, optional
        Of the proofs before: what has not changed since is not measured again.
    draft : bool
        Whether the drawing stands for one that is still to be traced, of sound polygons: only sizes, widths,
        pieces and colours are looked at.

    Raises
    ------
    InvalidInputError
        If the drawing is empty, or beyond 100 m or below 1 µm at that size.
    """
    memory = memory or Memory()
    seen = _look_at_outlines(drawing, yardstick, memory, draft=draft)
    if seen is None:
        return plain_proof(drawing, yardstick, finished_scale(drawing, yardstick))
    bench, scale, limits, tolerance_px = seen.bench, seen.bench.scale, yardstick.limits, seen.tolerance_px
    thin_px, gap_px = scale.to_px(limits.thin_mm), scale.to_px(limits.gap_mm)
    looked = look_at_widths(
        seen.counted,
        thin_px,
        gap_px,
        cut_away=limits.cut_away,
        tolerance=tolerance_px,
        memory=memory,
        coarse=_DRAFT_COARSE if draft else 1.0,
    )
    area = looked.area
    owners = _Owners({each.shape.id: each.area for each in seen.counted})
    by_id = {shape.id: shape for shape in drawing.shapes}
    for kind, narrow, limit_mm in (
        (Kind.THIN_PART, looked.parts, limits.thin_mm),
        (Kind.SMALL_GAP, looked.gaps, limits.gap_mm),
    ):
        for place in narrow.places:
            owner, other = owners.two_at(place.x, place.y)
            bench.add(
                _kind_of(kind, place, by_id.get(owner), by_id.get(other), scale),
                place.x,
                place.y,
                measured=scale.to_mm(place.width),
                limit=limit_mm,
                unit="mm",
                shape=owner,
                other=other if kind is Kind.SMALL_GAP else "",
                trail_px=place.trail,
            )
    if limits.one_piece:
        _check_pieces(bench, area, owners, islands=limits.cut_away)
    return Proof(tuple(bench.found), _read(drawing, seen.shapes, scale, looked))


def outline_findings(drawing: Drawing, yardstick: Yardstick, memory: Memory) -> tuple[Finding, ...] | None:
    """Return those findings of a proof that need no widths: half the work; None of what is too much to measure.

    Raises as proof does.
    """
    seen = _look_at_outlines(drawing, yardstick, memory, draft=False)
    return None if seen is None else tuple(seen.bench.found)


@dataclass(frozen=True, slots=True)
class _Seen:
    """What was found so far; counted: the shapes whose widths count."""

    bench: Bench
    shapes: list[ShapeFacts]
    counted: list[ShapeFacts]
    tolerance_px: float


def _look_at_outlines(drawing: Drawing, yardstick: Yardstick, memory: Memory, *, draft: bool) -> _Seen | None:
    """Return all that is found without measuring widths; None if it is too much to be measured."""
    memory.begin()
    scale = finished_scale(drawing, yardstick)
    limits = yardstick.limits
    if not draft and is_too_much(drawing, tolerance=scale.to_px(min(limits.thin_mm, limits.gap_mm))):
        return None
    # A tenth of the finest limit would show in the measured widths; a hundredth does not.
    tolerance_px = max(scale.to_px(min(limits.thin_mm, limits.gap_mm)) / 100, 1e-4)
    shapes = facts_of(drawing, tolerance_px, memory)
    bench = Bench(scale)
    doubled: set[str] = set()
    if not draft:
        _check_paths(bench, shapes, tolerance_px)
        doubled = check_duplicates(bench, shapes, tolerance_px, memory)
        _check_extent(bench, drawing, shapes, yardstick)
        check_nodes(bench, shapes)
        check_lettering(bench, shapes)
        if limits.corner_mm > 0:
            check_corners(bench, shapes, limits.corner_mm)
    specks = _check_specks(bench, shapes, limits.speck_mm2, tolerance_px)
    check_colours(bench, drawing, limits.colours)
    counted = [each for each in shapes if each.shape.id not in specks]
    if not draft:
        # What is drawn twice is one finding, not two.
        single = [each for each in counted if each.shape.id not in doubled]
        check_layers(bench, drawing, single, yardstick, tolerance_px, memory)
        check_signature(bench, drawing, shapes)
    return _Seen(bench, shapes, counted, tolerance_px)


def _kind_of(kind: Kind, place: NarrowPlace, owner: Shape | None, other: Shape | None, scale: Scale) -> Kind:
    """Return what a narrow place is: a point is blunted rather than thickened, and neighbours share a border."""
    if kind is Kind.THIN_PART:
        drawn_line = owner is not None and owner.stroke_width is not None
        return Kind.FINE_TIP if place.tip and not drawn_line else kind
    two_colours = owner is not None and other is not None and owner.fill != other.fill
    return Kind.BORDER_GAP if two_colours and scale.to_mm(place.width) < _HAIRLINE_MM else kind


def _read(drawing: Drawing, shapes: list[ShapeFacts], scale: Scale, looked: Widths) -> Readings:
    x_min, y_min, x_max, y_max = _bounds(shapes)
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
        pieces=len(looked.area.geoms),
        thinnest_mm=mm(looked.parts.narrowest),
        smallest_gap_mm=mm(looked.gaps.narrowest),
        area_mm2=scale.to_mm2(looked.area.area),
    )


def _bounds(shapes: list[ShapeFacts]) -> Box:
    table = np.array([each.box for each in shapes if each.shape.node_count])
    low, high = table[:, :2].min(axis=0), table[:, 2:].max(axis=0)
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def _check_extent(bench: Bench, drawing: Drawing, shapes: list[ShapeFacts], yardstick: Yardstick) -> None:
    """Report a figure larger than its blank, and shapes beyond the drawing's own sheet."""
    x_min, y_min, x_max, y_max = _bounds(shapes)
    wide, tall = bench.scale.to_mm(x_max - x_min), bench.scale.to_mm(y_max - y_min)
    middle = (x_min + x_max) / 2, (y_min + y_max) / 2
    for size, blank in ((wide, yardstick.blank_width_mm), (tall, yardstick.blank_height_mm)):
        if size > blank * (1 + 1e-9):
            bench.add(Kind.TOO_LARGE, *middle, measured=size, limit=blank, unit="mm", shape="")
            break
    slack = 1e-3 * max(drawing.width, drawing.height)
    for each in shapes:
        if not each.shape.node_count:
            continue
        x0, y0, x1, y1 = each.box
        beyond = max(-x0, -y0, x1 - drawing.width, y1 - drawing.height)
        if beyond > slack:
            middle = (x0 + x1) / 2, (y0 + y1) / 2
            measured = bench.scale.to_mm(beyond)
            bench.add(Kind.OFF_SHEET, *middle, measured=measured, limit=0.0, unit="mm", shape=each.shape.id)


def _check_paths(bench: Bench, shapes: list[ShapeFacts], tolerance_px: float) -> None:
    for each in shapes:
        shape = each.shape
        drawn_line = shape.stroke_width is not None
        for facts in each.paths:
            path = facts.path
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
            if not drawn_line and not facts.simple:
                x, y, times = _crossing(facts.ring)
                bench.add(
                    Kind.SELF_CROSSING, x, y, measured=times, limit=0.0, unit="crossings", shape=shape.id
                )
        _check_crossing_paths(bench, each, tolerance_px)


def _crossing(points: FloatArray) -> tuple[float, float, int]:
    reason = explain_validity(Polygon(points)) if len(points) >= 4 else ""
    # Noding a loop that crosses itself k times cuts it into 2 k pieces.
    try:
        pieces = len(shapely.get_parts(shapely.node(LineString(points))))
    except shapely.errors.GEOSException:
        # Where it nearly touches itself over and over, noding finds no end; on a grid it does.
        grid = 1e-6 * max(1e-9, float(np.ptp(points)))
        pieces = len(shapely.get_parts(shapely.set_precision(LineString(points), grid)))
    times = max(1, pieces // 2)
    if "[" in reason:
        x, y = reason[reason.index("[") + 1 : reason.index("]")].split()[:2]
        return float(x), float(y), times
    return float(points[0, 0]), float(points[0, 1]), times


def _check_crossing_paths(bench: Bench, facts: ShapeFacts, tolerance_px: float) -> None:
    if len(facts.paths) < 2 or facts.shape.stroke_width is not None:
        return
    rings = [each.ring for each in facts.paths if len(each.ring) >= 4]
    # Outlines may touch, and lie within each other; where areas only partly cover each other they cross.
    whole = [polygon for points in rings if (polygon := Polygon(points)).is_valid]
    if len(whole) < 2:
        return
    first, second = STRtree(whole).query(whole, predicate="overlaps")
    for a, b in zip(first.tolist(), second.tolist(), strict=True):
        if a < b:
            shared = whole[a].exterior.intersection(whole[b].exterior)
            places = shapely.get_coordinates(shared)
            if whole[a].intersection(whole[b]).area <= 4.0 * tolerance_px * shared.length:
                continue
            bench.add(
                Kind.SELF_CROSSING,
                places[0, 0],
                places[0, 1],
                measured=len(places),
                limit=0.0,
                unit="crossings",
                shape=facts.shape.id,
            )


def _check_specks(bench: Bench, shapes: list[ShapeFacts], speck_mm2: float, tolerance_px: float) -> set[str]:
    """Report small shapes that are no part of the figure, and pin holes; returns the ids of the small shapes."""
    drawn = [each for each in shapes if each.shape.node_count]
    tree = STRtree([shapely.box(*each.box) for each in drawn])
    whole: set[str] = set()
    for each in shapes:
        shape = each.shape
        if not shape.paths or shape.stroke_width is not None or not all(p.closed for p in shape.paths):
            continue
        largest = max(each.paths, key=lambda facts: abs(facts.area))
        for facts in each.paths:
            path = facts.path
            if not len(path.segments):
                continue
            area_mm2 = bench.scale.to_mm2(abs(facts.area))
            # What crosses itself may have as much area on one side as on the other.
            if area_mm2 >= speck_mm2 or bench.scale.to_mm2(_covered(path)) >= speck_mm2:
                continue
            other, pierces = "", False
            if facts is largest:
                near = [drawn[k] for k in tree.query(shapely.box(*each.box)).tolist()]
                others = [
                    one.shape
                    for one in near
                    if one is not each and shapely.dwithin(one.area, each.area, 4.0 * tolerance_px)
                ]
                # A small shape that lies on another one (a bridge, an eye) is part of the figure, unless it
                # is hardly told apart from that.
                alike = [one for one in others if colour_off(one.fill, shape.fill) < _ALIKE]
                # A light one on a dark one is a hole in that.
                pierces = is_light(shape.fill) and any(not is_light(one.fill) for one in others)
                if others and not pierces and not (alike and alike[0].fill != shape.fill):
                    continue
                other = alike[0].id if alike else ""
            centre = path.segments[:, 0].mean(axis=0)
            hole = pierces or (facts is not largest and facts.area * largest.area < 0)
            bench.add(
                Kind.PIN_HOLE if hole else Kind.SPECK,
                centre[0],
                centre[1],
                measured=area_mm2,
                limit=speck_mm2,
                unit="mm²",
                shape=shape.id,
                other=other,
                mends=None if other or hole else (How.DROP,),
            )
            if facts is largest:
                whole.add(shape.id)
                break
    return whole


def _covered(path: Path) -> float:
    rule = Shape("", (path,), fill_rule="nonzero")
    return float(shape_area(rule, tolerance=1e-3 * max(1.0, float(np.ptp(path.segments)))).area)


def _check_pieces(bench: Bench, area: MultiPolygon, owners: "_Owners", *, islands: bool) -> None:
    if islands:
        pieces = [Polygon(hole) for polygon in area.geoms for hole in polygon.interiors]
    else:
        ordered = sorted(area.geoms, key=lambda polygon: -polygon.area)
        pieces = ordered[1:]
        tree = STRtree(ordered)
    for piece in pieces:
        middle = piece.representative_point()
        # An island of a stencil is as far from the sheet as the opening around it is wide, any other piece as far
        # as from the nearest one.
        if islands:
            away = float(piece.distance(_sheet_around(piece, area)))
        else:
            away = float(
                tree.query_nearest(piece, return_distance=True, exclusive=True)[1].min(initial=math.inf)
            )
        bench.add(
            Kind.LOOSE_PIECE,
            middle.x,
            middle.y,
            measured=bench.scale.to_mm(away),
            limit=0.0,
            unit="mm",
            shape=owners.at(middle.x, middle.y),
            size_mm2=bench.scale.to_mm2(piece.area),
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
        return self.two_at(x_px, y_px)[0]

    def two_at(self, x_px: float, y_px: float) -> tuple[str, str]:
        """Return the nearest shape and the second nearest; '' where there is none."""
        if not self._ids:
            return "", ""
        place = shapely.Point(x_px, y_px)
        first = int(self._tree.nearest(place))
        reach = 2.0 * float(shapely.distance(place, self._tree.geometries[first])) + 1e-6
        near = [
            k for k in self._tree.query(place, predicate="dwithin", distance=reach).tolist() if k != first
        ]
        away = {k: float(shapely.distance(place, self._tree.geometries[k])) for k in near}
        return self._ids[first], self._ids[min(near, key=away.__getitem__)] if near else ""
