"""Pictures that were enlarged, brought back to their own pixels.

Enlarging interpolates: every pixel is a fixed mixture of a few original ones, by a kernel that most
programs share. The mixture can be undone by least squares, and what is left over tells whether the
picture was enlarged that way: next to nothing but noise if it was.

Source of the kernels: R. G. Keys, "Cubic convolution interpolation for digital image processing",
IEEE Transactions on Acoustics, Speech and Signal Processing 29 (1981); a = -0.5 and -0.75 are the
two values in common use (common practice).
"""

import math
from collections.abc import Iterable
from functools import lru_cache

import cv2
import numpy as np

from zeichen.core.compiled import counted
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Kernels by the sharpness a of the cubic; None is linear.
_KERNELS: tuple[float | None, ...] = (-0.75, -0.5, None)
# Share of the picture's own contrast that may be left over at edges.
_LEFT_OVER = 0.05
# A kernel that leaves this many times as much of the busiest part as another is not the one.
_CLEARLY_WORSE = 1.2
# Of what is left over when the picture is looked at out of step: enlarged ones leave up to 0.6 in step, merely soft
# ones 0.8 and more (measured: blurred by 0.8 to 2.5 px, enlarged 2 to 4 times, with noise and compressed).
_IN_STEP = 0.72
# Neighbours that differ by more than this share of all contrast, and how many of them make a picture crisp.
_STEEP = 0.75
_STEPS = 40
# Parts of this size are looked at, px, those in which most happens: they tell of the whole.
_PART_PX = 144
_MOST_PARTS = 4


