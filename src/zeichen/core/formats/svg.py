"""SVG: writing drawings as clean paths, reading foreign files as drawings.

Written files hold only groups and paths, absolute commands, no transforms. Reading goes through a
hardened XML parser first: entities, scripts and links to other places are refused, not stripped,
because a file that carries them is not what the maker thinks it is.
"""

import io
import math
import re
from dataclasses import dataclass
from typing import Any
from xml.etree.ElementTree import ParseError
from xml.sax.saxutils import escape, quoteattr

import numpy as np
import svgelements as se
from defusedxml import ElementTree as SafeTree
from defusedxml.common import DefusedXmlException

from zeichen.core.errors import FormatError
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.values import FloatArray

LARGEST_BYTES = 64 * 1024 * 1024
_ACTIVE_TAGS = {"script", "foreignobject", "iframe", "handler"}


@dataclass(frozen=True, slots=True)
class Layer:
    """A named group of an SVG file; with an outline colour its shapes are lines instead of areas."""

    name: str
    shapes: tuple[Shape, ...]
    outline: str | None = None
    outline_width: float = 0.1


def number(value: float, decimals: int = 4) -> str:
    """Return a number without needless digits.

    Examples
    --------
    >>> number(2.50001, 3), number(-0.00001, 3)
    ('2.5', '0')
    """
    text = f"{value:.{decimals}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def path_data(path: Path, *, decimals: int = 4) -> str:
    """Return the d attribute of one path; straight segments become lines, a straight return is left to Z."""
    if not len(path.segments):
        return ""
    straight = bezier.is_straight(path.segments, tolerance=10.0**-decimals).tolist()
    rows = path.segments.tolist()
    start = rows[0][0]
    parts = [f"M{number(start[0], decimals)} {number(start[1], decimals)}"]
    for k, (_, c1, c2, end) in enumerate(rows):
        returns = path.closed and k == len(rows) - 1 and math.dist(end, start) < 10.0**-decimals
        if straight[k]:
            if not returns:
                parts.append(f"L{number(end[0], decimals)} {number(end[1], decimals)}")
        else:
            parts.append("C" + " ".join(number(v, decimals) for point in (c1, c2, end) for v in point))
    if path.closed:
        parts.append("Z")
    return "".join(parts)


def shape_data(shape: Shape, *, decimals: int = 4) -> str:
    """Return the d attribute of all paths of a shape."""
    return "".join(path_data(path, decimals=decimals) for path in shape.paths)


def write_svg(
    drawing: Drawing,
    *,
    unit: str = "",
    layers: tuple[Layer, ...] | None = None,
    title: str = "",
    decimals: int = 4,
    ground: str | None = None,
) -> str:
    """Return an SVG document.

    Parameters
    ----------
    drawing : Drawing
        Its frame becomes the page. Its shapes are written unless layers are given.
    unit : "" or "mm"
        Unit of the page size; one user unit is always one drawing unit.
    layers : tuple of Layer, optional
        Named groups to write instead.
    ground : colour, optional
        Fills the page behind everything.
    """
    width, height = number(drawing.width, decimals), number(drawing.height, decimals)
    out = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}{unit}" height="{height}{unit}" '
        f'viewBox="0 0 {width} {height}">',
    ]
    if title:
        out.append(f"<title>{escape(title)}</title>")
    if ground:
        out.append(f'<rect width="{width}" height="{height}" fill={quoteattr(ground)}/>')
    if layers is None:
        out.extend(_element(shape, decimals) for shape in drawing.shapes)
    else:
        for layer in layers:
            out.append(f"<g id={quoteattr(layer.name)}>")
            if layer.outline is None:
                out.extend(_element(shape, decimals, prefix=layer.name) for shape in layer.shapes)
            else:
                out.extend(
                    f'<path id={quoteattr(f"{layer.name}-{shape.id}")} d="{shape_data(shape, decimals=decimals)}" '
                    f'fill="none" stroke={quoteattr(layer.outline)} stroke-width="{number(layer.outline_width)}"/>'
                    for shape in layer.shapes
                )
            out.append("</g>")
    out.append("</svg>")
    return "\n".join(out) + "\n"


def _element(shape: Shape, decimals: int, prefix: str = "") -> str:
    name = quoteattr(f"{prefix}-{shape.id}" if prefix else shape.id)
    data = shape_data(shape, decimals=decimals)
    if shape.stroke_width is not None:
        return (
            f'<path id={name} d="{data}" fill="none" stroke={quoteattr(shape.fill)} '
            f'stroke-width="{number(shape.stroke_width)}" stroke-linecap="round" stroke-linejoin="round"/>'
        )
    rule = ' fill-rule="evenodd"' if shape.fill_rule == "evenodd" else ""
    return f'<path id={name} d="{data}" fill={quoteattr(shape.fill)}{rule}/>'


