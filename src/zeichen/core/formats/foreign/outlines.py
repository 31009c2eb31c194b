"""Path data and basic shapes as runs of cubics, in the units of their element.

Sources: SVG 2, chapters 9 (paths) and 10 (basic shapes). Path data is read by fontTools; what breaks off is drawn up
to there, as section 9.5.4 asks.
"""

import math
import re
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from fontTools.pens.recordingPen import RecordingPen
from fontTools.svgLib.path import parse_path
from fontTools.svgLib.path.arc import EllipticalArc

from zeichen.core.errors import FormatError
from zeichen.core.formats.foreign.tree import Element, name_of
from zeichen.core.formats.foreign.values import NUMBERS, length_px
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.values import FloatArray

SHAPES = frozenset(("path", "rect", "circle", "ellipse", "line", "polyline", "polygon"))
# Only these carry markers (SVG 2, section 13.7).
MARKED = frozenset(("path", "line", "polyline", "polygon"))
_PATH_DATA = re.compile(r"(?:[\s,MmZzLlHhVvCcSsQqTtAa]|[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)*+")
_CLOSED = 1e-6


@dataclass(frozen=True, slots=True)
class Vertex:
    """A place of a path that a marker can stand on, with the directions a line comes and goes; None at ends."""

    x: float
    y: float
    coming: tuple[float, float] | None
    going: tuple[float, float] | None


@dataclass(slots=True)
class Outline:
    """The runs of one element, closed where their ends meet.

    open: whether each was left open, as its line is drawn. dots: runs of no length, which still have ends. broken:
    its data breaks off.
    """

    paths: list[Path] = field(default_factory=list)
    open: list[bool] = field(default_factory=list)
    dots: list[tuple[float, float]] = field(default_factory=list)
    broken: bool = False
    # Every run as it was drawn, which rows end at a place the data names, and whether it was closed.
    _runs: list[tuple[FloatArray, list[bool], bool]] = field(default_factory=list)

    def add(self, rows: FloatArray, ends: list[bool], closed: bool) -> None:
        """Add a run; one of no length is a dot."""
        self._runs.append((rows, ends, closed))
        long = (np.abs(np.diff(rows, axis=1)) > 0).any(axis=(1, 2))
        if not long.any():
            x, y = rows[0, 0].tolist()
            self.dots.append((x, y))
            return
        kept = rows if long.all() else rows[long]
        size = float(np.ptp(kept.reshape(-1, 2), axis=0).max())
        gap = math.dist(kept[0, 0], kept[-1, 3])
        self.paths.append(Path(kept, closed or gap <= _CLOSED * max(size, 1e-9)))
        self.open.append(not closed)

    def vertices(self) -> list[Vertex]:
        """Return the places that markers can stand on, in order."""
        return [vertex for run in self._runs for vertex in _vertices(*run)]


def outline_of(node: Element, *, font_px: float, view: tuple[float, float]) -> Outline:
    """Return the outline of a path or basic shape.

    Parameters
    ----------
    node : element
        One of SHAPES.
    font_px : float
    view : (width, height)
        Of the nearest frame, for percentages.
    """
    tag = name_of(node)
    diagonal = math.hypot(*view) / math.sqrt(2.0)

    def size(key: str, whole: float, default: float = 0.0) -> float:
        return length_px(node.get(key), font_px=font_px, whole=whole, default=default)

    pen = _RunPen()
    if tag == "path":
        data = str(node.get("d") or "")
        return _drawn(data, pen)
    if tag == "rect":
        box = (size("x", view[0]), size("y", view[1]), size("width", view[0]), size("height", view[1]))
        radii = size("rx", view[0], math.nan), size("ry", view[1], math.nan)
        _rectangle(pen, box, radii)
    elif tag == "circle":
        radius = size("r", diagonal)
        _ellipse(pen, size("cx", view[0]), size("cy", view[1]), radius, radius)
    elif tag == "ellipse":
        rx, ry = size("rx", view[0], math.nan), size("ry", view[1], math.nan)
        rx, ry = (ry if math.isnan(rx) else rx), (rx if math.isnan(ry) else ry)
        _ellipse(pen, size("cx", view[0]), size("cy", view[1]), rx, ry)
    elif tag == "line":
        pen.moveTo((size("x1", view[0]), size("y1", view[1])))
        pen.lineTo((size("x2", view[0]), size("y2", view[1])))
        pen.endPath()
    else:
        numbers = [float(each) for each in NUMBERS.findall(str(node.get("points") or ""))]
        points = list(zip(numbers[::2], numbers[1::2], strict=False))
        if len(points) > 1:
            pen.moveTo(points[0])
            for point in points[1:]:
                pen.lineTo(point)
            (pen.closePath if tag == "polygon" else pen.endPath)()
    return pen.outline()


