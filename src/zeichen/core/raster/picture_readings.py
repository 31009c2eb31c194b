"""What a picture shows before anyone traces it: ground, figure, colours, fineness, noise. All in pixels.

All limits in this module are our own rules, from trying; no source.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from zeichen.core.errors import InvalidInputError
from zeichen.core.raster.clean.ground import FIGURE_OFF, find_signature, off_ground, read_ground
from zeichen.core.raster.clean.tone import block_noise, edge_strength
from zeichen.core.raster.colours import Palette, find_palette
from zeichen.core.raster.levels import ink_and_paper
from zeichen.core.raster.picture import Picture, not_larger
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Colours are found in a copy no larger than this.
_COLOUR_PX = 512
# Neighbours that differ by more than this lie on an edge, grey values.
_EDGE = 28
PLAIN_RIM = 0.93
# No more colours than these are ink, paper and what lies between.
INK_AND_PAPER = 3
# A run of figure along the frame shorter than this share of the frame may be noise.
_TOUCHING = 0.004


@dataclass(frozen=True, slots=True)
class PictureReadings:
    """Readings of one picture; lengths in px, shares 0-1.

    colours: flat colours, ground included. edge_mixed_share: pixels on an edge. gradient_share: of the quiet
    areas, how much changes steadily. ground: "plain", "uneven" (changes softly) or "none". ground_share: pixels
    of its colour. detail_per_px: length of edges for each pixel of area. share: how much of each pixel is figure,
    dark or, on a dark ground, light; figure: where it is more than half; figure_box: the rows and columns that
    hold it. pieces: of its separate parts. signature: the box of a likely one, in shares. noise: grey values
    beside edges. palette: the flat colours, those of soft edges among them; ground_rgb: the rim's usual colour.
    """

    width_px: int
    height_px: int
    darkest: float
    lightest: float
    colours: int
    edge_mixed_share: float
    gradient_share: float
    ground: str
    ground_share: float
    touches_border: bool
    dark_on_light: bool
    detail_per_px: float
    share: FloatArray
    figure: BoolArray
    figure_box: tuple[slice, slice]
    figure_width_px: int
    figure_height_px: int
    pieces: "Pieces"
    signature: tuple[float, float, float, float] | None
    noise: float
    palette: Palette
    ground_rgb: FloatArray

    @property
    def contrast(self) -> float:
        """Difference of the lightest and the darkest tone, grey values."""
        return self.lightest - self.darkest


@dataclass(frozen=True, slots=True)
class Pieces:
    """The separate parts of a figure: area, px², and height, px, of each."""

    areas_px2: FloatArray
    heights_px: FloatArray


def read_picture_readings(picture: Picture) -> PictureReadings:
    """Return the readings of a picture."""
    grey = picture.grey()
    ground = read_ground(picture)
    off = off_ground(picture, ground)
    smooth = ground.smooth_share >= PLAIN_RIM
    rim = "plain" if ground.rim_share >= PLAIN_RIM else "uneven" if smooth else "none"
    darkest, lightest = (float(v) for v in np.percentile(grey[::3, ::3], (0.5, 99.5)))
    dark_on_light = _is_dark_on_light(grey, float(ground.rgb @ (0.299, 0.587, 0.114)), off)
    palette = find_palette(not_larger(picture.rgb, _COLOUR_PX))
    # Of several colours every one but the ground is figure.
    many = len(palette.rgb) > INK_AND_PAPER
    share = _coloured(off, palette.rgb, ground.rgb) if many else _figure(grey, dark_on_light=dark_on_light)
    figure = share > 0.5
    strength = edge_strength(grey)
    edges = strength > _EDGE
    rows, columns = np.nonzero(figure.any(axis=1))[0], np.nonzero(figure.any(axis=0))[0]
    box = (_around(rows), _around(columns))
    return PictureReadings(
        width_px=picture.width_px,
        height_px=picture.height_px,
        darkest=darkest,
        lightest=lightest,
        colours=len(palette.rgb),
        edge_mixed_share=float(edges.mean()),
        gradient_share=palette.gradient_share,
        ground=rim,
        ground_share=float((off <= 24).mean()),
        touches_border=_touches(figure),
        dark_on_light=dark_on_light,
        # A soft edge is about three pixels wide.
        detail_per_px=float(edges.mean()) / 3.0,
        share=share,
        figure=figure,
        figure_box=box,
        figure_width_px=int(np.ptp(columns)) + 1 if len(columns) else 0,
        figure_height_px=int(np.ptp(rows)) + 1 if len(rows) else 0,
        pieces=_pieces(figure[box]),
        signature=find_signature(figure),
        noise=block_noise(grey, strength),
        palette=palette,
        ground_rgb=ground.rgb,
    )


def _around(numbers: AnyArray) -> slice:
    """Return the rows or columns that hold the figure, and two more at either side."""
    return slice(max(0, int(numbers[0]) - 2), int(numbers[-1]) + 3) if len(numbers) else slice(0, 1)


def _is_dark_on_light(grey: AnyArray, ground: float, off: AnyArray) -> bool:
    figure = grey[off > FIGURE_OFF]
    return ground >= float(np.median(figure)) if len(figure) > 0.001 * grey.size else ground >= 128.0


def _figure(grey: AnyArray, *, dark_on_light: bool) -> FloatArray:
    """Return how much of each pixel is figure: dark on a light ground, or light on a dark one."""
    try:
        ink, paper = ink_and_paper(grey)
    except InvalidInputError:
        return np.zeros(grey.shape, np.float32)
    dark = np.clip((paper - grey.astype(np.float32)) / max(paper - ink, 1), 0.0, 1.0)
    return np.asarray(dark if dark_on_light else 1.0 - dark)


def _coloured(off: AnyArray, palette: FloatArray, ground: FloatArray) -> FloatArray:
    """Return how much of each pixel is any of several colours, the one nearest to the ground whole."""
    away = np.abs(palette - ground).max(axis=1)
    nearest = float(away[away > 12.0].min()) if (away > 12.0).any() else 120.0
    return np.asarray(np.clip(off.astype(np.float32) / nearest, 0.0, 1.0))


def _touches(figure: BoolArray) -> bool:
    frame = np.concatenate([figure[0], figure[-1], figure[:, 0], figure[:, -1]])
    return bool(frame.sum() > _TOUCHING * len(frame))


def _pieces(mask: BoolArray) -> Pieces:
    _, _, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    return Pieces(
        stats[1:, cv2.CC_STAT_AREA].astype(np.float64), stats[1:, cv2.CC_STAT_HEIGHT].astype(np.float64)
    )
