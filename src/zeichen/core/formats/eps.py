"""EPS: Encapsulated PostScript 3.0, filled paths in points, y up.

Source: PostScript Language Document Structuring Conventions 3.0 (bounding box comments) and the
PostScript Language Reference (curveto, eofill), from memory.
"""

import math

from zeichen.core.formats.svg import number
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path, Shape

POINTS_PER_MM = 72 / 25.4
# PostScript and PDF number caps and joins alike (PDF 32000-1, tables 54 and 55).
CAPS = {"butt": 0, "round": 1, "square": 2}
JOINS = {"mitre": 0, "round": 1, "bevel": 2}


def rgb_shares(colour: str) -> tuple[float, float, float]:
    """Return red, green and blue of #rrggbb as shares of 1.

    Examples
    --------
    >>> rgb_shares("#ff0000")
    (1.0, 0.0, 0.0)
    """
    red, green, blue = (int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5))
    return red, green, blue


def write_eps(drawing: Drawing, *, title: str) -> bytes:
    """Return an EPS file of a drawing in mm; its frame is the bounding box."""
    width, height = drawing.width * POINTS_PER_MM, drawing.height * POINTS_PER_MM
    out = [
        "%!PS-Adobe-3.0 EPSF-3.0",
        f"%%BoundingBox: 0 0 {math.ceil(width)} {math.ceil(height)}",
        f"%%HiResBoundingBox: 0 0 {number(width)} {number(height)}",
        f"%%Title: {''.join(c if c.isascii() and c.isprintable() else '?' for c in title)}",
        "%%LanguageLevel: 2",
        "%%Pages: 1",
        "%%EndComments",
        "%%Page: 1 1",
        f"gsave {number(POINTS_PER_MM, 8)} dup neg scale 0 {number(-drawing.height)} translate",
    ]
    for shape in drawing.shapes:
        out.extend(_shape_lines(shape))
    out += ["grestore", "showpage", "%%EOF"]
    return ("\n".join(out) + "\n").encode("ascii")


def _shape_lines(shape: Shape) -> list[str]:
    red, green, blue = rgb_shares(shape.fill)
    lines = ["newpath"]
    for path in shape.paths:
        lines.extend(_path_lines(path))
    lines.append(f"{number(red)} {number(green)} {number(blue)} setrgbcolor")
    if shape.stroke_width is not None:
        pen = f"{CAPS[shape.cap]} setlinecap {JOINS[shape.join]} setlinejoin {number(shape.mitre_limit)} setmiterlimit"
        lines.append(f"{number(shape.stroke_width)} setlinewidth {pen} stroke")
    else:
        lines.append("eofill" if shape.fill_rule == "evenodd" else "fill")
    return lines


def _path_lines(path: Path) -> list[str]:
    if not len(path.segments):
        return []
    straight = bezier.is_straight(path.segments, tolerance=1e-5).tolist()
    x, y = path.segments[0, 0]
    lines = [f"{number(x)} {number(y)} moveto"]
    for (_, c1, c2, end), is_line in zip(path.segments.tolist(), straight, strict=True):
        if is_line:
            lines.append(f"{number(end[0])} {number(end[1])} lineto")
        else:
            lines.append(" ".join(number(v) for point in (c1, c2, end) for v in point) + " curveto")
    if path.closed:
        lines.append("closepath")
    return lines
