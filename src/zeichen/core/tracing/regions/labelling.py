"""Which flat colour each pixel belongs to, edge-mixed pixels included.

Inside an area every pixel has its colour. Along a border it is a mixture, and mixtures often look
like a third colour of the palette: the edge of black on white passes through every grey. So colours
are taken from the inside of areas only, and a mixed pixel goes to the larger part of the two areas
beside it whose mixture explains it best.
"""

import math

import cv2
import numpy as np

from zeichen.core.compiled import counted, uncounted
from zeichen.core.raster.colours import to_lab
from zeichen.core.values import AnyArray, Bytes8Array, FloatArray, value_below

# How far inside areas may be from a mixed pixel, px.
_REACH_PX = 3
# A pixel further than this (0-255, root of the mean square) from any mixture is a colour of its own.
_UNEXPLAINED = 22.0
_SAME = 10.0
_CHROMA = 0.35
# So many pixels are turned into other colours at a time: all of a large picture would take eight times its memory.
_AT_ONCE_PX = 1_000_000
# How often areas may grow by as much into what nothing else explains.
_TIP_ROUNDS = 4


def label_pixels(rgb: Bytes8Array, palette: FloatArray, *, min_spot_px2: float) -> AnyArray:
    """Return the index of each pixel's colour, shape (height, width), int32.

    Parameters
    ----------
    rgb : (height, width, 3) uint8 array
    palette : (n, 3) float array, 0-255
    min_spot_px2 : float
        Areas smaller than this go to what surrounds them.
    """
    guess, near = _nearest(rgb, palette)
    core = _cores(guess, near)
    around = _colours_around(guess, core)
    colours, weights = seen_as_light(palette), _light_weights()
    _, left = _mixtures(rgb, weights, colours, guess, near, core, around, np.array([np.inf, 0.0]))
    mixed = left >= 0.0
    noise = float(np.sqrt(value_below(left[mixed], 0.5))) if mixed.any() else 0.0
    limit = max(_UNEXPLAINED, 5.0 * noise)
    costs = np.array([limit, 8.0 + 2.0 * noise**2])
    del left, mixed
    labels, left = _mixtures(rgb, weights, colours, guess, near, core, around, costs)
    # Each of these takes as much memory as a large picture itself: none is held for longer than it is needed.
    del guess, core, around
    # Slender tips have no inside near: what the colours around cannot explain may belong to an area's end.
    for _ in range(_TIP_ROUNDS):
        doubtful = left > limit * limit
        if not doubtful.any():
            break
        before = labels
        reached = _colours_around(labels, ~doubtful)
        labels, again = _mixtures(rgb, weights, colours, labels, near, ~doubtful, reached, costs)
        np.copyto(left, again, where=doubtful)
        del reached, again
        if (labels == before).all():
            break
    del left, near
    return absorb_spots(labels, min_spot_px2)


@counted(cache=True)
def _colours_around(labels: AnyArray, sure: AnyArray) -> AnyArray:
    """Return, for each pixel that is not sure, the colours of the sure ones within reach, as bits."""
    height, width = labels.shape
    around = np.zeros((height, width), np.uint32)
    for r in range(height):
        for c in range(width):
            if sure[r, c]:
                continue
            bits = 0
            for dr in range(-_REACH_PX, _REACH_PX + 1):
                # The span of a disc in this row; the pixel's own row is the widest.
                wide = int(math.sqrt(_REACH_PX * _REACH_PX - dr * dr) + 0.5)
                rr = r + dr
                if rr < 0 or rr >= height:
                    continue
                for cc in range(max(0, c - wide), min(width, c + wide + 1)):
                    if sure[rr, cc]:
                        bits |= 1 << labels[rr, cc]
            around[r, c] = bits
    return around


def seen_as_light(rgb: FloatArray | Bytes8Array) -> FloatArray:
    """Return colours (..., 3) as luma and two weak chroma values.

    Luma says best where an edge runs: many pictures keep their chroma at half the sharpness (JPEG,
    ITU-T T.81 with 4:2:0, common practice). Weights of ITU-R BT.601.
    """
    flat = np.asarray(rgb).reshape(-1, 1, 3)
    out = np.empty(flat.shape)
    weights = _light_weights()
    for start in range(0, len(flat), _AT_ONCE_PX):
        part = slice(start, start + _AT_ONCE_PX)
        out[part] = cv2.transform(flat[part].astype(np.float64), weights)
    return out.reshape(np.shape(rgb))


def _light_weights() -> FloatArray:
    """Return what red, green and blue weigh in luma and in two weak chroma values."""
    luma = np.array([0.299, 0.587, 0.114])
    chroma = _CHROMA * np.array([[-0.169, -0.331, 0.5], [0.5, -0.419, -0.081]])
    return np.vstack([luma, chroma])


