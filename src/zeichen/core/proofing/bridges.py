"""Bridges: bars that hold a loose piece, put where an eye would put them.

Short, square to both rims, where both sides are thick, not across small holes; on the axis of what is symmetric, and
alike on both sides of it. The weights are our own rules, from looking at bridged drawings.
"""

import math
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import LinearRing, LineString, MultiPolygon, Point, Polygon
from shapely.geometry.polygon import orient

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path
from zeichen.core.geometry.offsetting import stroked
from zeichen.core.geometry.polygons import as_multipolygon, drawing_area
from zeichen.core.values import BoolArray, FloatArray

_TRIED = 96
# A second bridge of an island points at least this far from the first one (degrees).
_APART_DEG = 110.0
# An island wider than this many bridges gets two.
_LARGE = 3.0
# How much longer a bar may be, in its own widths, to be better in other ways: for each square of its width that pokes
# out of what it joins, for lying 45 degrees askew of the axes, for meeting a rim along its tangent, for each square of
# its width that it takes of a hole, and for standing aside the axis of a symmetric figure.
_POKES, _SLANT, _ASKEW, _ON_EYE, _ASIDE = 2.0, 0.3, 1.5, 6.0, 1.5
# Holes up to this share of the figure are eyes and the like.
_EYE = 0.02
# What is as alike as this to its mirror image is symmetric; what lies this near to the axis lies on it (shares).
_ALIKE, _ON_AXIS = 0.97, 0.01


@dataclass(frozen=True, slots=True)
class Bar:
    """A bridge: where it spans from and to, the middle of either rim, and its width, drawing units."""

    start: tuple[float, float]
    end: tuple[float, float]
    width: float

    @property
    def length(self) -> float:
        """What it spans."""
        return math.dist(self.start, self.end)


def bar_outlines(bars: tuple[Bar, ...], *, tolerance: float) -> tuple[Path, ...]:
    """Return the outlines of bars, each going on by its width into what it meets."""
    lines = []
    for bar in bars:
        start, end = np.array(bar.start), np.array(bar.end)
        unit = (end - start) / max(bar.length, 1e-12)
        line = np.stack([start - bar.width * unit, end + bar.width * unit])
        lines.append(Path(bezier.line_segments(line), closed=False))
    return stroked(tuple(lines), bars[0].width, tolerance=tolerance) if bars else ()


def bridge_bars(
    drawing: Drawing, place: tuple[float, float], *, width: float, islands: bool, tolerance: float
) -> tuple[Bar, ...]:
    """Return the bars that join the loose piece at a place to the rest; none if there is no rest.

    Parameters
    ----------
    place : (x, y) inside the piece, px
    width : float, px
        Of a bar.
    islands : bool
        True for a stencil: the piece is an island of material in an opening.
    """
    area = drawing_area(drawing, tolerance=tolerance)
    point = Point(place)
    if islands:
        piece, rest = _island(area, point)
    else:
        pieces = sorted(area.geoms, key=lambda polygon: -polygon.area)
        piece = min(pieces, key=point.distance)
        rest = MultiPolygon([other for other in pieces if other is not piece])
    if piece is None or rest.is_empty:
        return ()
    x_min, _, x_max, _ = area.bounds
    axis, wide = (x_min + x_max) / 2.0, max(x_max - x_min, 1e-9)
    aside = piece.centroid.x - axis
    # What lies right of the axis is looked at in the mirror, so that twins get the same bar.
    turned = aside > _ON_AXIS * wide
    if turned:
        piece, rest = _mirrored(piece, axis), _mirrored(rest, axis)
    on_axis = abs(aside) <= _ON_AXIS * wide and _symmetric(piece, axis) and _symmetric(area, axis)
    eyes = _eyes(area if not turned else _mirrored(area, axis), piece if not islands else None)
    joint = _Joint(piece, as_multipolygon(rest), eyes, width, axis if on_axis else None)
    ways = joint.two() if islands and math.sqrt(piece.area) > _LARGE * width else [joint.best([])]
    bars = []
    for way in ways:
        if way is not None:
            (x0, y0), (x1, y1) = way.tolist()
            if turned:
                x0, x1 = 2.0 * axis - x0, 2.0 * axis - x1
            bars.append(Bar((x0, y0), (x1, y1), width))
    return tuple(bars)


