"""SVG read: foreign files as drawings.

They go through a hardened XML parser first: entities, scripts and links to other places are refused, not
stripped, because a file that carries them is not what the maker thinks it is.
"""

import io
import math
import re
from collections import Counter
from dataclasses import replace
from itertools import count
from typing import Any
from xml.etree.ElementTree import ParseError

import numpy as np
import svgelements as se
from defusedxml import ElementTree as SafeTree
from defusedxml.common import DefusedXmlException

from zeichen.core.errors import FormatError, InvalidInputError
from zeichen.core.formats.names import FreeNames
from zeichen.core.formats.plain_svg import read_plain
from zeichen.core.formats.svg_bounds import bounded
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.extent import MM_PER_CSS_PX, require_file_size
from zeichen.core.geometry.line_clipping import clipped_line
from zeichen.core.geometry.overlay import Region, intersected
from zeichen.core.values import FloatArray

LARGEST_BYTES = 64 * 1024 * 1024
_INK = "#24272b"
_NOT_UNDERSTOOD = "The SVG could not be understood. Open and save it again in a drawing program."
_LIVE_TEXT = "The SVG holds live text. Turn the text into outlines first, then try again."
_NOT_APPLIED = {
    "masks: not applied": "mask",
    "filters: not applied": "filter",
}
_PATH_DATA = re.compile(r"(?:[\s,MmZzLlHhVvCcSsQqTtAa]|[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)*+")
_ACTIVE_TAGS = {"script", "foreignobject", "iframe", "handler"}


def read_svg(data: bytes | str) -> Drawing:
    """Return the drawing in an SVG file: transforms applied, basic shapes and arcs turned into cubics.

    Raises
    ------
    FormatError
        If the file is empty, too large, not XML, not SVG, holds entities, scripts, links to other
        places or live text, or has no shapes.
    """
    return read_whole_svg(data)[0]


def read_whole_svg(data: bytes | str) -> tuple[Drawing, list[str]]:
    """Return the drawing in an SVG file, and in words what of the file it does not hold; otherwise as read_svg."""
    drawing, left_out = read_foreign_svg(data)
    if any("live text" in line for line in left_out):
        raise FormatError(_LIVE_TEXT)
    return drawing, left_out


def read_foreign_svg(data: bytes | str) -> tuple[Drawing, list[str]]:
    """Return the drawing in an SVG file from elsewhere, and what of the file it does not hold, in words.

    Raises
    ------
    FormatError
        As read_svg, but for live text.
    """
    raw = data.encode() if isinstance(data, str) else data
    root = _refuse_hostile(raw)
    plain = read_plain(root)
    if plain is not None:
        return plain, []
    drawing, left_out = _read_any(bounded(root, raw))
    require_file_size(drawing, mm_per_unit=MM_PER_CSS_PX)
    return drawing, left_out


def _read_any(raw: bytes) -> tuple[Drawing, list[str]]:
    try:
        document = se.SVG.parse(io.BytesIO(raw), reify=True, ppi=96)
        width, height = float(document.width), float(document.height)
    except Exception as error:  # svgelements raises whatever its parsing meets
        raise FormatError(_NOT_UNDERSTOOD) from error
    shapes: list[Shape] = []
    names = FreeNames()
    missing: Counter[str] = Counter()
    clips = _clips(raw)
    for number, element in enumerate(document.elements()):
        if isinstance(element, se.Text):
            missing["live text: turn it into outlines there, or set it anew with Lettering"] += 1
        elif isinstance(element, se.Image):
            missing["pictures: trace them instead"] += 1
        if (
            not isinstance(element, se.Shape)
            or isinstance(element, se.Text)
            or element.values.get("display") == "none"
        ):
            continue
        for words, key in _NOT_APPLIED.items():
            if str(element.values.get(key) or "none") != "none":
                missing[words] += 1
        if str(element.values.get("fill") or "").startswith("url("):
            missing["gradients and patterns: drawn in one colour"] += 1
        if not _readable_data(element):
            missing["paths whose data is not as SVG writes it: read up to there, or not at all"] += 1
        try:
            made = _shapes(element, f"s{len(shapes) + 1}", names)
        except (ArithmeticError, TypeError, AttributeError, IndexError) as error:
            raise FormatError(_NOT_UNDERSTOOD) from error
        except ValueError as error:
            if isinstance(error, InvalidInputError):
                raise
            raise FormatError(_NOT_UNDERSTOOD) from error
        if not made and _is_painted(element):
            missing["shapes of no size"] += 1
        clip = clips.get(number)
        for shape in made:
            if clip is not None and shape.stroke_width is not None:
                cut = [part for path in shape.paths for part in clipped_line(path, clip)]
                shape = replace(shape, paths=tuple(cut))
            elif clip is not None:
                shape = replace(shape, paths=intersected([Region.of(shape), clip]), fill_rule="evenodd")
            if shape.paths:
                shapes.append(shape)
    if not shapes and any("live text" in words for words in missing):
        raise FormatError(_LIVE_TEXT)
    if not shapes:
        without = f" Not taken: {'; '.join(missing)}." if missing else ""
        raise FormatError(f"The SVG holds no shapes that can be made: no paths, no basic shapes.{without}")
    if not (width > 0 and height > 0 and math.isfinite(width) and math.isfinite(height)):
        raise FormatError("The SVG has a page of no size. Give it a width and height above 0.")
    listed = [f"{times} × {words}" for words, times in missing.items()]
    return Drawing(width, height, tuple(shapes)), listed


