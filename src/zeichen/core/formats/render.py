"""Pictures of drawings, rendered by resvg: never enlarged from pixels."""

import io
import math

import numpy as np
import resvg_py
from PIL import Image

from zeichen.core.errors import InvalidInputError
from zeichen.core.formats.svg import write_svg
from zeichen.core.geometry.drawing import Drawing
from zeichen.core.values import Bytes8Array

_MOST_SIDE_PX = 16_000


def render_svg(svg: str, *, width_px: int) -> Bytes8Array:
    """Return an SVG document as straight (not premultiplied) RGBA, shape (height, width, 4)."""
    png = bytes(resvg_py.svg_to_bytes(svg_string=svg, width=width_px, skip_system_fonts=True))
    with Image.open(io.BytesIO(png)) as image:
        return np.array(image.convert("RGBA"), dtype=np.uint8)


def render_drawing(drawing: Drawing, *, width_px: int, ground: str | None = None) -> Bytes8Array:
    """Return a drawing's frame as RGBA, transparent unless a ground colour is given.

    Raises
    ------
    InvalidInputError
        If a side of the picture would be under 1 or over 16,000 px.
    """
    height_px = math.ceil(width_px * drawing.height / drawing.width)
    if not (1 <= width_px <= _MOST_SIDE_PX and 1 <= height_px <= _MOST_SIDE_PX):
        raise InvalidInputError(
            f"A picture of {width_px} x {height_px} px is outside 1 to {_MOST_SIDE_PX} px a side. "
            "Choose a smaller size."
        )
    return render_svg(write_svg(drawing, ground=ground), width_px=width_px)
