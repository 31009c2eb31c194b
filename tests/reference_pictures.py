"""How like a drawing is to the picture a renderer makes of the file it came from."""

import io
from dataclasses import dataclass

import numpy as np
import resvg_py
from PIL import Image
from skimage.color import deltaE_ciede2000, rgb2lab

from zeichen.core.formats.svg import write_svg
from zeichen.core.geometry import Drawing


@dataclass(frozen=True)
class Likeness:
    """Common share of what both paint, and mean CIEDE2000 over it, both on white."""

    iou: float
    delta_e: float


def picture(svg: str, width_px: int) -> np.ndarray:
    """Return resvg's picture of an SVG as RGBA shares of 1; a CSS px is 1/96 in."""
    png = resvg_py.svg_to_bytes(
        svg_string=svg, width=width_px, skip_system_fonts=True, dpi=96, languages=["en"]
    )
    return np.asarray(Image.open(io.BytesIO(bytes(png))).convert("RGBA"), dtype=float) / 255.0


def likeness(svg: str, drawing: Drawing, *, width_px: int = 480) -> Likeness:
    """Compare the pictures of a file and of the drawing read from it."""
    theirs, ours = picture(svg, width_px), picture(write_svg(drawing), width_px)
    rows = min(len(theirs), len(ours))
    assert abs(len(theirs) - len(ours)) <= 1
    theirs, ours = theirs[:rows], ours[:rows]
    # What shows at all: half-transparent colours come in as they look on white.
    both, any_of = (np.logical_and, np.logical_or)
    seen = [_opaque(each) for each in (theirs, ours)]
    union = any_of(*seen).sum()
    labs = [
        rgb2lab((each[..., :3] * each[..., 3:] + 1 - each[..., 3:])[any_of(*seen)][None])
        for each in (theirs, ours)
    ]
    delta = float(deltaE_ciede2000(*labs).mean()) if union else 0.0
    return Likeness(float(both(*seen).sum() / union) if union else 1.0, delta)


def _opaque(rgba: np.ndarray) -> np.ndarray:
    return rgba[..., 3] > 0.25
