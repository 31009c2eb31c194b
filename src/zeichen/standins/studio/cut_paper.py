"""Parts cut out of one dark sheet: the area that stays dark in a silhouette, the openings of a stencil."""

import math
from collections.abc import Sequence

import shapely
from shapely.geometry import LineString, Point, Polygon
from shapely.geometry.base import BaseGeometry

from zeichen.standins.studio.pen import Form, Mark, Part

_NOTHING = Polygon()
# A silhouette's gaps in shares of the line weight.
_GAP = 0.72
_MOST_BRIDGES = 60


def silhouette(parts: Sequence[Part], weight: float, *, one_piece: bool) -> BaseGeometry:
    """Return the dark area: each form set off from what it lies on by a light gap, marks left light.

    one_piece: gaps stop short of the outline, so that everything hangs together.
    """
    gap = _GAP * weight
    dark: BaseGeometry = _NOTHING
    for part in parts:
        if isinstance(part, Form):
            dark = _laid_on(dark, part, gap, one_piece=one_piece)
        elif isinstance(part, Mark):
            dark = _drawn(dark, part, weight, one_piece=one_piece)
        else:
            dark = dark.difference(part.area) if not part.extra or part.area.area > (gap) ** 2 else dark
    # What is thinner than a gap would not be cut; slivers beside seams go.
    thin = 0.3 * gap
    return dark.buffer(-thin).buffer(2 * thin, quad_segs=8).buffer(-thin)


def stencil(parts: Sequence[Part], weight: float) -> BaseGeometry:
    """Return the openings of a stencil: no light part is surrounded by one without a bridge to hold it."""
    # Little things inside would hang on bridges larger than they are.
    plain = [part for part in parts if isinstance(part, Form) or not part.extra]
    openings = silhouette(plain, 1.35 * weight, one_piece=False)
    pieces = [piece for piece in _polygons(openings) if piece.area > (1.2 * weight) ** 2]
    return shapely.union_all([_bridged(piece, 1.1 * weight) for piece in pieces])


def _laid_on(dark: BaseGeometry, form: Form, gap: float, *, one_piece: bool) -> BaseGeometry:
    if form.joined or dark.is_empty:
        return dark.union(form.area)
    if not one_piece:
        return dark.difference(form.area.buffer(gap, quad_segs=12)).union(form.area)
    seam = form.area.exterior if isinstance(form.area, Polygon) else form.area.boundary
    inner = seam.intersection(dark.buffer(-1.7 * gap))
    if not inner.is_empty and inner.length > 0.985 * seam.length:
        # The form lies wholly inside: its seam stays open below, where it hangs on.
        x0, _, x1, y1 = form.area.bounds
        inner = inner.difference(Point((x0 + x1) / 2, y1).buffer(2.4 * gap))
    slit = inner.buffer(gap, quad_segs=8).difference(form.area)
    return dark.difference(slit).union(form.area)


def _drawn(dark: BaseGeometry, mark: Mark, weight: float, *, one_piece: bool) -> BaseGeometry:
    width = abs(mark.width) * weight
    if mark.width < 0:
        return dark.union(mark.line.buffer(max(width, 0.8 * weight) / 2, quad_segs=8))
    line = mark.line.intersection(dark.buffer(-1.3 * width)) if one_piece else mark.line
    if one_piece and line.is_empty:
        return dark
    if one_piece and _closed(line):
        line = _opened(line, 2.2 * width)
    return dark.difference(line.buffer(max(width, 0.55 * weight) / 2, quad_segs=8))


def _closed(line: BaseGeometry) -> bool:
    return isinstance(line, LineString) and line.is_ring


def _opened(line: BaseGeometry, gap: float) -> BaseGeometry:
    """Return a ring without a short piece at its lowest point."""
    lowest = max(line.coords, key=lambda spot: spot[1])
    return line.difference(Point(lowest[0], lowest[1]).buffer(gap))


def _bridged(piece: Polygon, width: float) -> BaseGeometry:
    """Return an opening with bars left standing, so that no island of light hangs free in it."""
    whole: BaseGeometry = piece
    for _ in range(_MOST_BRIDGES):
        ringed = next((part for part in _polygons(whole) if part.interiors), None)
        if ringed is None:
            break
        island = max((Polygon(ring) for ring in ringed.interiors), key=lambda ring: ring.area)
        bars = [_bar(ringed, island, width)]
        if island.area > (6 * width) ** 2:
            bars.append(_bar(ringed, island, width, apart_from=bars[0]))
        whole = whole.difference(shapely.union_all(bars))
    return whole


def _bar(
    opening: Polygon, island: Polygon, width: float, *, apart_from: BaseGeometry | None = None
) -> BaseGeometry:
    """Return the shortest straight bar from an island across the opening to whatever light comes next."""
    centre = island.representative_point()
    best, length = None, math.inf
    for k in range(24):
        angle = 2 * math.pi * k / 24
        ray = LineString(
            [(centre.x, centre.y), (centre.x + 2500 * math.cos(angle), centre.y + 2500 * math.sin(angle))]
        )
        through = ray.intersection(opening)
        runs = [run for run in getattr(through, "geoms", [through]) if isinstance(run, LineString)]
        first = min(runs, key=centre.distance, default=LineString())
        if first.is_empty or first.length >= length:
            continue
        middle = first.interpolate(0.5, normalized=True)
        if apart_from is not None and apart_from.distance(middle) < 4 * width:
            continue
        best, length = _lengthened(first, width).buffer(width / 2, cap_style="flat"), first.length
    return best if best is not None else _NOTHING


def _lengthened(line: BaseGeometry, by: float) -> BaseGeometry:
    """Return a straight line a little longer at both ends, so that nothing thin is left where it lands."""
    (x0, y0), (x1, y1) = line.coords[0], line.coords[-1]
    reach = math.hypot(x1 - x0, y1 - y0)
    dx, dy = by * (x1 - x0) / reach, by * (y1 - y0) / reach
    return LineString([(x0 - 0.5 * dx, y0 - 0.5 * dy), (x1 + 0.5 * dx, y1 + 0.5 * dy)])


def _polygons(area: BaseGeometry) -> list[Polygon]:
    if isinstance(area, Polygon):
        return [] if area.is_empty else [area]
    return [part for part in getattr(area, "geoms", []) if isinstance(part, Polygon)]
