"""SVG read: foreign files as drawings, true to their picture.

Files that Zeichen wrote are read as they are; all others go element by element through `foreign`.
"""

import math
from dataclasses import replace

import numpy as np

from zeichen.core.errors import FormatError, InvalidInputError
from zeichen.core.formats.foreign.bounds import require_bounds
from zeichen.core.formats.foreign.composing import OPAQUE
from zeichen.core.formats.foreign.pieces import Piece, over
from zeichen.core.formats.foreign.reading import Page, read_page
from zeichen.core.formats.foreign.style import Rgba
from zeichen.core.formats.foreign.tree import parse_safely
from zeichen.core.formats.names import FreeNames
from zeichen.core.formats.plain_svg import origin_of, read_plain
from zeichen.core.formats.taken import Taken, text_line
from zeichen.core.geometry.drawing import Drawing, Shape
from zeichen.core.geometry.extent import MM_PER_CSS_PX, require_file_size

_WHITE: Rgba = (1.0, 1.0, 1.0, 1.0)
_SEE_THROUGH = "half-transparent colour: drawn as it looks on white"
_NOT_UNDERSTOOD = "The SVG could not be understood. Open and save it again in a drawing program."


def read_svg(data: bytes | str) -> Drawing:
    """Return the drawing in an SVG file; raises as read_foreign_svg does."""
    return read_foreign_svg(data).drawing


def read_foreign_svg(data: bytes | str) -> Taken:
    """Return the drawing in an SVG file, and what of the file it does not hold.

    Transforms, frames, copies, clips and style rules are worked out; gradients become their mean colour; text,
    pictures, masks and filters are left out and named.

    Raises
    ------
    FormatError
        If the file is empty, too large, not XML, not SVG, holds entities, scripts or links to other places, has no
        shapes, or is under 1 µm or over 100 m in size.
    TooMuchError
        If it has, or makes by copies, more elements, shapes or dashes than can be worked with.
    """
    root = parse_safely(data.encode() if isinstance(data, str) else data)
    plain = read_plain(root)
    if plain is not None:
        return Taken(plain, [])
    require_bounds(root)
    try:
        # Numbers beyond all bounds are told by what comes of them.
        with np.errstate(all="ignore"):
            taken = _drawing_of(read_page(root))
    except InvalidInputError:
        raise
    except (ArithmeticError, RecursionError) as error:
        raise FormatError(_NOT_UNDERSTOOD) from error
    require_file_size(taken.drawing, mm_per_unit=MM_PER_CSS_PX)
    return taken._replace(drawing=replace(taken.drawing, origin=origin_of(root)))


def _drawing_of(page: Page) -> Taken:
    lost = page.lost
    names = FreeNames()
    shapes: list[Shape] = []
    before: Piece | None = None
    for piece in page.pieces:
        if not any(len(path.segments) for path in piece.paths):
            continue
        shapes.append(_shape(piece, before, shapes, names))
        before = piece
        if piece.colour[3] < OPAQUE:
            lost[_SEE_THROUGH] += 1
    listed = [f"{times} × {words}" for words, times in lost.items()] + text_line(page.texts)
    if not shapes:
        without = f" Not taken: {'; '.join(listed)}." if listed else ""
        raise FormatError(f"The SVG holds no shapes that show: nothing to cut, engrave or print.{without}")
    if not (page.width > 0 and page.height > 0 and math.isfinite(page.width) and math.isfinite(page.height)):
        raise FormatError("The SVG has a page of no size. Give it a width and height above 0.")
    return Taken(Drawing(page.width, page.height, tuple(shapes)), listed, tuple(page.texts))


def _shape(piece: Piece, before: Piece | None, shapes: list[Shape], names: FreeNames) -> Shape:
    marks = piece.marks
    name = marks.id or f"s{len(shapes) + 1}"
    # The line of a shape that has an area as well is named after it.
    if piece.part and before is not None and before.spine is piece.spine:
        name = f"{marks.id or shapes[-1].id}-{piece.part}"
    red, green, blue = (round(255 * value) for value in over(piece.colour, _WHITE)[:3])
    return Shape(
        names.take(name),
        piece.paths,
        f"#{red:02x}{green:02x}{blue:02x}",
        piece.rule,
        piece.width,
        marks.group,
        marks.locked,
        marks.hidden,
        marks.letters,
        piece.nib.cap if piece.width is not None else "round",
        piece.nib.join if piece.width is not None else "round",
        piece.nib.mitre_limit if piece.width is not None else 4.0,
    )
