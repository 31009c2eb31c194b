"""Colours as people see them, and the few flat ones a picture was painted with.

Source of the colour space: CIE 15, L*a*b* under D65 from sRGB (IEC 61966-2-1). Source of the
difference: G. Sharma, W. Wu and E. N. Dalal, "The CIEDE2000 color-difference formula", Color
Research and Application 30 (2005).
"""

import math
from dataclasses import dataclass, replace

import cv2
import numpy as np

from zeichen.core.compiled import counted
from zeichen.core.errors import InvalidInputError
from zeichen.core.values import AnyArray, BoolArray, Bytes8Array, FloatArray, value_below

# Flat areas smaller than this many pixels do not make a colour of their own.
_LEAST_FLAT_PX = 12
# Of each picture of a set, about so many pixels a side are looked at.
_COMMON_PX = 640
_MOST_COLOURS = 32
# A palette is found in as many pixels at most: with all that is measured around each they take 700 MB.
_MOST_PX = 8_000_000
# How restless a picture is, every so manieth pixel tells as well as all.
_EACH = 7
# Colours nearer than this (L*a*b* distance) are one colour with noise on it.
_SAME = 5.0
# Proposed colours are at least this far apart (CIEDE2000), and no more than that many.
_TOLD_APART = 8.0
_MOST_PROPOSED = 24
# A colour nearer than this (CIEDE2000) to one with that many times its area is its echo.
_ECHO = 7.0
_ECHO_AREA = 30.0
_ECHO_RGB = 40.0


@dataclass(frozen=True, slots=True)
class Palette:
    """Flat colours of a picture.

    rgb: (n, 3) float array, 0-255; area_px: flat pixels of each; error: mean L*a*b* distance of the
    flat pixels from the palette's first 1, 2, ... colours, the curve a number is proposed from.
    gradient_share: share of the flat pixels that change steadily instead of having one colour.
    """

    rgb: FloatArray
    area_px: FloatArray
    error: tuple[float, ...]
    gradient_share: float


def hex_colour(rgb: FloatArray) -> str:
    """Return a colour (3,), 0-255, as #rrggbb.

    Examples
    --------
    >>> hex_colour(np.array([255.0, 0.4, 16.0]))
    '#ff0010'
    """
    return "#{:02x}{:02x}{:02x}".format(*np.clip(np.round(rgb), 0, 255).astype(int))


def to_lab(rgb: FloatArray | Bytes8Array) -> FloatArray:
    """Return L*, a*, b* of sRGB colours 0-255, any shape (..., 3)."""
    flat = np.asarray(rgb, dtype=np.float32).reshape(-1, 1, 3) / 255.0
    return np.asarray(cv2.cvtColor(flat, cv2.COLOR_RGB2Lab).reshape(np.shape(rgb)), dtype=np.float64)


def difference(first: FloatArray, second: FloatArray) -> FloatArray:
    """Return the CIEDE2000 differences of L*a*b* colours (..., 3), broadcast against each other."""
    l1, a1, b1 = np.moveaxis(np.asarray(first, dtype=np.float64), -1, 0)
    l2, a2, b2 = np.moveaxis(np.asarray(second, dtype=np.float64), -1, 0)
    mean_chroma = (np.hypot(a1, b1) + np.hypot(a2, b2)) / 2
    g = 0.5 * (1 - np.sqrt(mean_chroma**7 / (mean_chroma**7 + 25.0**7)))
    a1, a2 = (1 + g) * a1, (1 + g) * a2
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360
    grey = c1 * c2 == 0
    dl, dc = l2 - l1, c2 - c1
    turn = np.where(grey, 0.0, (h2 - h1 + 180) % 360 - 180)
    dh = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(turn) / 2)
    lightness, c = (l1 + l2) / 2, (c1 + c2) / 2
    far = np.abs(h1 - h2) > 180
    h = np.where(
        grey, h1 + h2, np.where(far, (h1 + h2 + np.where(h1 + h2 < 360, 360, -360)) / 2, (h1 + h2) / 2)
    )
    t = (
        1
        - 0.17 * np.cos(np.radians(h - 30))
        + 0.24 * np.cos(np.radians(2 * h))
        + 0.32 * np.cos(np.radians(3 * h + 6))
        - 0.20 * np.cos(np.radians(4 * h - 63))
    )
    sl = 1 + 0.015 * (lightness - 50) ** 2 / np.sqrt(20 + (lightness - 50) ** 2)
    sc, sh = 1 + 0.045 * c, 1 + 0.015 * c * t
    rc = 2 * np.sqrt(c**7 / (c**7 + 25.0**7))
    rt = -rc * np.sin(np.radians(60 * np.exp(-(((h - 275) / 25) ** 2))))
    return np.asarray(np.sqrt((dl / sl) ** 2 + (dc / sc) ** 2 + (dh / sh) ** 2 + rt * dc / sc * dh / sh))


