"""Drawing files of any kind Zeichen reads, told apart by what is in them; their names may say anything."""

from zeichen.core.errors import FormatError
from zeichen.core.formats.dxf_reading import read_foreign_dxf
from zeichen.core.formats.svg_reading import read_foreign_svg
from zeichen.core.formats.taken import Taken

_PICTURE = "Bring it in as a sketch and trace it."
_DRAWING = "Save the drawing as SVG or DXF."
# What files begin with (their own specifications, from memory), what they are, and what to do about it.
_BEGINNINGS: tuple[tuple[bytes, str, str], ...] = (
    (b"\xff\xd8\xff", "a JPEG", _PICTURE),
    (b"\x89PNG\r\n", "a PNG", _PICTURE),
    (b"GIF8", "a GIF", _PICTURE),
    (b"BM", "a BMP", _PICTURE),
    (b"II*\x00", "a TIFF", _PICTURE),
    (b"MM\x00*", "a TIFF", _PICTURE),
    (b"%PDF", "a PDF", _DRAWING),
    (b"%!PS", "a PostScript file", _DRAWING),
    (b"PK\x03\x04", "a ZIP archive", "Unpack it, and choose the drawing in it."),
    (b"AC10", "a DWG", _DRAWING),
    (b"solid ", "an STL", _DRAWING),
    (b"{", "a JSON file", _DRAWING),
)


def read_drawing_file(data: bytes, name: str) -> Taken:
    """Return the drawing in an SVG or DXF file, and what of the file it does not hold.

    Parameters
    ----------
    data : bytes
    name : str
        Of the file, for messages.

    Raises
    ------
    FormatError
        If it is neither, damaged, hostile, too large or empty; the message says what it is instead.
    TooMuchError
        If it asks for more than can be worked with.
    """
    if not data.strip():
        raise FormatError(f"{name} is empty (0 bytes). Choose the drawing again.")
    head = data[:4096].removeprefix(b"\xef\xbb\xbf").lstrip()
    lower = head.lower()
    if (
        lower.startswith((b"\xff\xfe", b"\xfe\xff"))
        or b"<svg" in lower
        or lower.startswith((b"<?xml", b"<!--"))
    ):
        return read_foreign_svg(data)
    if data[:2] == b"\x1f\x8b":
        return read_foreign_svg(data)
    if b" Binary DXF\r\n" in data[:24] or _pairs(head):
        return read_foreign_dxf(data)
    kind = _kind(data, lower)
    if kind is not None:
        raise FormatError(f"{name} is {kind[0]}, not a drawing. {kind[1]}")
    if name.lower().endswith((".svg", ".svgz")):
        return read_foreign_svg(data)
    if name.lower().endswith(".dxf"):
        return read_foreign_dxf(data)
    raise FormatError(f"{name} is neither an SVG nor a DXF file. {_DRAWING}")


def _pairs(head: bytes) -> bool:
    """Return whether a file begins with a DXF group: a code on a line of its own, 0 or a comment."""
    lines = head.split(b"\n", 2)
    return len(lines) > 1 and lines[0].strip() in (b"0", b"999")


def _kind(data: bytes, lower: bytes) -> tuple[str, str] | None:
    """Return what a file is that is no drawing, and what to do about it."""
    if data[:4] == b"RIFF" and data[8:12] == b"WEBP":
        return "a WebP", _PICTURE
    if data[4:12] in (b"ftypavif", b"ftypheic", b"ftypmif1"):
        return "a HEIF or AVIF picture", "Save it as PNG or JPEG, and trace it."
    if lower.startswith((b"<!doctype html", b"<html")):
        return "a web page", _DRAWING
    return next(((kind, remedy) for start, kind, remedy in _BEGINNINGS if data.startswith(start)), None)