def read_svg(data: bytes | str) -> Drawing:
    """Return the drawing in an SVG file: transforms applied, basic shapes and arcs turned into cubics.

    Raises
    ------
    FormatError
        If the file is empty, too large, not XML, not SVG, holds entities, scripts, links to other
        places or live text, or has no shapes.
    """
    raw = data.encode() if isinstance(data, str) else data
    _refuse_hostile(raw)
    try:
        document = se.SVG.parse(io.BytesIO(raw), reify=True, ppi=96)
        width, height = float(document.width), float(document.height)
    except Exception as error:  # svgelements raises whatever its parsing meets
        raise FormatError(
            "The SVG could not be understood. Open and save it again in a drawing program."
        ) from error
    shapes: list[Shape] = []
    taken: set[str] = set()
    for element in document.elements():
        if isinstance(element, se.Text):
            raise FormatError("The SVG holds live text. Turn the text into outlines first, then try again.")
        if not isinstance(element, se.Shape) or element.values.get("display") == "none":
            continue
        shape = _shape(element, f"s{len(shapes) + 1}", taken)
        if shape is not None:
            taken.add(shape.id)
            shapes.append(shape)
    if not shapes:
        raise FormatError("The SVG holds no shapes that can be made: no paths, no basic shapes.")
    if not (width > 0 and height > 0 and math.isfinite(width) and math.isfinite(height)):
        raise FormatError("The SVG has a page of no size. Give it a width and height above 0.")
    return Drawing(width, height, tuple(shapes))


def _refuse_hostile(raw: bytes) -> None:
    if not raw.strip():
        raise FormatError("The file is empty (0 bytes). Choose the drawing again.")
    if len(raw) > LARGEST_BYTES:
        raise FormatError(f"The SVG has {len(raw)} bytes, more than the {LARGEST_BYTES} Zeichen reads.")
    try:
        root = SafeTree.fromstring(raw, forbid_entities=True, forbid_external=True)
    except DefusedXmlException as error:
        raise FormatError(
            "The SVG declares entities, which can pull in other files. It was not opened. "
            "Save it again as plain SVG."
        ) from error
    except (ParseError, ValueError, LookupError) as error:
        raise FormatError("This is not an SVG file: its text is not well-formed XML.") from error
    if root.tag.rsplit("}", 1)[-1].lower() != "svg":
        raise FormatError("This is not an SVG file: it is XML of another kind.")
    for node in root.iter():
        tag = str(node.tag).rsplit("}", 1)[-1].lower()
        active = tag in _ACTIVE_TAGS or any(
            re.match(r"on[a-z]+$", key.rsplit("}", 1)[-1].lower()) for key in node.attrib
        )
        if active:
            raise FormatError("The SVG carries a script. It was not opened. Save it again as plain SVG.")
        for key, value in node.attrib.items():
            if (
                key.rsplit("}", 1)[-1].lower() == "href"
                and tag in ("use", "image")
                and not value.startswith(("#", "data:image/"))
            ):
                raise FormatError("The SVG links to another file. Save it with everything inside it.")


def _shape(element: Any, fallback_id: str, taken: set[str]) -> Shape | None:
    path = se.Path(element)
    path.approximate_arcs_with_cubics()
    paths = tuple(p for p in (_path(sub) for sub in path.as_subpaths()) if p is not None)
    if not paths:
        return None
    name = str(element.id or fallback_id)
    while name in taken:
        name += "x"
    filled = element.fill is not None and element.fill.value is not None and element.fill.alpha != 0
    stroked = (
        element.stroke is not None and element.stroke.value is not None and (element.stroke_width or 0) > 0
    )
    rule = "evenodd" if str(element.values.get("fill-rule", "")).strip() == "evenodd" else "nonzero"
    if filled:
        return Shape(name, paths, element.fill.hex[:7], rule)
    if stroked:
        return Shape(name, paths, element.stroke.hex[:7], rule, float(element.stroke_width))
    return None


def _path(sub: Any) -> Path | None:
    rows: list[list[list[float]]] = []
    closed = False
    for segment in sub:
        if isinstance(segment, se.Move):
            continue
        start, end = _point(segment.start), _point(segment.end)
        if start is None or end is None:
            continue
        if isinstance(segment, se.Close):
            closed = True
        if isinstance(segment, se.CubicBezier):
            control = [start, _xy(segment.control1), _xy(segment.control2), end]
        elif isinstance(segment, se.QuadraticBezier):
            q = _xy(segment.control)
            control = [start, _mix(start, q, 2 / 3), _mix(end, q, 2 / 3), end]
        else:
            if math.dist(start, end) < 1e-9:
                continue
            control = [start, _mix(start, end, 1 / 3), _mix(start, end, 2 / 3), end]
        rows.append(control)
    if not rows:
        return None
    segments: FloatArray = np.array(rows, dtype=np.float64)
    if not np.isfinite(segments).all():
        raise FormatError("The SVG holds a coordinate that is not a number.")
    size = float(np.ptp(segments.reshape(-1, 2), axis=0).max())
    if math.dist(rows[0][0], rows[-1][3]) <= 1e-6 * max(size, 1e-9):
        closed = True
    return Path(segments, closed)


def _xy(point: Any) -> list[float]:
    return [float(point.x), float(point.y)]


def _point(point: Any) -> list[float] | None:
    return None if point is None else _xy(point)


def _mix(a: list[float], b: list[float], share: float) -> list[float]:
    return [a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share]