def find_palette(rgb: Bytes8Array, *, colours: int | None = None) -> Palette:
    """Return the flat colours of a picture, the largest first.

    Parameters
    ----------
    rgb : (height, width, 3) uint8 array
    colours : int, optional
        How many, ground included; None takes as many as the error curve asks for.
    """
    # Of a large picture every second pixel each way, or fewer, tells its colours, too.
    step = math.ceil(math.sqrt(rgb.shape[0] * rgb.shape[1] / _MOST_PX))
    if step > 1:
        size = (rgb.shape[1] // step, rgb.shape[0] // step)
        found = find_palette(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA), colours=colours)
        return replace(found, area_px=found.area_px * step**2)
    picture: AnyArray = rgb.astype(np.float32)
    mean: AnyArray = cv2.blur(picture, (3, 3))
    spread = _spread(mean, cv2.blur(picture * picture, (3, 3)))
    quiet = value_below(spread.ravel()[::_EACH], 0.3)
    flat = spread <= max(2.0, 2.0 * quiet + 1.0)
    if np.count_nonzero(flat) < _LEAST_FLAT_PX:
        cells, counts = _cells(picture, np.ones_like(flat))
    else:
        cells, counts = _cells(mean, flat)
    same = _SAME if quiet < 1.5 else 1.5 * _SAME
    centres, areas = _peaks(cells, counts, same)
    # Areas too small to have a flat inside: what is neither one of these colours nor a mixture of two.
    small = picture[(spread <= 4.0 * max(2.0, 2.0 * quiet + 1.0)) & ~flat]
    small = small[_unexplained(small, centres.reshape(-1, 3), _ECHO_RGB)]
    if len(small) >= _LEAST_FLAT_PX:
        more, more_areas = _peaks(*_cells(small[None], np.ones((1, len(small)), bool)), 2.0 * _SAME)
        if len(more):
            centres, areas = np.concatenate([centres, more]), np.concatenate([areas, more_areas])
    centres, areas = _without_echoes(centres, areas)
    wanted = min(colours or _MOST_COLOURS, _MOST_COLOURS)
    lab = to_lab(cells)
    centres, areas, error = _merged(cells, lab, counts, centres, areas, wanted)
    if colours is None:
        centres, areas = _told_apart(centres, areas)
    order = np.argsort(-areas)
    return Palette(centres[order], areas[order], error, _gradient_share(mean, flat, quiet))


