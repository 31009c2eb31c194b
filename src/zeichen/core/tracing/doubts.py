"""Places of a picture that will not trace well: small lettering, hatching and other texture, gradients.

Found from the pixels alone, before anything is traced. All figures here are our own rules, from trying.
"""

from dataclasses import dataclass
from enum import StrEnum

import cv2
import numpy as np

from zeichen.core.raster.levels import otsu_level
from zeichen.core.raster.picture import Picture
from zeichen.core.values import AnyArray, FloatArray

# Texture is told by blocks of this side: smaller ones take a corner for it (our own rule).
_BLOCK_PX = 16
# Share of a block's pixels that lie on an edge, from which it is texture.
_DENSE = 0.55
# Edges further than this from where there are none are not those of one line, or of a few that meet.
_BAND_PX = 12.0
# Gaps no wider than this between edges are theirs.
_GAP_PX = 5
_LEAST_BLOCKS = 6
_LETTERS = 4
_LETTER_PX = (5, 60)


class DoubtKind(StrEnum):
    """Why a place will not trace well."""

    LETTERING = "lettering"
    TEXTURE = "texture"
    GRADIENT = "gradient"


@dataclass(frozen=True, slots=True)
class Doubt:
    """A place in the picture, px, and why it will not trace well."""

    kind: DoubtKind
    x_min: float
    y_min: float
    x_max: float
    y_max: float


def find_doubts(picture: Picture) -> list[Doubt]:
    """Return the places of a picture that will not trace well, at most 40, largest first."""
    grey = picture.grey()
    if int(np.ptp(grey)) < 24:
        return []
    texture = _texture(grey)
    found = [
        *_boxes(DoubtKind.TEXTURE, texture, _LEAST_BLOCKS),
        *_boxes(DoubtKind.GRADIENT, _gradients(picture), 4 * _LEAST_BLOCKS),
        *_lettering(grey),
    ]
    return sorted(found, key=lambda d: -(d.x_max - d.x_min) * (d.y_max - d.y_min))[:40]


def has_lettering(picture: Picture) -> bool:
    """Return whether a picture seems to hold small letters."""
    grey = picture.grey()
    return int(np.ptp(grey)) >= 24 and bool(_lettering(grey))


def _blocks(values: FloatArray) -> FloatArray:
    """Return the means of square blocks; what does not fill a block is left out."""
    rows, columns = values.shape[0] // _BLOCK_PX, values.shape[1] // _BLOCK_PX
    cut = values[: rows * _BLOCK_PX, : columns * _BLOCK_PX]
    return np.asarray(cut.reshape(rows, _BLOCK_PX, columns, _BLOCK_PX).mean(axis=(1, 3)))


def _texture(grey: AnyArray) -> AnyArray:
    """Return the blocks where edges lie so close that they are a tone, not a line."""
    smooth = cv2.GaussianBlur(grey, (0, 0), 0.8)
    slope = np.hypot(cv2.Sobel(smooth, cv2.CV_32F, 1, 0), cv2.Sobel(smooth, cv2.CV_32F, 0, 1)) / 4.0
    # Between two lines of a hatching the slope is nought for a pixel.
    slope = cv2.blur(slope, (3, 3))
    edges = (slope > 12.0).astype(np.uint8)
    # Both edges of one thin line make a band, however it winds; those of many lines side by side a wider one.
    edges = cv2.morphologyEx(edges, cv2.MORPH_CLOSE, np.ones((_GAP_PX, _GAP_PX), np.uint8))
    wide = cv2.distanceTransform(np.pad(edges, 1), cv2.DIST_L2, 5)[1:-1, 1:-1] > _BAND_PX
    near = cv2.distanceTransform((~wide).astype(np.uint8), cv2.DIST_L2, 5) < _BAND_PX
    return np.asarray(_blocks((near & (edges > 0) & wide.any()).astype(np.float64)) > _DENSE)


def _gradients(picture: Picture) -> AnyArray:
    """Return the blocks whose tone changes steadily, without an edge."""
    smooth = cv2.blur(picture.rgb, (9, 9)).astype(np.float32)
    slope = (
        np.hypot(cv2.Sobel(smooth, cv2.CV_32F, 1, 0), cv2.Sobel(smooth, cv2.CV_32F, 0, 1)).max(axis=2) / 8.0
    )
    steady = ((slope > 0.25) & (slope < 4.0)).astype(np.float64)
    return np.asarray(_blocks(steady) > 0.9)


def _boxes(kind: DoubtKind, blocks: AnyArray, least: int) -> list[Doubt]:
    count, _, stats, _ = cv2.connectedComponentsWithStats(blocks.astype(np.uint8), connectivity=8)
    out = []
    for k in range(1, count):
        # A row of blocks one or two wide is a line or a gap, not an area.
        slim = min(stats[k, cv2.CC_STAT_WIDTH], stats[k, cv2.CC_STAT_HEIGHT]) < 3
        if stats[k, cv2.CC_STAT_AREA] >= least and not slim:
            x, y, w, h = (float(v) * _BLOCK_PX for v in stats[k, :4])
            out.append(Doubt(kind, x, y, x + w, y + h))
    return out


def _lettering(grey: AnyArray) -> list[Doubt]:
    """Return rows of at least four small dark pieces of like height, close together on one line."""
    mask = (grey <= otsu_level(grey)).astype(np.uint8)
    _, _, stats, _ = cv2.connectedComponentsWithStats(mask, connectivity=8)
    height = stats[1:, cv2.CC_STAT_HEIGHT]
    width = stats[1:, cv2.CC_STAT_WIDTH]
    letters = (height >= _LETTER_PX[0]) & (height <= _LETTER_PX[1]) & (width <= 2.5 * height)
    boxes = stats[1:, :4][letters].astype(float)
    if len(boxes) < _LETTERS or len(boxes) > 4000:
        return []
    boxes = boxes[np.argsort(boxes[:, 0])]
    row = list(range(len(boxes)))
    for i in range(len(boxes)):
        x, y, w, h = boxes[i]
        for j in range(i + 1, len(boxes)):
            xx, yy, _, hh = boxes[j]
            if xx - (x + w) > 1.2 * h:
                break
            bottoms = abs((yy + hh) - (y + h))
            if 0.55 < hh / h < 1.8 and bottoms < 0.4 * max(h, hh) and xx - (x + w) > -0.3 * w:
                row[j] = row[i]
                break
    out = []
    for first in set(row):
        members = boxes[[k for k in range(len(boxes)) if row[k] == first]]
        if len(members) >= _LETTERS:
            low, high = members[:, :2].min(axis=0), (members[:, :2] + members[:, 2:]).max(axis=0)
            out.append(
                Doubt(DoubtKind.LETTERING, float(low[0]), float(low[1]), float(high[0]), float(high[1]))
            )
    return out