def box_path(x: float, y: float, width: float, height: float) -> Path:
    """Return a rectangle's outline."""
    corners = [[x, y], [x + width, y], [x + width, y + height], [x, y + height], [x, y]]
    return Path(bezier.line_segments(np.array(corners)))


def _drawn(data: str, pen: "_RunPen") -> Outline:
    if data.strip() in ("", "none"):
        return pen.outline()
    found = _PATH_DATA.match(data)
    whole = data if found is None else found[0]
    broken = len(whole) < len(data)
    try:
        parse_path(whole, pen, arc_class=_arc_into(pen))
    except (ValueError, IndexError, ArithmeticError, AssertionError):
        broken = True
    out = pen.outline()
    out.broken = broken
    return out


def _rectangle(pen: "_RunPen", box: tuple[float, float, float, float], radii: tuple[float, float]) -> None:
    x, y, width, height = box
    if not (width > 0 and height > 0):
        return
    rx, ry = (each if each >= 0 else math.nan for each in radii)
    rx, ry = (ry if math.isnan(rx) else rx), (rx if math.isnan(ry) else ry)
    rx, ry = min(0.0 if math.isnan(rx) else rx, width / 2), min(0.0 if math.isnan(ry) else ry, height / 2)
    right, low = x + width, y + height
    if not (rx > 0 and ry > 0):
        pen.moveTo((x, y))
        for corner in ((right, y), (right, low), (x, low)):
            pen.lineTo(corner)
        pen.closePath()
        return
    k = bezier.CIRCLE_HANDLE
    hx, hy = rx * (1 - k), ry * (1 - k)
    pen.moveTo((x + rx, y))
    pen.lineTo((right - rx, y))
    pen.curveTo((right - hx, y), (right, y + hy), (right, y + ry))
    pen.lineTo((right, low - ry))
    pen.curveTo((right, low - hy), (right - hx, low), (right - rx, low))
    pen.lineTo((x + rx, low))
    pen.curveTo((x + hx, low), (x, low - hy), (x, low - ry))
    pen.lineTo((x, y + ry))
    pen.curveTo((x, y + hy), (x + hx, y), (x + rx, y))
    pen.closePath()


def _ellipse(pen: "_RunPen", cx: float, cy: float, rx: float, ry: float) -> None:
    if not (rx > 0 and ry > 0):
        return
    runs = bezier.ellipse_segments((cx, cy), radius_x=rx, radius_y=ry)
    pen.moveTo(tuple(runs[0, 0].tolist()))
    for _, c1, c2, end in runs.tolist():
        pen.curveTo(tuple(c1), tuple(c2), tuple(end))
    pen.closePath()


