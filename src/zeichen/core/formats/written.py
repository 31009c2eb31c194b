"""What is left of a drawing once it is written: numbers as the file has them, and nothing that a file cannot hold."""

from xml.etree import ElementTree

from zeichen.core.formats.plain_svg import read_plain
from zeichen.core.formats.svg import write_svg
from zeichen.core.geometry.drawing import Drawing


def as_written(drawing: Drawing) -> Drawing:
    """Return a drawing as it is read back from its own file; one that holds nothing to write stays as it is.

    What is judged must be what the machine gets: rounding to the file's decimals can make a path touch itself.
    """
    if not any(shape.node_count for shape in drawing.shapes):
        return drawing
    # Our own text: there is nothing in it that a parser has to be on its guard against.
    back = read_plain(ElementTree.fromstring(write_svg(drawing)))
    return drawing if back is None else back
