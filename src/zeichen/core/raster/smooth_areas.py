"""Areas that have no edge of their own inside, and how their colour changes over them.

An edge changes a colour within about a pixel; light and shade change it over many. So pixels beside a steep and narrow
change are edges; what they leave is areas, and over each the colour is smoothed without looking across its rim.
"""

from dataclasses import dataclass
from functools import partial

import cv2
import numpy as np
from scipy import ndimage

from zeichen.core.compiled import counted, uncounted
from zeichen.core.raster.noise import grey_noise
from zeichen.core.values import AnyArray, BoolArray, Bytes8Array, value_below

# Edges are looked for in a picture smoothed by this (standard deviation, px): JPEG blocks are no edges.
_EDGE_SMOOTH_PX = 1.2
# A change of less than this per px, or than so many times the noise, is shading: a border of 10 levels shows, smoothed
# by that, as 2.5 per px. Measured on shaded clipart: with 4 areas leak, with 1.5 noise is an edge.
_LEAST_SLOPE = 2.5
_SLOPE_OF_NOISE = 0.9
# Where the slope so many px to either side is still this share of it, the change is a soft one and no edge; in a
# blurred picture, half-way from that share at its sharpest edges to a slope that does not change.
_BESIDE_PX = 3.0
_SOFT, _SHARPEST = 0.7, 0.2
# Areas smaller than this are part of an edge, px².
_LEAST_PX2 = 24
# Over how far a colour is smoothed in its area (standard deviation), as a share of the picture's side, and px at least
# and at most: measured on shaded clipart of 1024 px, where half of it leaves noise in the borders of steps, and twice
# as much is no calmer.
_SMOOTH, _LEAST_SMOOTH_PX, _MOST_SMOOTH_PX = 1 / 73, 4.0, 40.0
# That is so many cells, in which pixels are counted together.
_CELLS = 3.5
# Smaller areas have one colour; as a multiple of the square of it.
_ONE_COLOUR = 3.0
# And areas that nowhere reach so far from their rim: what changes along a line's core is the noise beside its edges.
_NARROW_PX = 3.0
# What keeps planes level where an area is too narrow to tell, as a share of the square of the smoothing.
_LEVEL = 0.05
# How far from an edge's pixels the areas beside it may begin, px, and how many of them are looked at.
_REACH_PX = 7
_MOST_BESIDE = 6


@dataclass(frozen=True, slots=True)
class SmoothAreas:
    """Where a picture's areas are and what colour each of their pixels has without noise.

    number: (height, width) int32, the area of each pixel, -1 beside edges; count: how many there are.
    field: (height, width, 3) float32, 0-255, the smoothed colour; any where number is -1.
    noise: standard deviation, grey levels.
    """

    number: AnyArray
    count: int
    field: AnyArray
    noise: float


def smooth_areas(rgb: Bytes8Array) -> SmoothAreas:
    """Return the areas of a picture, (height, width, 3)."""
    noise = grey_noise(cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY))
    inside = ~_edges(rgb, noise)
    _, numbers, stats, _ = cv2.connectedComponentsWithStats(inside.astype(np.uint8), connectivity=4)
    sizes = stats[:, cv2.CC_STAT_AREA]
    held = sizes >= _LEAST_PX2
    # What is not inside is number 0 there.
    held[0] = False
    order = np.full(len(sizes), -1, np.int32)
    order[held] = np.arange(np.count_nonzero(held))
    number = order[numbers]
    sigma = min(max(_SMOOTH * max(rgb.shape[:2]), _LEAST_SMOOTH_PX), _MOST_SMOOTH_PX)
    field = rgb.astype(np.float32)
    depth = cv2.distanceTransform(np.pad(inside, 1).astype(np.uint8), cv2.DIST_L2, 3)[1:-1, 1:-1]
    deepest = ndimage.maximum(depth, number, np.arange(np.count_nonzero(held)))
    boxes = ndimage.find_objects(number + 1)
    for k, box in enumerate(boxes):
        here = number[box] == k
        if sizes[held][k] < _ONE_COLOUR * sigma**2 or deepest[k] < _NARROW_PX:
            field[box][here] = field[box][here].mean(axis=0)
        else:
            field[box][here] = _local_planes(field[box], here, sigma)[here]
    return SmoothAreas(number, len(boxes), field, noise)


