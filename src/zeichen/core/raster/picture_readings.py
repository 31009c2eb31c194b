"""What a picture shows before anyone traces it: ground, figure, colours, fineness, noise. All in pixels.

All limits in this module are our own rules, from trying; no source.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from zeichen.core.errors import InvalidInputError
from zeichen.core.raster.clean.ground import FIGURE_OFF, find_signature, off_ground, read_ground
from zeichen.core.raster.clean.tone import block_noise, edge_strength
from zeichen.core.raster.colours import find_palette
from zeichen.core.raster.levels import ink_and_paper
from zeichen.core.raster.picture import Picture
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Colours are counted in a copy no larger than this.
_COLOUR_PX = 320
# Neighbours that differ by more than this lie on an edge, grey values.
_EDGE = 28
PLAIN_RIM = 0.93
# No more colours than these are ink, paper and what lies between.
INK_AND_PAPER = 3
# A run of figure along the frame shorter than this share of the frame may be noise.
_TOUCHING = 0.004
# A narrow place counts when it is at least this many times as long as it is wide.
_LONG = 1.6
_FINER = 4


@dataclass(frozen=True, slots=True)
class PictureReadings:
    """Readings of one picture; lengths in px, shares 0-1.

    colours: flat colours, ground included. edge_mixed_share: pixels on an edge. gradient_share: of the quiet
    areas, how much changes steadily. ground: "plain", "uneven" (changes softly) or "none". ground_share: pixels
    of its colour. detail_per_px: length of edges for each pixel of area. share: how much of each pixel is figure,
    dark or, on a dark ground, light; figure: where it is more than half; figure_box: the rows and columns that
    hold it. piece_areas_px2, hole_areas_px2: of separate parts and of holes in them, smallest first. signature:
    the box of a likely one, in shares. noise: grey values beside edges.
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
    piece_areas_px2: tuple[float, ...]
    hole_areas_px2: tuple[float, ...]
    signature: tuple[float, float, float, float] | None
    noise: float

    @property
    def contrast(self) -> float:
        """Difference of the lightest and the darkest tone, grey values."""
        return self.lightest - self.darkest