def own_pixels(picture: AnyArray, factor: int) -> FloatArray | None:
    """Return the picture before it was enlarged a whole number of times, or None if it was not.

    Parameters
    ----------
    picture : (height, width) or (height, width, channels) array
    factor : int
        Nothing is found unless both sides are multiples of it.
    """
    height, width = picture.shape[:2]
    if height % factor or width % factor or min(height, width) < 8 * factor:
        return None
    channels = np.atleast_3d(picture)
    if _has_steps(channels):
        return None
    parts = _busiest_parts(channels, factor)
    contrast = np.array([float(np.ptp(channels[:, :, ch])) for ch in range(channels.shape[2])])
    # What does not explain the busiest part will not explain the others.
    clearest = [int(contrast.argmax())]
    first, its_contrast = parts[:1][..., clearest], contrast[clearest]
    edges = _edges(parts, factor)
    its_edges = edges[:1][..., clearest]
    begun = {k: _left_over(first, its_edges, factor, k, its_contrast) for k in _KERNELS}
    bearable = min(2.0 * _LEFT_OVER, _CLEARLY_WORSE * min(begun.values()))
    left = {k: _left_over(parts, edges, factor, k, contrast) for k in _KERNELS if begun[k] <= bearable}
    best = min(left, key=lambda k: left[k], default=None)
    if not left or not left[best] < _LEFT_OVER:
        return None
    if not left[best] < _IN_STEP * _out_of_step(channels, factor, best, contrast):
        return None
    own = [_before(channels[:, :, ch].astype(np.float64), factor, best) for ch in range(channels.shape[2])]
    return np.ascontiguousarray(np.dstack(own).reshape(height // factor, width // factor, *picture.shape[2:]))


def before_enlarging(picture: AnyArray, factors: Iterable[int]) -> tuple[FloatArray, int] | None:
    """Return the picture before it was enlarged, by the first of some factors that explains it, and that one."""
    for factor in factors:
        own = own_pixels(picture, factor)
        if own is not None:
            return own, factor
    return None


def _out_of_step(channels: AnyArray, factor: int, kernel: float | None, contrast: FloatArray) -> float:
    """Return what a kernel cannot explain of a picture counted from its second row and column on.

    As much as of the whole if the picture is merely soft; far more if it was enlarged, for then every pixel has its
    place in the mixture.
    """
    height, width = channels.shape[:2]
    parts = _busiest_parts(channels[1 : height - factor + 1, 1 : width - factor + 1], factor)
    return _left_over(parts, _edges(parts, factor), factor, kernel, contrast)


def _has_steps(picture: AnyArray) -> bool:
    """Return whether so many neighbours differ by nearly the picture's whole contrast that it was not enlarged.

    Between two pixels that were made of one, no kernel climbs by more than six tenths of a step.
    """
    steep = _STEEP * float(np.ptp(picture))
    for axis in (0, 1):
        first = picture[:-1] if axis == 0 else picture[:, :-1]
        second = picture[1:] if axis == 0 else picture[:, 1:]
        step = cv2.absdiff(np.ascontiguousarray(first), np.ascontiguousarray(second))
        if np.count_nonzero(step > steep) >= _STEPS:
            return True
    return False


def _busiest_parts(picture: AnyArray, factor: int) -> FloatArray:
    """Return the parts of a picture in which most happens, shape (parts, height, width, channels)."""
    height, width = picture.shape[:2]
    tall, wide = (min(side, _PART_PX // factor * factor) for side in (height, width))
    rows, columns = height // tall, width // wide
    blocks = picture[: rows * tall, : columns * wide].reshape(rows, tall, columns, wide, -1)
    busy = blocks[:, ::4, :, ::4].std(axis=(1, 3)).mean(axis=2).ravel()
    row, column = np.divmod(np.argsort(-busy, kind="stable")[:_MOST_PARTS], columns)
    return np.asarray(blocks[row, :, column], dtype=np.float64)


def _edges(parts: FloatArray, factor: int) -> BoolArray:
    """Return where neighbours differ, for each part and channel: flat areas fit any kernel, so only edges tell.

    Not at the border of a part, where pixels beyond it had their say.
    """
    across = parts[:, 1:-1, 2:] - parts[:, 1:-1, :-2]
    down = parts[:, 2:, 1:-1] - parts[:, :-2, 1:-1]
    steep = across * across + down * down
    inside = slice(2 * factor - 1, 1 - 2 * factor)
    # A quarter of the pixels tells where the steepest begin; half as steep is a quarter of the square.
    steepest = np.percentile(steep[:, ::2, ::2], 99.5, axis=(1, 2), keepdims=True)
    return np.asarray(steep[:, inside, inside] > 0.25 * steepest)


def _left_over(
    parts: FloatArray, edges: BoolArray, factor: int, kernel: float | None, contrast: FloatArray
) -> float:
    """Return what a kernel cannot explain of the edges in some parts, RMS as a share of the contrast.

    Of several channels the worst counts.
    """
    down, across = (_explained(side, factor, kernel) for side in parts.shape[1:3])
    inside = slice(2 * factor, -2 * factor)
    worst = np.inf if not contrast.any() else 0.0
    for ch in np.nonzero(contrast)[0]:
        # In a row, or the products are not the fast ones.
        seen, edge = np.ascontiguousarray(parts[..., ch]), edges[..., ch]
        if not edge.any():
            return np.inf
        off = (down @ seen @ across.T - seen)[:, inside, inside][edge]
        worst = max(worst, math.sqrt(float(off @ off) / len(off)) / float(contrast[ch]))
    return worst


@lru_cache(maxsize=64)
def _explained(side: int, factor: int, kernel: float | None) -> FloatArray:
    """Return the matrix that takes a line of pixels to the nearest one that a kernel can have enlarged."""
    mixing = _dense_mixing(side // factor, factor, kernel)
    return mixing @ np.linalg.pinv(mixing)


def _before(large: FloatArray, factor: int, kernel: float | None) -> FloatArray:
    """Return the picture that a kernel enlarged to this one, by least squares."""
    weights = _weights(factor, kernel)
    shorter: FloatArray = _undone(weights, large)
    both: FloatArray = _undone(weights, np.ascontiguousarray(shorter.T))
    return both.T


def _weights(factor: int, sharpness: float | None) -> FloatArray:
    """Return, for each of the pixels made of one, the shares of its four originals -1 .. 2 from the left one."""
    offset = (np.arange(factor) + 0.5) / factor - 0.5
    rows = []
    for shift in offset:
        t = shift if shift >= 0 else shift + 1.0
        distance = np.abs(np.array([-1.0, 0.0, 1.0, 2.0]) - t)
        rows.append(_kernel(distance, sharpness))
    return np.array(rows)


def _kernel(x: FloatArray, a: float | None) -> FloatArray:
    if a is None:
        return np.maximum(0.0, 1.0 - x)
    near = (a + 2) * x**3 - (a + 3) * x**2 + 1
    far = a * x**3 - 5 * a * x**2 + 8 * a * x - 4 * a
    return np.where(x <= 1, near, np.where(x < 2, far, 0.0))


def _dense_mixing(count: int, factor: int, sharpness: float | None) -> FloatArray:
    """Return the matrix that enlarges a line of pixels; its last ones are repeated."""
    weights = _weights(factor, sharpness)
    phase, original, tap = np.meshgrid(np.arange(factor), np.arange(count), np.arange(4), indexing="ij")
    left = original - ((phase + 0.5) / factor < 0.5)
    mixing = np.zeros((count * factor, count))
    np.add.at(mixing, (original * factor + phase, np.clip(left + tap - 1, 0, count - 1)), weights[phase, tap])
    return mixing


@counted(cache=True)
def _undone(weights: FloatArray, large: FloatArray) -> FloatArray:
    """Undo a mixing of the first axis by least squares: the normal equations are a band of seven.

    weights: (factor, 4); large: (count * factor, n); solved by Cholesky's method, all columns at once.
    """
    factor = len(weights)
    count, columns = len(large) // factor, large.shape[1]
    band = np.zeros((count, 4))
    out = np.zeros((count, columns))
    shares, at = np.empty(4), np.empty(4, np.int64)
    for original in range(count):
        for phase in range(factor):
            left = original - (1 if 2 * phase + 1 < factor else 0)
            for tap in range(4):
                shares[tap] = weights[phase, tap]
                at[tap] = max(0, min(count - 1, left + tap - 1))
            row = large[original * factor + phase]
            for tap in range(4):
                share, place = shares[tap], at[tap]
                for other in range(4):
                    if at[other] <= place:
                        band[place, place - at[other]] += share * shares[other]
                if share != 0.0:
                    for c in range(columns):
                        out[place, c] += share * row[c]
    for k in range(count):
        for back in range(min(3, k), -1, -1):
            total = band[k, back]
            for further in range(back + 1, min(3, k) + 1):
                total -= band[k, further] * band[k - back, further - back]
            band[k, back] = total / band[k - back, 0] if back else math.sqrt(total)
    for k in range(count):
        for back in range(1, min(3, k) + 1):
            share = band[k, back]
            for c in range(columns):
                out[k, c] -= share * out[k - back, c]
        share = 1.0 / band[k, 0]
        for c in range(columns):
            out[k, c] *= share
    for k in range(count - 1, -1, -1):
        for ahead in range(1, min(3, count - 1 - k) + 1):
            share = band[k + ahead, ahead]
            for c in range(columns):
                out[k, c] -= share * out[k + ahead, c]
        share = 1.0 / band[k, 0]
        for c in range(columns):
            out[k, c] *= share
    return out