def common_palette(pictures: list[Bytes8Array], *, colours: int | None = None) -> Palette:
    """Return the flat colours of several pictures together, so that a set can be drawn with the same ones.

    Parameters
    ----------
    pictures : list of (height, width, 3) uint8 arrays
    colours : int, optional
        How many, ground included; None takes as many as the error curve asks for.

    Raises
    ------
    InvalidInputError
        If there is no picture.
    """
    if not pictures:
        raise InvalidInputError("There is no picture to take colours from. Keep a sketch first.")
    parts = []
    for rgb in pictures:
        step = max(1, -(-max(rgb.shape[:2]) // _COMMON_PX))
        parts.append(rgb[::step, ::step])
    width = max(part.shape[1] for part in parts)
    # A picture's last column, repeated, is more of its ground.
    wide = [np.pad(part, ((0, 0), (0, width - part.shape[1]), (0, 0)), mode="edge") for part in parts]
    return find_palette(np.concatenate(wide), colours=colours)


def _told_apart(centres: FloatArray, areas: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return the colours with those merged that are hardly told apart, the smaller into the larger."""
    while len(centres) > 1:
        lab = to_lab(centres)
        gap = difference(lab[:, None], lab[None])
        np.fill_diagonal(gap, np.inf)
        a, b = np.unravel_index(int(gap.argmin()), gap.shape)
        if gap[a, b] >= _TOLD_APART and len(centres) <= _MOST_PROPOSED:
            break
        big, small = (a, b) if areas[a] >= areas[b] else (b, a)
        areas = areas.copy()
        areas[big] += areas[small]
        keep = np.arange(len(centres)) != small
        centres, areas = centres[keep], areas[keep]
    return centres, areas


def _gradient_share(mean: FloatArray, flat: AnyArray, quiet: float) -> float:
    """Return the share of the quiet inside of areas where the colour changes steadily."""
    inside = cv2.erode(flat.astype(np.uint8), np.ones((7, 7), np.uint8)) > 0
    smooth = cv2.blur(mean, (5, 5))
    slope = (
        _largest(cv2.magnitude(cv2.Sobel(smooth, cv2.CV_32F, 1, 0), cv2.Sobel(smooth, cv2.CV_32F, 0, 1)))
        / 8.0
    )
    return float((inside & (slope > 0.15 + 0.1 * quiet)).sum() / max(1, inside.sum()))


def _largest(channels: AnyArray) -> AnyArray:
    """Return the largest of each pixel's three values. (numpy's own maximum over so short an axis is slow.)"""
    first, second, third = cv2.split(channels)
    return np.asarray(cv2.max(cv2.max(first, second), third))


@counted(cache=True)
def _spread(mean: AnyArray, squares: AnyArray) -> AnyArray:
    """Return how much the most restless channel varies around each pixel, standard deviation."""
    height, width = mean.shape[:2]
    out = np.empty((height, width), np.float32)
    for r in range(height):
        for c in range(width):
            most = np.float32(0.0)
            for channel in range(3):
                m = mean[r, c, channel]
                most = max(most, squares[r, c, channel] - m * m)
            out[r, c] = np.sqrt(most)
    return out


def _cells(picture: AnyArray, where: BoolArray) -> tuple[FloatArray, FloatArray]:
    """Return the mean colour and the count of each occupied cell of a 6-bit histogram of some of the pixels."""
    sums, counts, used = _sum_cells(picture, where)
    held = np.sort(used)
    many = counts[held].astype(np.float64)
    return sums[held] / many[:, None], many


@counted(cache=True)
def _sum_cells(picture: AnyArray, where: BoolArray) -> tuple[FloatArray, AnyArray, AnyArray]:
    """Return the sum of the colours (cells, 3) in each cell, how many there are, and which cells hold any."""
    sums = np.empty((64 * 64 * 64, 3))
    counts = np.zeros(64 * 64 * 64, np.int64)
    used = np.empty(min(where.size, len(counts)), np.int64)
    filled = 0
    for r in range(where.shape[0]):
        for c in range(where.shape[1]):
            if not where[r, c]:
                continue
            cell = 0
            for channel in range(3):
                level = min(255, max(0, int(picture[r, c, channel] + np.float32(0.5))))
                cell = cell * 64 + (level >> 2)
            if counts[cell] == 0:
                used[filled] = cell
                filled += 1
                sums[cell] = 0.0
            for channel in range(3):
                sums[cell, channel] += picture[r, c, channel]
            counts[cell] += 1
    return sums, counts, used[:filled]


@counted(cache=True)
def _unexplained(samples: AnyArray, centres: FloatArray, far: float) -> AnyArray:
    """Return which colours (n, 3) are further than that from all centres and from all mixtures of two of them."""
    out = np.ones(len(samples), np.bool_)
    least = far * far
    for k in range(len(samples)):
        r, g, b = float(samples[k, 0]), float(samples[k, 1]), float(samples[k, 2])
        for i in range(len(centres)):
            r0, g0, b0 = r - centres[i, 0], g - centres[i, 1], b - centres[i, 2]
            if r0 * r0 + g0 * g0 + b0 * b0 <= least:
                out[k] = False
                break
            for j in range(i):
                red = centres[j, 0] - centres[i, 0]
                green = centres[j, 1] - centres[i, 1]
                blue = centres[j, 2] - centres[i, 2]
                size = max(red * red + green * green + blue * blue, 1e-9)
                t = min(1.0, max(0.0, (r0 * red + g0 * green + b0 * blue) / size))
                r1, g1, b1 = r0 - t * red, g0 - t * green, b0 - t * blue
                if r1 * r1 + g1 * g1 + b1 * b1 <= least:
                    out[k] = False
                    break
            if not out[k]:
                break
    return out


def _without_echoes(centres: FloatArray, areas: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return the colours without those that are a far larger one's compression noise."""
    lab = to_lab(centres)
    keep = np.ones(len(centres), bool)
    for k in np.argsort(areas):
        near = (difference(lab[k], lab) < _ECHO) & keep & (areas > _ECHO_AREA * areas[k])
        if near.any():
            keep[k] = False
            areas = areas.copy()
            areas[np.nonzero(near)[0][areas[near].argmax()]] += areas[k]
    return centres[keep], areas[keep]


def _peaks(cells: FloatArray, counts: FloatArray, same: float) -> tuple[FloatArray, FloatArray]:
    """Return colours found by taking the fullest cell, then all near it, until little is left."""
    # Loaded here: a trace on the command line that needs no palette starts the sooner.
    from scipy.sparse import coo_matrix
    from scipy.spatial import cKDTree

    lab = to_lab(cells)
    left = counts.copy()
    tree = cKDTree(lab)
    # Who is whose neighbour does not change: pure noise has tens of thousands of cells.
    pairs = tree.query_pairs(same / 2, output_type="ndarray")
    ones = np.ones(len(pairs))
    beside = coo_matrix((ones, (pairs[:, 0], pairs[:, 1])), shape=(len(lab), len(lab))).tocsr()
    beside = beside + beside.T
    centres: list[FloatArray] = []
    areas: list[float] = []
    while left.max() > 0 and len(centres) < 4 * _MOST_COLOURS:
        # Noise scatters a colour over several cells: the one with most company is its peak.
        tall = np.argsort(-left)[:200]
        company = (left + beside @ left)[tall]
        peak = int(tall[company.argmax()])
        if company.max() < _LEAST_FLAT_PX:
            break
        near = tree.query_ball_point(lab[peak], same)
        # The core of the peak alone says its colour: the rest may be another's noise.
        core = tree.query_ball_point(lab[peak], same / 2)
        centres.append((cells[core] * left[core, None]).sum(axis=0) / left[core].sum())
        areas.append(float(left[near].sum()))
        left[near] = 0.0
    return np.array(centres), np.array(areas)


def _merged(
    cells: FloatArray,
    lab: FloatArray,
    counts: FloatArray,
    centres: FloatArray,
    areas: FloatArray,
    wanted: int,
) -> tuple[FloatArray, FloatArray, tuple[float, ...]]:
    """Return at most so many colours, merging what costs least, and the error for 1, 2, ... colours.

    Source: J. H. Ward, "Hierarchical grouping to optimize an objective function", Journal of the
    American Statistical Association 58 (1963).
    """
    if not len(centres):
        return centres, areas, ()
    # The larger of two keeps its own colour, so distances stay what they are; a colour that goes is given up.
    own = to_lab(centres)
    away = np.stack([np.linalg.norm(lab - each, axis=1) for each in own])
    nearest_of = away.argmin(axis=0)
    distance = np.take_along_axis(away, nearest_of[None], axis=0)[0]
    present = np.arange(len(centres))
    areas = areas.copy()
    error: list[float] = []
    kept: tuple[FloatArray, FloatArray] | None = None
    while len(present):
        error.append(float((distance * counts).sum() / counts.sum()))
        if kept is None and len(present) <= wanted:
            kept = (centres[present], areas[present])
        if len(present) == 1:
            break
        gap = ((own[present][:, None] - own[present][None]) ** 2).sum(axis=2)
        size = areas[present]
        cost = gap * (size[:, None] * size[None]) / (size[:, None] + size[None])
        np.fill_diagonal(cost, np.inf)
        a, b = present[list(np.unravel_index(int(cost.argmin()), cost.shape))]
        # The larger keeps its own colour: a mean of two would be neither.
        big, small = (a, b) if areas[a] >= areas[b] else (b, a)
        areas[big] += areas[small]
        present = present[present != small]
        # Only what was nearest to the colour that went is now nearest to another.
        lost = np.nonzero(nearest_of == small)[0]
        rest = away[np.ix_(present, lost)]
        nearest_of[lost] = present[rest.argmin(axis=0)]
        distance[lost] = rest.min(axis=0)
    assert kept is not None
    return kept[0], kept[1], tuple(reversed(error))


def nearest(rgb: FloatArray, palette: FloatArray) -> AnyArray:
    """Return the index of the nearest palette colour (L*a*b*) for colours (n, 3)."""
    return np.asarray(np.linalg.norm(to_lab(rgb)[:, None] - to_lab(palette)[None], axis=2).argmin(axis=1))
