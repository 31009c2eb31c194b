"""What is left of a drawing once it is written: numbers as the file has them, and nothing that a file cannot hold."""

from dataclasses import replace
from xml.etree import ElementTree

from zeichen.core.formats.plain_svg import read_plain
from zeichen.core.formats.svg import write_svg
from zeichen.core.geometry.drawing import Drawing


def as_written(drawing: Drawing, before: Drawing | None = None) -> Drawing:
    """Return a drawing as it is read back from its own file; one that holds nothing to write stays as it is.

    What is judged must be what the machine gets: rounding to the file's decimals can make a path touch itself.

    before: one as it is written already, of the same frame; shapes taken over from it need not be written again.
    """
    if not any(shape.node_count for shape in drawing.shapes):
        return drawing
    if before is not None and (before.width, before.height) == (drawing.width, drawing.height):
        known = {id(shape) for shape in before.shapes}
        changed = tuple(shape for shape in drawing.shapes if id(shape) not in known)
        if not changed:
            return drawing
        back = _read_back(replace(drawing, shapes=changed))
        if back is not None and len(back.shapes) == len(changed):
            new = {id(old): shape for old, shape in zip(changed, back.shapes, strict=True)}
            return replace(drawing, shapes=tuple(new.get(id(shape), shape) for shape in drawing.shapes))
    back = _read_back(drawing)
    return drawing if back is None else back


def _read_back(drawing: Drawing) -> Drawing | None:
    # Our own text: there is nothing in it that a parser has to be on its guard against.
    return read_plain(ElementTree.fromstring(write_svg(drawing)))