def _mirrored(area: shapely.Geometry, axis: float) -> shapely.Geometry:
    return shapely.transform(area, lambda points: np.column_stack([2.0 * axis - points[:, 0], points[:, 1]]))


def _symmetric(area: shapely.Geometry, axis: float) -> bool:
    other = _mirrored(area, axis)
    common = shapely.intersection(area, other).area
    return bool(common >= _ALIKE * max(area.area, 1e-12))


def _eyes(area: MultiPolygon, piece: Polygon | None) -> shapely.Geometry:
    """Return the small holes of a figure, but for the one a loose piece lies in."""
    most = _EYE * area.area
    holes = [Polygon(ring) for polygon in area.geoms for ring in polygon.interiors]
    small = [hole for hole in holes if hole.area <= most and not (piece is not None and hole.contains(piece))]
    return shapely.union_all(small)


def _island(area: MultiPolygon, point: Point) -> tuple[Polygon | None, MultiPolygon]:
    for opening in area.geoms:
        for hole in opening.interiors:
            island = Polygon(hole)
            if island.distance(point) < 1e-9:
                # The sheet begins at the opening's border; a band of it is all that a bar has to reach.
                whole = Polygon(opening.exterior)
                sheet = whole.buffer(0.5 * math.sqrt(whole.area)).difference(whole)
                return island, as_multipolygon(sheet)
    return None, MultiPolygon()