def _clips(raw: bytes) -> dict[int, Region]:
    """Return the areas that elements are clipped to, by the elements' numbers in the document.

    A clip path stands in the coordinates of what refers to it (CSS Masking 1, clipPathUnits); a group's holds
    for all in it.
    """
    if b"clip-path" not in raw:
        return {}
    out: dict[int, Region] = {}
    number = count()

    def visit(element: Any, held: Region | None) -> None:
        mine = next(number)
        clip = getattr(element, "clip_path", None)
        if clip:
            own = _clip_region(clip, element.transform)
            held = own if held is None else Region(intersected([held, own]))
        if held is not None and isinstance(element, se.Shape):
            out[mine] = held
        if isinstance(element, se.Group | se.Use):
            for child in element:
                visit(child, held)

    visit(se.SVG.parse(io.BytesIO(raw), reify=False, ppi=96), None)
    return out


def _clip_region(clip: Any, transform: Any) -> Region:
    paths: list[Path] = []
    for piece in clip:
        if isinstance(piece, se.Shape):
            path = se.Path(piece) * transform
            path.reify()
            path.approximate_arcs_with_cubics()
            paths.extend(each for each in (_path(sub) for sub in path.as_subpaths()) if each is not None)
    # Pieces of one clip path count together.
    return Region(tuple(paths), "nonzero")


def _refuse_hostile(raw: bytes) -> Any:
    """Return the root element, or raise FormatError."""
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
    return root


def _shapes(element: Any, fallback_id: str, names: FreeNames) -> list[Shape]:
    """Return an element's area and its drawn line, whichever it has."""
    path = se.Path(element)
    path.approximate_arcs_with_cubics()
    paths = tuple(p for p in (_path(sub) for sub in path.as_subpaths()) if p is not None)
    if not paths:
        return []
    name = names.take(str(element.id or fallback_id))
    filled, stroked = _is_filled(element), _is_stroked(element)
    rule = "evenodd" if str(element.values.get("fill-rule", "")).strip() == "evenodd" else "nonzero"
    out: list[Shape] = []
    gradient = str(element.values.get("fill") or "").startswith("url(")
    # A line of two points has no area to fill.
    if (filled or gradient) and not isinstance(element, se.SimpleLine):
        out.append(_marked(Shape(name, paths, element.fill.hex[:7] if filled else _INK, rule), element))
    if stroked:
        named = name if not out else names.take(f"{name}-line")
        drawn = Shape(named, paths, element.stroke.hex[:7], rule, float(element.stroke_width))
        out.append(_marked(drawn, element))
    return out


def _is_filled(element: Any) -> bool:
    return element.fill is not None and element.fill.value is not None and element.fill.alpha != 0


def _is_stroked(element: Any) -> bool:
    painted = element.stroke is not None and element.stroke.value is not None
    return painted and (element.stroke_width or 0) > 0


def _is_painted(element: Any) -> bool:
    return _is_filled(element) or _is_stroked(element)


def _readable_data(element: Any) -> bool:
    """Whether a path's data keeps to the grammar (SVG 2, 9.3.9) and all its numbers are ones a drawing can hold."""
    data = element.values.get("d") if isinstance(element, se.Path) else None
    return data is None or _PATH_DATA.fullmatch(str(data)) is not None


def _marked(shape: Shape, element: Any) -> Shape:
    """Return the shape with what the writer noted of it in data attributes."""
    noted = element.values
    return replace(
        shape,
        group=str(noted.get("data-group") or "")[:80],
        locked=noted.get("data-locked") == "1",
        hidden=noted.get("data-hidden") == "1",
        letters=str(noted.get("data-letters") or "")[:4000],
    )


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
