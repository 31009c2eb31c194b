"""SVG written: drawings as clean paths, absolute commands, in groups without transforms."""

import math
from dataclasses import dataclass
from html import escape

import numpy as np

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.provenance import record


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
    # Straight or not is told of the numbers as they are written: what is read back is then written the same.
    written = np.round(path.segments, decimals)
    straight = bezier.is_straight(written, tolerance=10.0**-decimals).tolist()
    rows = written.tolist()
    start = at = rows[0][0]
    parts = [f"M{number(start[0], decimals)} {number(start[1], decimals)}"]
    for k, (_, c1, c2, end) in enumerate(rows):
        returns = path.closed and k == len(rows) - 1 and math.dist(end, start) < 10.0**-decimals
        if straight[k]:
            # A line of no length is none.
            if not returns and end != at:
                parts.append(f"L{number(end[0], decimals)} {number(end[1], decimals)}")
                at = end
        else:
            parts.append("C" + " ".join(number(v, decimals) for point in (c1, c2, end) for v in point))
            at = end
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
    decimals: int | None = None,
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
    decimals : int, optional
        Of coordinates; as a rule four, and more on a page of less than 10 units.
    ground : colour, optional
        Fills the page behind everything.
    """
    if decimals is None:
        decimals = 4 + max(0, math.ceil(math.log10(10 / max(drawing.width, drawing.height))))
    width, height = number(drawing.width, decimals), number(drawing.height, decimals)
    out = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}{unit}" height="{height}{unit}" '
        f'viewBox="0 0 {width} {height}">',
    ]
    if title:
        out.append(f"<title>{escape(title, quote=False)}</title>")
    if drawing.origin is not None:
        out.append(f"<metadata>{record(drawing.origin)}</metadata>")
    if ground:
        out.append(f'<rect width="{width}" height="{height}" fill={_quoted(ground)}/>')
    if layers is None:
        out.extend(_element(shape, decimals) for shape in drawing.shapes)
    else:
        for layer in layers:
            out.append(f"<g id={_quoted(layer.name)}>")
            if layer.outline is None:
                out.extend(_element(shape, decimals, prefix=layer.name) for shape in layer.shapes)
            else:
                out.extend(
                    f'<path id={_quoted(f"{layer.name}-{shape.id}")} d="{shape_data(shape, decimals=decimals)}" '
                    f'fill="none" stroke={_quoted(layer.outline)} stroke-width="{number(layer.outline_width)}"/>'
                    for shape in layer.shapes
                )
            out.append("</g>")
    out.append("</svg>")
    return "\n".join(out) + "\n"


def _element(shape: Shape, decimals: int, prefix: str = "") -> str:
    name = _quoted(f"{prefix}-{shape.id}" if prefix else shape.id) + _marks(shape)
    data = shape_data(shape, decimals=decimals)
    if shape.stroke_width is not None:
        return (
            f'<path id={name} d="{data}" fill="none" stroke={_quoted(shape.fill)} '
            f'stroke-width="{number(shape.stroke_width, decimals)}" {_pen(shape)}/>'
        )
    rule = ' fill-rule="evenodd"' if shape.fill_rule == "evenodd" else ""
    return f'<path id={name} d="{data}" fill={_quoted(shape.fill)}{rule}/>'


def _pen(shape: Shape) -> str:
    """Return how a line ends and turns; a mitre limit of 4 is what SVG has without being told."""
    join = "miter" if shape.join == "mitre" else shape.join
    limit = "" if shape.mitre_limit == 4.0 else f' stroke-miterlimit="{number(shape.mitre_limit)}"'
    return f'stroke-linecap="{shape.cap}" stroke-linejoin="{join}"{limit}'


def _marks(shape: Shape) -> str:
    """Return what only Zeichen knows of a shape, as data attributes (HTML allows them on SVG too)."""
    out = ""
    if shape.group:
        out += f" data-group={_quoted(shape.group)}"
    if shape.locked:
        out += ' data-locked="1"'
    if shape.hidden:
        out += ' data-hidden="1" visibility="hidden"'
    if shape.letters:
        out += f" data-letters={_quoted(shape.letters)}"
    return out


def _quoted(text: str) -> str:
    return f'"{escape(text)}"'