class _Joint:
    """A loose piece, what it is to be joined to, and what speaks for and against a bar between them."""

    def __init__(
        self, piece: Polygon, rest: MultiPolygon, eyes: shapely.Geometry, width: float, axis: float | None
    ) -> None:
        self.piece, self.rest, self.eyes, self.width, self.axis = piece, rest, eyes, width, axis
        self.rims = [ring for part in rest.geoms for ring in (part.exterior, *part.interiors)]
        self.middle = shapely.get_coordinates(piece.centroid)[0]
        self.ways = self._ways()
        self.length = np.hypot(*(self.ways[:, 1] - self.ways[:, 0]).T)
        outward = self.ways[:, 0] - self.middle
        self.bearing = np.degrees(np.arctan2(outward[:, 1], outward[:, 0]))

    def _ways(self) -> FloatArray:
        """Return the shortest ways from places around the piece to the rest, (n, 2, 2)."""
        border = _canonical(self.piece.exterior)
        starts = shapely.line_interpolate_point(
            border, np.linspace(0, 1, _TRIED, endpoint=False), normalized=True
        )
        ways = [shapely.get_coordinates(shapely.shortest_line(starts, self.rest)).reshape(-1, 2, 2)]
        ways.append(shapely.get_coordinates(shapely.shortest_line(self.piece, self.rest)).reshape(1, 2, 2))
        if self.axis is not None:
            # Along the axis itself, up and down.
            low, high = (self.rest.union(self.piece).bounds[k] for k in (1, 3))
            line = LineString([(self.axis, low - 1.0), (self.axis, high + 1.0)])
            for at in shapely.get_coordinates(line.intersection(self.piece.exterior)):
                for end in shapely.get_coordinates(line.intersection(self.rest.boundary)):
                    ways.append(np.stack([at, end])[None])
        return np.concatenate(ways)

    def two(self) -> list[FloatArray | None]:
        """Return two bars: the best and the best away from it or, of a symmetric piece, a pair that mirrors."""
        first = self.best([])
        if first is None:
            return []
        second = self.best([first])
        if self.axis is None:
            return [first, second]
        # A bar that points so far aside that its mirror image is far enough away from it.
        upright = np.abs(np.abs(self.bearing) - 90.0)
        sides = self.best([], among=upright >= _APART_DEG / 2.0, aside=False)
        if sides is None or (
            second is not None
            and 2.0 * self._cost(sides, False) >= self._cost(first, True) + self._cost(second, True)
        ):
            return [first, second]
        other = sides.copy()
        other[:, 0] = 2.0 * self.axis - other[:, 0]
        return [sides, other]

    def _cost(self, way: FloatArray, aside: bool) -> float:
        return float(np.hypot(*(way[1] - way[0]))) + self.width * self._against(way, aside)

    def best(
        self, taken: list[FloatArray], *, among: BoolArray | None = None, aside: bool = True
    ) -> FloatArray | None:
        """Return where the best bar begins and ends, (2, 2), or None; away from those that are taken.

        among: which of the ways are looked at. aside: whether to stand aside the axis speaks against one.
        """
        best: tuple[float, FloatArray] | None = None
        for k in np.argsort(self.length, kind="stable").tolist():
            if best is not None and self.length[k] > best[0]:
                break
            if among is not None and not among[k]:
                continue
            if self.length[k] < 1e-9 or any(
                _turned(self.bearing[k], _bearing(way, self.middle)) < _APART_DEG for way in taken
            ):
                continue
            score = float(self.length[k]) + self.width * self._against(self.ways[k], aside)
            if best is None or score < best[0]:
                best = score, self.ways[k]
        return None if best is None else best[1]

    def _against(self, way: FloatArray, from_axis: bool) -> float:
        """Return what speaks against a bar along a way, in its widths."""
        unit = (way[1] - way[0]) / max(float(np.hypot(*(way[1] - way[0]))), 1e-12)
        reach = self.width * unit
        bar = LineString([way[0] - reach, way[1] + reach]).buffer(self.width / 2.0)
        # What of the bar neither spans the gap nor lies in what it joins pokes out of something thin.
        span = LineString(way).buffer(self.width / 2.0, cap_style="flat")
        pokes = bar.difference(self.piece).difference(self.rest).difference(span).area / self.width**2
        on_eye = bar.intersection(self.eyes).area / self.width**2
        slant = abs(math.sin(2.0 * math.atan2(float(unit[1]), float(unit[0]))))
        askew = _along([self.piece.exterior], way[0], unit, self.width)
        askew += _along(self.rims, way[1], unit, self.width)
        aside = 0.0
        if self.axis is not None and from_axis:
            aside = min(1.0, abs(float(way[:, 0].mean()) - self.axis) / self.width)
        amid = float(np.hypot(*(way.mean(axis=0) - self.middle))) / self.width
        return float(
            _POKES * pokes + _ON_EYE * on_eye + _SLANT * slant + _ASKEW * askew + _ASIDE * aside + 0.05 * amid
        )


def _canonical(ring: LinearRing) -> LineString:
    """Return a ring run one way round from its topmost point, however it was drawn."""
    points = np.asarray(orient(Polygon(ring)).exterior.coords)[:-1]
    first = int(np.lexsort((points[:, 0], points[:, 1]))[0])
    points = np.roll(points, -first, axis=0)
    return LineString(np.vstack([points, points[:1]]))


def _along(rings: list[LinearRing], place: FloatArray, unit: FloatArray, width: float) -> float:
    """Return how far a way leaves a rim askew: 0 square to it, 1 along it. Looked at over the bar's width."""
    point = Point(place)
    ring = min(rings, key=point.distance)
    at = ring.project(point)
    ends = [ring.interpolate((at + step) % ring.length) for step in (-width / 2.0, width / 2.0)]
    tangent = np.array([ends[1].x - ends[0].x, ends[1].y - ends[0].y])
    size = float(np.hypot(*tangent))
    return abs(float(tangent @ unit)) / size if size > 1e-12 else 0.0


def _bearing(line: FloatArray, middle: FloatArray) -> float:
    way = line[0] - middle
    return math.degrees(math.atan2(float(way[1]), float(way[0])))


def _turned(a: float, b: float) -> float:
    return abs((a - b + 180.0) % 360.0 - 180.0)
