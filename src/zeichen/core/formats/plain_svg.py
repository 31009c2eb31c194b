"""SVG as Zeichen writes it, read many times faster than SVG at large.

A drawing is read each time it is looked at, changed or made. What Zeichen keeps holds nothing but paths of
straight lines and cubics in one frame; a file that holds anything else is left to the reader of all SVG.
"""

import math
import re
import warnings
from typing import Any
from xml.etree import ElementTree

import numpy as np

from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.provenance import Origin, origin_in
from zeichen.core.values import FloatArray

_METADATA = "{http://www.w3.org/2000/svg}metadata"
_MOST_METADATA = 200_000
_FRAME = {"width", "height", "viewBox"}
_PAINT = {
    "id",
    "d",
    "fill",
    "fill-rule",
    "stroke",
    "stroke-width",
    "stroke-linecap",
    "stroke-linejoin",
    "stroke-miterlimit",
}
_CAPS = ("round", "butt", "square")
_JOINS = {"round": "round", "miter": "mitre", "bevel": "bevel"}
_MARKS = {"data-group", "data-locked", "data-hidden", "data-letters", "visibility"}
_NUMBER = re.compile(r"\d+(?:\.\d+)?")
_COLOUR = re.compile(r"#[0-9a-f]{6}")
_DATA = re.compile(r"(?:M[\d.\- ]+(?:[LC][\d.\- ]+)*Z?)+")
_NUMBERS = {"L": 2, "C": 6}
_SAME_PX = 1e-9
_CLOSED = 1e-6


def read_plain(root: Any) -> Drawing | None:
    """Return the drawing under an SVG root element, or None if there is more to it than Zeichen writes."""
    frame = root.attrib
    if set(frame) != _FRAME or not all(_NUMBER.fullmatch(frame[key]) for key in ("width", "height")):
        return None
    if frame["viewBox"] != f"0 0 {frame['width']} {frame['height']}":
        return None
    width, height = float(frame["width"]), float(frame["height"])
    shapes: list[Shape] = []
    for element in root:
        if element.tag == _METADATA:
            continue
        shape = _shape(element)
        if shape is None:
            return None
        shapes.append(shape)
    if not shapes or not (width > 0 and height > 0) or len({shape.id for shape in shapes}) != len(shapes):
        return None
    return Drawing(width, height, tuple(shapes), origin_of(root))


def origin_of(root: Any) -> Origin | None:
    """Return what the metadata of an SVG says of how it came about."""
    for element in root:
        if element.tag == _METADATA:
            found = origin_in(ElementTree.tostring(element, encoding="unicode")[:_MOST_METADATA])
            if found is not None:
                return found
    return None


def _shape(element: Any) -> Shape | None:
    noted = element.attrib
    fill, stroke = noted.get("fill", ""), noted.get("stroke")
    if element.tag != "{http://www.w3.org/2000/svg}path" or len(element) or not noted.get("id"):
        return None
    if not noted.keys() <= _PAINT | _MARKS or not _DATA.fullmatch(noted.get("d", "")):
        return None
    colour = fill if stroke is None else stroke
    if not _COLOUR.fullmatch(colour) or (stroke is not None and fill != "none"):
        return None
    if (stroke is not None) != bool(_NUMBER.fullmatch(noted.get("stroke-width", ""))):
        return None
    pen = _pen(noted) if stroke is not None else {}
    if pen is None:
        return None
    paths = []
    for data in noted["d"].split("M")[1:]:
        path = _path(data)
        if path is None:
            return None
        if len(path.segments):
            paths.append(path)
    width = None if stroke is None else float(noted["stroke-width"])
    if not paths or width == 0.0:
        return None
    return Shape(
        noted["id"],
        tuple(paths),
        colour,
        "evenodd" if noted.get("fill-rule") == "evenodd" else "nonzero",
        width,
        group=noted.get("data-group", "")[:80],
        locked=noted.get("data-locked") == "1",
        hidden=noted.get("data-hidden") == "1",
        letters=noted.get("data-letters", "")[:4000],
        **pen,
    )


def _pen(noted: Any) -> dict[str, Any] | None:
    """Return how a line ends and turns; None if that is not written out."""
    cap, join = noted.get("stroke-linecap"), _JOINS.get(noted.get("stroke-linejoin", ""))
    limit = noted.get("stroke-miterlimit", "4")
    if cap not in _CAPS or join is None or not _NUMBER.fullmatch(limit) or float(limit) < 1:
        return None
    return {"cap": cap, "join": join, "mitre_limit": float(limit)}


def _path(data: str) -> Path | None:
    """Return one path from its data after the M; None if a number is missing or not one."""
    closed = data.endswith("Z")
    commands = re.findall("[LC]", data)
    with warnings.catch_warnings():
        # What is no row of numbers is told by their count.
        warnings.simplefilter("ignore", DeprecationWarning)
        numbers: FloatArray = np.fromstring(re.sub("[LCZ]", " ", data), sep=" ")
    counts = np.array([_NUMBERS[letter] for letter in commands], dtype=np.int64)
    if len(numbers) != 2 + counts.sum():
        return None
    last = 2 + np.cumsum(counts)
    ends = np.stack([numbers[last - 2], numbers[last - 1]], axis=1)
    starts = np.vstack([numbers[None, :2], ends[:-1]]) if len(ends) else ends
    segments = np.empty((len(ends), 4, 2))
    segments[:, 0], segments[:, 3] = starts, ends
    segments[:, 1] = starts + (ends - starts) * (1 / 3)
    segments[:, 2] = starts + (ends - starts) * (2 / 3)
    curved = counts == 6
    first = last[curved][:, None] - 6 + np.arange(4)
    segments[curved, 1:3] = numbers[first].reshape(-1, 2, 2)
    # A line of no length is none.
    long = np.hypot(*(ends - starts).T) >= _SAME_PX if len(ends) else np.zeros(0, bool)
    segments = segments[curved | long]
    if closed and len(ends):
        start, end = numbers[:2], ends[-1]
        if math.dist(start, end) >= _SAME_PX:
            mixed = [end, end + (start - end) * (1 / 3), end + (start - end) * (2 / 3), start]
            segments = np.concatenate([segments, np.array(mixed)[None]])
    if len(segments) and not closed:
        size = float(np.ptp(segments.reshape(-1, 2), axis=0).max())
        closed = math.dist(segments[0, 0], segments[-1, 3]) <= _CLOSED * max(size, _SAME_PX)
    return Path(segments, closed)