def read_picture_readings(picture: Picture) -> PictureReadings:
    """Return the readings of a picture."""
    grey = picture.grey()
    ground = read_ground(picture)
    off = off_ground(picture, ground)
    smooth = ground.smooth_share >= PLAIN_RIM
    rim = "plain" if ground.rim_share >= PLAIN_RIM else "uneven" if smooth else "none"
    darkest, lightest = (float(v) for v in np.percentile(grey[::3, ::3], (0.5, 99.5)))
    dark_on_light = _is_dark_on_light(grey, float(ground.rgb @ (0.299, 0.587, 0.114)), off)
    step = max(1, -(-max(grey.shape) // _COLOUR_PX))
    palette = find_palette(np.ascontiguousarray(picture.rgb[::step, ::step]))
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
        piece_areas_px2=_areas(figure[box]),
        hole_areas_px2=_areas(~figure[box], inside=True),
        signature=find_signature(figure),
        noise=block_noise(grey, strength),
    )


def thinnest_px(share: FloatArray, *, least: float, most: float) -> tuple[float, tuple[float, float]] | None:
    """Return the width of the thinnest part and where it is, or None if none is thinner than most.

    A part is thin where a disc as wide would not fit and that for longer than it is wide: tips of corners
    do not count. Found by openings with discs (J. Serra, "Image Analysis and Mathematical Morphology", 1982),
    by way of distance transforms, the width halved in between; then measured in the enlarged place itself.

    Parameters
    ----------
    share : (height, width) array
        How much of each pixel is figure, 0-1.
    least, most : float, px
        Widths looked at.
    """
    mask = share > 0.5
    inside = cv2.distanceTransform(np.pad(mask, 1).astype(np.uint8), cv2.DIST_L2, 5)[1:-1, 1:-1]
    ridge = mask & (inside >= cv2.dilate(inside, np.ones((3, 3), np.uint8)) - 0.35)
    found = _thin_at(mask, inside, ridge, most)
    if found is None:
        return None
    low, high = least, most
    while high > 1.5 * low:
        middle = (low * high) ** 0.5
        finer = _thin_at(mask, inside, ridge, middle)
        if finer is None:
            low = middle
        else:
            high, found = middle, finer
    width, place = found
    return _measured(share, place, width), place


def _measured(share: FloatArray, place: tuple[float, float], width: float) -> float:
    """Return the width of a thin part in its enlarged surroundings, where a pixel is a quarter of one."""
    half = int(1.5 * width) + 4
    column, row = int(place[0]), int(place[1])
    top, left = max(0, row - half), max(0, column - half)
    part = share[top : row + half + 1, left : column + half + 1].astype(np.float32)
    large = cv2.resize(part, None, fx=_FINER, fy=_FINER, interpolation=cv2.INTER_LINEAR) > 0.5
    depth = cv2.distanceTransform(np.pad(large, 1).astype(np.uint8), cv2.DIST_L2, 5)[1:-1, 1:-1]
    y, x = round((place[1] - top) * _FINER), round((place[0] - left) * _FINER)
    near = round((width / 2.0 + 1.0) * _FINER)
    around = depth[max(0, y - near) : y + near, max(0, x - near) : x + near]
    return (2.0 * float(around.max(initial=0.0)) - 0.5) / _FINER


def _thin_at(
    mask: BoolArray, inside: AnyArray, ridge: BoolArray, width: float
) -> tuple[float, tuple[float, float]] | None:
    """Return the narrowest long part that a disc of some width does not reach into: its width and place."""
    radius = width / 2.0
    core = inside > radius
    away = cv2.distanceTransform((~core).astype(np.uint8), cv2.DIST_L2, 5)
    left = (mask & (away > radius + 0.5)).astype(np.uint8)
    _, labels, stats, _ = cv2.connectedComponentsWithStats(left, connectivity=8)
    best: tuple[float, tuple[float, float]] | None = None
    for k in (np.argsort(-stats[1:, cv2.CC_STAT_AREA])[:60] + 1).tolist():
        x, y, w, h, area = (int(v) for v in stats[k])
        if area < width:
            break
        box = slice(y, y + h), slice(x, x + w)
        # Only along its middle a part's depth tells its width; at the edge of something broad there is no middle.
        middle = (labels[box] == k) & ridge[box]
        depth = inside[box][middle]
        if len(depth) < 3:
            continue
        # Its length from its area; a tip is hardly longer than wide.
        broad = 2.0 * float(np.percentile(depth, 90)) - 0.5
        if area < _LONG * broad * broad or max(w, h) < _LONG * broad or len(depth) < broad:
            continue
        usual = float(np.percentile(depth, 10))
        thick = 2.0 * usual - 0.5
        rows, columns = np.nonzero(middle)
        row, column = _amid(inside, rows[depth <= usual + 0.3] + y, columns[depth <= usual + 0.3] + x, thick)
        if best is None or thick < best[0]:
            best = thick, (column + 0.5, row + 0.5)
    return best


def _amid(inside: AnyArray, rows: AnyArray, columns: AnyArray, thick: float) -> tuple[int, int]:
    """Return the one of some places around which nothing is deep: not where a thin part meets a broad one."""
    reach = round(thick / 2.0) + 2
    tried = np.linspace(0, len(rows) - 1, min(len(rows), 16)).astype(int).tolist()

    def deepest(k: int) -> float:
        r, c = int(rows[k]), int(columns[k])
        return float(inside[max(0, r - reach) : r + reach + 1, max(0, c - reach) : c + reach + 1].max())

    best = min(tried, key=deepest)
    return int(rows[best]), int(columns[best])


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


def _areas(mask: BoolArray, *, inside: bool = False) -> tuple[float, ...]:
    """Return the areas of separate parts, smallest first; inside leaves out what touches the frame."""
    _, labels, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    areas = stats[:, cv2.CC_STAT_AREA].astype(np.float64)
    keep = np.ones(len(areas), np.bool_)
    keep[0] = False
    if inside:
        keep[np.unique(np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]]))] = False
    return tuple(float(v) for v in np.sort(areas[keep]))