def _local_planes(picture: AnyArray, here: BoolArray, sigma_px: float) -> AnyArray:
    """Return a smoothed crop (height, width, 3): at each place the plane that fits best what lies here around it.

    Weighted by a bell of that standard deviation: W. S. Cleveland and S. J. Devlin, "Locally weighted regression",
    Journal of the American Statistical Association 83 (1988). Unlike means, planes are right up to an area's rim.
    """
    height, width = here.shape
    cell = max(1, round(sigma_px / _CELLS))
    rows, columns = -(-height // cell), -(-width // cell)
    weight = _in_cells(here.astype(np.float32), cell)
    colour = _in_cells(np.where(here[:, :, None], picture, np.float32(0.0)), cell)
    y, x = np.mgrid[0:rows, 0:columns].astype(np.float32)
    blur = partial(cv2.GaussianBlur, ksize=(0, 0), sigmaX=sigma_px / cell, borderType=cv2.BORDER_CONSTANT)
    w, wx, wy = blur(weight), blur(weight * x), blur(weight * y)
    xx, xy, yy = blur(weight * x * x), blur(weight * x * y), blur(weight * y * y)
    c, cx, cy = blur(colour), blur(colour * x[:, :, None]), blur(colour * y[:, :, None])
    w = np.maximum(w, 1e-9)
    mx, my, mean = wx / w, wy / w, c / w[:, :, None]
    level = _LEVEL * (sigma_px / cell) ** 2
    xx, xy, yy = xx / w - mx * mx + level, xy / w - mx * my, yy / w - my * my + level
    cx, cy = cx / w[:, :, None] - mx[:, :, None] * mean, cy / w[:, :, None] - my[:, :, None] * mean
    size = np.maximum(xx * yy - xy * xy, 1e-9)
    dx, dy = ((yy * (x - mx) - xy * (y - my)) / size, (xx * (y - my) - xy * (x - mx)) / size)
    plane = mean + dx[:, :, None] * cx + dy[:, :, None] * cy
    large = cv2.resize(plane, (columns * cell, rows * cell), interpolation=cv2.INTER_CUBIC)
    return np.asarray(np.clip(large[:height, :width], 0.0, 255.0))


def _in_cells(values: AnyArray, cell: int) -> AnyArray:
    """Return the sums of (height, width[, 3]) values in square cells."""
    height, width = values.shape[:2]
    padded = cv2.copyMakeBorder(values, 0, -height % cell, 0, -width % cell, cv2.BORDER_CONSTANT, value=0)
    size = (padded.shape[1] // cell, padded.shape[0] // cell)
    return np.asarray(cv2.resize(padded, size, interpolation=cv2.INTER_AREA) * np.float32(cell * cell))


def _edges(rgb: Bytes8Array, noise: float) -> BoolArray:
    """Return the pixels beside a steep and narrow change."""
    smooth = cv2.GaussianBlur(rgb.astype(np.float32), (0, 0), _EDGE_SMOOTH_PX)
    # Of an eighth each: Sobel's masks weigh so much.
    dx, dy = (
        cv2.Sobel(smooth, cv2.CV_32F, *way, scale=0.125, borderType=cv2.BORDER_REPLICATE)
        for way in ((1, 0), (0, 1))
    )
    steep = cv2.split(dx * dx + dy * dy)
    limit = max(_LEAST_SLOPE, _SLOPE_OF_NOISE * noise)
    edge = cv2.max(cv2.max(steep[0], steep[1]), steep[2]) > limit * limit
    rows, columns = np.nonzero(edge)
    if not len(rows):
        return np.asarray(edge)
    # Along the channel that changes most.
    steepest = np.stack([channel[rows, columns] for channel in steep])
    at = steepest.argmax(axis=0)
    size = np.sqrt(steepest.max(axis=0))
    way_x, way_y = dx[rows, columns, at] / size, dy[rows, columns, at] / size
    goes_on = np.full(len(rows), np.inf)
    for side in (-_BESIDE_PX, _BESIDE_PX):
        there = (
            np.rint(rows + side * way_y).astype(np.int64),
            np.rint(columns + side * way_x).astype(np.int64),
        )
        there = np.clip(there[0], 0, edge.shape[0] - 1), np.clip(there[1], 0, edge.shape[1] - 1)
        along = dx[(*there, at)] * way_x + dy[(*there, at)] * way_y
        goes_on = np.minimum(goes_on, along / size)
    edge[rows, columns] = goes_on < max(_SOFT, 0.5 + 0.5 * value_below(goes_on, _SHARPEST))
    return np.asarray(edge)


@counted(cache=True)
def repainted(
    rgb: AnyArray,
    areas_field: AnyArray,
    number: AnyArray,
    target: AnyArray,
    unexplained: float,
    plain: AnyArray,
) -> AnyArray:
    """Return the picture (height, width, 3), 0-255, with other colours in its areas and edges mixed of them as before.

    target: (height, width, 3), each pixel's new colour, where it lies in an area. unexplained: pixels beside edges that
    are further (0-255) from every mixture of two areas beside them get their plain colour, (height, width, 3).
    """
    height, width = number.shape
    out = np.empty((height, width, 3), np.float32)
    seen = np.empty(_MOST_BESIDE, np.int64)
    near_r = np.empty(_MOST_BESIDE, np.int64)
    near_c = np.empty(_MOST_BESIDE, np.int64)
    near_d = np.empty(_MOST_BESIDE, np.int64)
    for r in range(height):
        for c in range(width):
            if number[r, c] >= 0:
                for ch in range(3):
                    out[r, c, ch] = target[r, c, ch]
                continue
            count = 0
            for rr in range(max(0, r - _REACH_PX), min(height, r + _REACH_PX + 1)):
                for cc in range(max(0, c - _REACH_PX), min(width, c + _REACH_PX + 1)):
                    area = number[rr, cc]
                    if area < 0:
                        continue
                    d = (rr - r) * (rr - r) + (cc - c) * (cc - c)
                    if d > _REACH_PX * _REACH_PX:
                        continue
                    k = 0
                    while k < count and seen[k] != area:
                        k += 1
                    if k == _MOST_BESIDE:
                        continue
                    if k == count:
                        seen[k] = area
                        near_d[k] = d + 1
                        count += 1
                    if d < near_d[k]:
                        near_r[k], near_c[k], near_d[k] = rr, cc, d
            best = unexplained * unexplained
            first, second, share = -1, -1, 0.0
            for i in range(count):
                off = _off_mixture(
                    rgb[r, c], areas_field[near_r[i], near_c[i]], areas_field[near_r[i], near_c[i]], 0.0
                )
                if off < best:
                    best, first, second, share = off, i, i, 1.0
            for i in range(count):
                for j in range(i):
                    dot = square = 0.0
                    for ch in range(3):
                        v = areas_field[near_r[i], near_c[i], ch] - areas_field[near_r[j], near_c[j], ch]
                        weight = _weight(ch)
                        square += weight * v * v
                        dot += weight * v * (rgb[r, c, ch] - areas_field[near_r[j], near_c[j], ch])
                    t = dot / max(square, 1e-9)
                    if t <= 0.0 or t >= 1.0:
                        continue
                    first_one, other = areas_field[near_r[i], near_c[i]], areas_field[near_r[j], near_c[j]]
                    off = _off_mixture(rgb[r, c], first_one, other, t)
                    # One freedom more has its price: as for two colours in labels.
                    if off + 12.0 < best:
                        best, first, second, share = off + 12.0, i, j, t
            for ch in range(3):
                if first < 0:
                    out[r, c, ch] = plain[r, c, ch]
                else:
                    a = target[near_r[first], near_c[first], ch]
                    b = target[near_r[second], near_c[second], ch]
                    out[r, c, ch] = b + share * (a - b)
    return out


@uncounted
def _weight(channel: int) -> float:
    """Return what a channel weighs in luma (ITU-R BT.601), and a little for its colour."""
    return 0.34 if channel == 0 else 0.5 if channel == 1 else 0.16


@uncounted
def _off_mixture(pixel: AnyArray, one: AnyArray, other: AnyArray, t: float) -> float:
    """Return the weighted square that a mixture of two colours, t of the one, leaves of a pixel; all (3,)."""
    off = 0.0
    for ch in range(3):
        v = pixel[ch] - other[ch] - t * (one[ch] - other[ch])
        off += _weight(ch) * v * v
    return off
