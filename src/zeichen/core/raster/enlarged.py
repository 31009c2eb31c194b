"""Pictures that were enlarged, brought back to their own pixels.

Enlarging interpolates: every pixel is a fixed mixture of a few original ones, by a kernel that most
programs share. The mixture can be undone by least squares, and what is left over tells whether the
picture was enlarged that way: next to nothing but noise if it was.

Source of the kernels: R. G. Keys, "Cubic convolution interpolation for digital image processing",
IEEE Transactions on Acoustics, Speech and Signal Processing 29 (1981); a = -0.5 and -0.75 are the
two values in common use (common practice).
"""

from typing import TYPE_CHECKING

import numpy as np

from zeichen.core.values import FloatArray

if TYPE_CHECKING:
    from scipy.sparse import csr_array

# Kernels by the sharpness a of the cubic; None is linear.
_KERNELS: tuple[float | None, ...] = (-0.75, -0.5, None)
# Share of the picture's own contrast that may be left over at edges.
_LEFT_OVER = 0.05
# A part of this size is looked at first, px.
_PART_PX = 144


def own_pixels(grey: FloatArray, factor: int) -> FloatArray | None:
    """Return the picture before it was enlarged a whole number of times, or None if it was not.

    Parameters
    ----------
    grey : (height, width) array
        Both sides must be multiples of the factor.
    factor : int
    """
    height, width = grey.shape
    if height % factor or width % factor or min(height, width) < 8 * factor:
        return None
    picture = grey.astype(np.float64)
    part = _busiest_part(picture, factor)
    kernels = _KERNELS
    if part.size < picture.size:
        # What does not explain the part will not explain the whole.
        kernels = tuple(kernel for _, kernel, _ in _undone_by(part, factor, kernels, 2.0 * _LEFT_OVER))
    found = _undone_by(picture, factor, kernels, _LEFT_OVER)
    return min(found, key=lambda each: each[0])[2] if found else None


def _busiest_part(picture: FloatArray, factor: int) -> FloatArray:
    """Return the part of a large picture in which most happens: enough to see that it was not enlarged."""
    side = _PART_PX // factor * factor
    height, width = picture.shape
    if min(height, width) < 2 * side:
        return picture
    rows, columns = height // side, width // side
    blocks = picture[: rows * side, : columns * side].reshape(rows, side, columns, side)[:, ::4, :, ::4]
    row, column = divmod(int(blocks.std(axis=(1, 3)).argmax()), columns)
    return picture[row * side : (row + 1) * side, column * side : (column + 1) * side]


def _undone_by(
    picture: FloatArray, factor: int, kernels: tuple[float | None, ...], left_over: float
) -> list[tuple[float, float | None, FloatArray]]:
    """Return what each kernel leaves over, the kernel, and the picture before it was enlarged by it.

    Only those that leave over less than a share of the picture's contrast.
    """
    if not kernels:
        return []
    # Flat areas fit any kernel: only where neighbours differ does the left-over tell.
    busy = np.hypot(*np.gradient(picture))
    edge = busy > 0.5 * np.percentile(busy, 99.5)
    # At the border of a part, pixels beyond it had their say.
    inner = edge[2 * factor : -2 * factor, 2 * factor : -2 * factor]
    if not inner.any():
        return []
    found = []
    for kernel in kernels:
        down, across = (_mixing(side // factor, factor, kernel) for side in picture.shape)
        small = _undone(across, np.ascontiguousarray(_undone(down, picture).T)).T
        again = (across @ (down @ small).T).T
        off = (again - picture)[2 * factor : -2 * factor, 2 * factor : -2 * factor]
        left = float(np.sqrt(np.mean(off[inner] ** 2)))
        if left < left_over * float(np.ptp(picture)):
            found.append((left, kernel, small))
    return found


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


def _mixing(count: int, factor: int, sharpness: float | None) -> "csr_array":
    """Return the matrix that enlarges a line of pixels; at its ends the last pixel is repeated."""
    # Most pictures were never enlarged: these are loaded when one looks as if it was.
    from scipy.sparse import csr_array

    weights = _weights(factor, sharpness)
    phase, original, tap = np.meshgrid(np.arange(factor), np.arange(count), np.arange(4), indexing="ij")
    left = original - ((phase + 0.5) / factor < 0.5)
    row = original * factor + phase
    column = np.clip(left + tap - 1, 0, count - 1)
    values = weights[phase, tap]
    return csr_array((values.ravel(), (row.ravel(), column.ravel())), shape=(count * factor, count))


def _undone(mixing: "csr_array", large: FloatArray) -> FloatArray:
    """Undo a mixing of the first axis by least squares: the normal equations are a band of seven."""
    from scipy.linalg import solveh_banded

    normal = (mixing.T @ mixing).todia()
    count = mixing.shape[1]
    band = np.zeros((4, count))
    for offset in range(4):
        band[offset, : count - offset] = normal.diagonal(-offset)
    return np.asarray(solveh_banded(band, mixing.T @ large, lower=True, overwrite_b=True))