def _nearest(rgb: Bytes8Array, palette: FloatArray) -> tuple[AnyArray, AnyArray]:
    """Return the nearest colour of each pixel, and whether it is near."""
    own = to_lab(palette).astype(np.float32)
    height, width = rgb.shape[:2]
    guess, near = np.empty((height, width), np.int32), np.empty((height, width), bool)
    rows = max(1, _AT_ONCE_PX // width)
    for start in range(0, height, rows):
        part = slice(start, start + rows)
        lab = cv2.cvtColor(rgb[part].astype(np.float32) / 255.0, cv2.COLOR_RGB2Lab)
        guess[part], off = closest(lab, own)
        near[part] = off <= (1.6 * _SAME) ** 2
    return guess, near


@counted(cache=True)
def closest(picture: AnyArray, colours: AnyArray) -> tuple[AnyArray, AnyArray]:
    """Return which colour is nearest to each pixel, and the square of the distance."""
    height, width = picture.shape[0], picture.shape[1]
    guess = np.zeros((height, width), np.int32)
    best = np.empty((height, width), np.float32)
    for r in range(height):
        for c in range(width):
            if (
                c > 0
                and picture[r, c, 0] == picture[r, c - 1, 0]
                and picture[r, c, 1] == picture[r, c - 1, 1]
                and picture[r, c, 2] == picture[r, c - 1, 2]
            ):
                # As the pixel before it, as most of a clean picture's are.
                guess[r, c], best[r, c] = guess[r, c - 1], best[r, c - 1]
                continue
            least, found = np.float32(np.inf), 0
            for k in range(len(colours)):
                x = picture[r, c, 0] - colours[k, 0]
                y = picture[r, c, 1] - colours[k, 1]
                z = picture[r, c, 2] - colours[k, 2]
                off = x * x + y * y + z * z
                if off < least:
                    least, found = off, k
            guess[r, c], best[r, c] = found, least
    return guess, best


def _cores(guess: AnyArray, near: AnyArray) -> AnyArray:
    """Return the pixels whose 3 x 3 surroundings all have their colour."""
    box = np.ones((3, 3), np.uint8)
    small = guess.astype(np.uint8)
    same = (cv2.erode(small, box) == small) & (cv2.dilate(small, box) == small)
    return np.asarray(same & (cv2.erode(near.astype(np.uint8), box) > 0))


@counted(cache=True)
def _mixtures(
    rgb: AnyArray,
    weights: FloatArray,
    palette: FloatArray,
    guess: AnyArray,
    near: AnyArray,
    core: AnyArray,
    around: AnyArray,
    costs: FloatArray,
) -> tuple[AnyArray, FloatArray]:
    """Return each pixel's colour and, where it was open to doubt, the square it leaves unexplained (else -1).

    rgb: the picture; weights: of its channels in the light that the palette is given in, see seen_as_light.
    costs: how far a pixel may be off to count as explained, and what a mixture costs for its one more freedom.
    """
    unexplained, price = costs[0], costs[1]
    height, width = guess.shape
    colours = len(palette)
    labels = guess.copy()
    left = np.full((height, width), -1.0)
    here = np.empty(colours, np.int64)
    pixel = np.empty(3)
    for r in range(height):
        for c in range(width):
            if core[r, c]:
                continue
            count = 0
            for k in range(colours):
                if around[r, c] >> k & 1:
                    here[count] = k
                    count += 1
            if count == 0:
                continue
            for ch in range(3):
                pixel[ch] = (
                    weights[ch, 0] * rgb[r, c, 0]
                    + weights[ch, 1] * rgb[r, c, 1]
                    + weights[ch, 2] * rgb[r, c, 2]
                )
            best, chosen = np.inf, guess[r, c]
            for i in range(count):
                a = here[i]
                off = 0.0
                for ch in range(3):
                    off += (pixel[ch] - palette[a, ch]) ** 2
                if off < best:
                    best, chosen = off, a
            for i in range(count):
                for j in range(i + 1, count):
                    a, b = here[i], here[j]
                    square = dot = 0.0
                    for ch in range(3):
                        v = palette[a, ch] - palette[b, ch]
                        square += v * v
                        dot += v * (pixel[ch] - palette[b, ch])
                    t = dot / max(square, 1e-9)
                    if t <= 0.0 or t >= 1.0:
                        continue
                    off = price
                    for ch in range(3):
                        off += (pixel[ch] - palette[b, ch] - t * (palette[a, ch] - palette[b, ch])) ** 2
                    if off < best:
                        best = off
                        chosen = a if t >= 0.5 else b
            left[r, c] = best
            if best > unexplained * unexplained and near[r, c]:
                # A thin line of a colour that has no inside anywhere near: only if it is not alone.
                friends = 0
                for rr in range(max(0, r - 1), min(height, r + 2)):
                    for cc in range(max(0, c - 1), min(width, c + 2)):
                        if guess[rr, cc] == guess[r, c] and near[rr, cc]:
                            friends += 1
                if friends >= 3:
                    chosen = guess[r, c]
            labels[r, c] = chosen
    return labels, left


def absorb_spots(labels: AnyArray, min_spot_px2: float) -> AnyArray:
    """Return labels (height, width) with areas below a size given to the colour they share most of their rim with."""
    if min_spot_px2 <= 1:
        return labels
    labels = labels.copy()
    for _ in range(4):
        regions, count = regions_of(labels)
        small = _sizes(regions, count) < min_spot_px2
        if not small.any():
            break
        rim = _rims(labels, regions, small, int(labels.max()) + 1, count)
        target = rim.argmax(axis=1)
        change = small & (rim.max(axis=1) > 0)
        if not change.any():
            break
        _give_away(labels, regions, change, target)
    return labels


@counted(cache=True)
def _sizes(regions: AnyArray, count: int) -> AnyArray:
    """Return how many pixels each region has."""
    sizes = np.zeros(count, np.int64)
    for r in range(regions.shape[0]):
        for c in range(regions.shape[1]):
            sizes[regions[r, c]] += 1
    return sizes


@counted(cache=True)
def _give_away(labels: AnyArray, regions: AnyArray, change: AnyArray, target: AnyArray) -> None:
    """Give the regions that change their target's label."""
    for r in range(labels.shape[0]):
        for c in range(labels.shape[1]):
            if change[regions[r, c]]:
                labels[r, c] = target[regions[r, c]]


@counted(cache=True)
def _rims(labels: AnyArray, regions: AnyArray, small: AnyArray, colours: int, count: int) -> AnyArray:
    """Return, for each small region, how much of its rim each colour shares."""
    height, width = labels.shape
    rim = np.zeros((count, colours), np.int32)
    for r in range(height):
        for c in range(width):
            a = regions[r, c]
            for step in range(2):
                rr, cc = r + step, c + 1 - step
                if rr >= height or cc >= width:
                    continue
                b = regions[rr, cc]
                if a != b:
                    if small[a]:
                        rim[a, labels[rr, cc]] += 1
                    if small[b]:
                        rim[b, labels[r, c]] += 1
    return rim


def regions_of(labels: AnyArray) -> tuple[AnyArray, int]:
    """Return a number for each pixel's 4-connected area, (height, width) from 0, and how many there are."""
    numbers, count = _regions(np.ascontiguousarray(labels, dtype=np.int32))
    return np.asarray(numbers), int(count)


@uncounted
def _root(parent: AnyArray, k: int) -> int:
    """Return the first of the runs that a run is joined with."""
    while parent[k] != k:
        parent[k] = parent[parent[k]]
        k = parent[k]
    return k


@counted(cache=True)
def _regions(labels: AnyArray) -> tuple[AnyArray, int]:
    """Join runs of one colour in a row with those they touch in the row above."""
    height, width = labels.shape
    count = 0
    for r in range(height):
        count += 1
        for c in range(1, width):
            count += labels[r, c] != labels[r, c - 1]
    parent = np.arange(count)
    last = np.empty(count, np.int32)
    row_of = np.zeros(height + 1, np.int64)
    filled = 0
    for r in range(height):
        row_of[r] = filled
        above = row_of[r - 1] if r else 0
        begin = 0
        for c in range(1, width + 1):
            if c < width and labels[r, c] == labels[r, c - 1]:
                continue
            last[filled] = c - 1
            # Runs of the row above that reach into begin .. c - 1.
            while r and last[above] < begin:
                above += 1
            look, left = above, begin
            while r and left < c:
                if labels[r - 1, left] == labels[r, begin]:
                    a, b = _root(parent, filled), _root(parent, look)
                    parent[max(a, b)] = min(a, b)
                left = last[look] + 1
                look += 1
            filled += 1
            begin = c
    row_of[height] = filled
    number = np.full(filled, -1, np.int32)
    out = np.empty((height, width), np.int32)
    found = 0
    for r in range(height):
        begin = 0
        for k in range(row_of[r], row_of[r + 1]):
            root = _root(parent, k)
            if number[root] < 0:
                number[root] = found
                found += 1
            out[r, begin : last[k] + 1] = number[root]
            begin = last[k] + 1
    return out, found
