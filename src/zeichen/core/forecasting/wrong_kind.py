"""Pictures no trace does justice to: photographs and paintings, pages of writing, texture.

All limits in this module are our own rules, measured on open sets of drawings, on scikit-image's photographs and
on set pages (bench.forecasts); no source.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from zeichen.core.forecasting.drafts import MOST_AREAS, Draft
from zeichen.core.raster.colours import Palette, to_lab
from zeichen.core.raster.picture_readings import PictureReadings

# Share of pixels on edges from which a picture is texture.
MOST_EDGE = 0.30
# Drawings change steadily in less than half of their quiet inside (most: .49), photographs in more (least: .55).
MOST_GRADIENT = 0.52
# A drawing falls into 59 areas at most, a photograph into hundreds.
_MANY_AREAS = 300
# A page: so many pieces no higher than this share of the picture, that hold most of the ink.
_PAGE_PIECES, _LOW, _MOST_OF_IT = 100, 0.06, 0.8
# Mean L*a*b* distance between the figure and its flat colours from which they are no likeness (drawings: 5.5).
MOST_OFF = 8.0
# So many pixels each way say it as well as all.
_LOOKED_AT = 200


@dataclass(frozen=True, slots=True)
class Misfit:
    """Why a picture is the wrong kind: a word for it, a sentence, what was measured, and the limit."""

    kind: str
    words: str
    measured: float
    limit: float
    unit: str = ""


def misfit_at_sight(seen: PictureReadings) -> Misfit | None:
    """Return why a picture should not be traced at all, as far as it shows without a draft; else None."""
    small = seen.pieces.heights_px < _LOW * max(seen.width_px, seen.height_px)
    ink = float(seen.pieces.areas_px2.sum())
    if small.sum() >= _PAGE_PIECES and seen.pieces.areas_px2[small].sum() > _MOST_OF_IT * ink:
        words = f"{int(small.sum())} small pieces and little else: a page of writing or a pattern"
        return Misfit("page", words, float(small.sum()), _PAGE_PIECES, "pieces")
    if seen.edge_mixed_share > MOST_EDGE:
        words = "edges everywhere: texture or a photo"
        return Misfit("texture", words, seen.edge_mixed_share, MOST_EDGE)
    if seen.gradient_share > MOST_GRADIENT:
        words = "shaded all over, like a photo"
        return Misfit("painted", words, seen.gradient_share, MOST_GRADIENT)
    return None


def misfit_of_draft(draft: Draft, off: float) -> Misfit | None:
    """Return why a picture that was drafted should not be traced, or None.

    off: how far its flat colours are from the figure, see colours_off; 0 where no colours are drawn.
    """
    if draft.areas > _MANY_AREAS:
        many = f"more than {MOST_AREAS}" if draft.drawing is None else str(draft.areas)
        return Misfit("areas", f"falls into {many} areas, like a photo", draft.areas, _MANY_AREAS, "areas")
    if off > MOST_OFF:
        words = "no method comes near: neither one tone nor flat colours"
        return Misfit("unlike", words, off, MOST_OFF, "ΔE")
    return None


def colours_off(draft: Draft, palette: Palette) -> float:
    """Return the mean L*a*b* distance of the figure from the flat colours it is drafted in, away from edges."""
    labels, rgb = draft.labels, draft.rgb
    if labels is None or rgb is None:
        return 0.0
    plain = labels.astype(np.uint8)
    box = np.ones((7, 7), np.uint8)
    inside = cv2.dilate(plain, box) == cv2.erode(plain, box)
    if draft.ground is not None:
        inside &= labels != draft.ground
    step = max(1, max(labels.shape) // _LOOKED_AT)
    inside = inside[::step, ::step]
    if not inside.any():
        return 0.0
    calm = cv2.blur(rgb, (5, 5))[::step, ::step][inside]
    away = to_lab(calm) - to_lab(palette.rgb)[labels[::step, ::step][inside]]
    return float(np.sqrt((away**2).sum(axis=1)).mean())