class _RunPen:
    """Takes what a font pen takes and keeps it as runs of cubics."""

    def __init__(self) -> None:
        self._out = Outline()
        self._rows: list[list[tuple[float, float]]] = []
        # Whether each row ends at a place its data names: inner places of an arc are none.
        self._ends: list[bool] = []
        self._start: tuple[float, float] | None = None
        self._at = (0.0, 0.0)
        self.within = False

    def moveTo(self, point: tuple[float, float]) -> None:  # noqa: N802 (a pen's names are fontTools')
        self._end(closed=False)
        self._start = self._at = (float(point[0]), float(point[1]))

    def lineTo(self, point: tuple[float, float]) -> None:  # noqa: N802
        (ax, ay), (bx, by) = self._at, (float(point[0]), float(point[1]))
        third = ((bx - ax) / 3.0, (by - ay) / 3.0)
        self._add((ax + third[0], ay + third[1]), (bx - third[0], by - third[1]), (bx, by))

    def curveTo(self, *points: tuple[float, float]) -> None:  # noqa: N802
        c1, c2, end = ((float(x), float(y)) for x, y in points)
        self._add(c1, c2, end)

    def qCurveTo(self, *points: tuple[float, float]) -> None:  # noqa: N802
        (qx, qy), (bx, by) = ((float(x), float(y)) for x, y in points)
        ax, ay = self._at
        c1 = (ax + (qx - ax) * 2 / 3, ay + (qy - ay) * 2 / 3)
        self._add(c1, (bx + (qx - bx) * 2 / 3, by + (qy - by) * 2 / 3), (bx, by))

    def closePath(self) -> None:  # noqa: N802
        if self._start is not None and self._at != self._start:
            self.lineTo(self._start)
        self._end(closed=True)

    def endPath(self) -> None:  # noqa: N802
        self._end(closed=False)

    def outline(self) -> Outline:
        """Return all that was drawn."""
        self._end(closed=False)
        return self._out

    def _add(self, c1: tuple[float, float], c2: tuple[float, float], end: tuple[float, float]) -> None:
        self._rows.append([self._at, c1, c2, end])
        self._ends.append(not self.within)
        self._at = end

    def _end(self, *, closed: bool) -> None:
        if self._start is None:
            return
        rows = np.array(self._rows, dtype=np.float64).reshape(-1, 4, 2)
        if not np.isfinite(rows).all():
            raise FormatError("The SVG holds a coordinate that is not a number.")
        if not len(rows) and closed:
            rows, self._ends = np.tile(np.array(self._start), (1, 4, 1)), [True]
        if len(rows):
            self._out.add(rows, self._ends, closed)
        self._rows, self._ends, self._start = [], [], None


def _vertices(rows: FloatArray, ends: list[bool], closed: bool) -> list[Vertex]:
    """Return the places of one run, its start first."""
    if not np.abs(np.diff(rows, axis=1)).any():
        x, y = rows[0, 0].tolist()
        return [Vertex(x, y, None, None)]
    start, end = bezier.end_directions(rows)
    coming: list[Any] = [None, *map(tuple, end.tolist())]
    going: list[Any] = [*map(tuple, start.tolist()), None]
    if closed:
        coming[0] = going[-1] = None
        coming[0], going[-1] = coming[-1], going[0]
    places = [rows[0, 0].tolist(), *rows[:, 3].tolist()]
    named = [True, *ends]
    return [
        Vertex(x, y, came, goes)
        for (x, y), came, goes, told in zip(places, coming, going, named, strict=True)
        if told
    ]


def _arc_into(pen: _RunPen) -> Any:
    """Return the class that fontTools draws arcs with: inner places are marked, flat ones are lines."""

    class Arc(EllipticalArc):  # type: ignore[misc]
        def draw(self, target: Any) -> None:
            end = (self.target_point.real, self.target_point.imag)
            if not (self.rx and self.ry):
                target.lineTo(end)
                return
            drawn = RecordingPen()
            super().draw(drawn)
            steps = [points for name, points in drawn.value if name in ("curveTo", "lineTo")]
            for number, points in enumerate(steps):
                last = number == len(steps) - 1
                pen.within = not last
                places = [*points[:-1], end] if last else list(points)
                (target.curveTo if len(places) == 3 else target.lineTo)(*places)
            pen.within = False

    return Arc
