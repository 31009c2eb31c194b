"""How a sharp edge looks in a picture: the pixel's own square, and what blurred it besides.

A pixel half covered by ink is half dark only where the edge runs along its sides; on a slant the
grey follows the area of the square that the edge cuts off. A picture that was enlarged, scanned or
compressed is softer than that; the rest is well described by a Gaussian. The grey at signed
distance d from a straight edge is then the step function smoothed by both, in closed form.
"""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from zeichen.core.compiled import counted
from zeichen.core.values import FloatArray

# So many slants from 0 to 45 degrees, and places a px, are computed; in between it is interpolated, which errs by less
# than a thousandth of the ink (derived).
SLANTS = 33
PER_PX = 32
# Blurs tried when a picture's own is sought, px (standard deviation beside the pixel's square).
BLURS_PX = (0.0, 0.15, 0.25, 0.35, 0.45, 0.55, 0.65, 0.75, 0.9, 1.1, 1.35, 1.65, 2.0, 2.5, 3.2, 4.0)
_LEAST_PX = 0.03


@dataclass(frozen=True, slots=True)
class EdgeSpread:
    """Share of ink (0-1) at a signed distance from an edge, for slants of 0 to 45 degrees.

    share: (SLANTS, n) array; slope: its change for each px; column k stands for the distance
    k / PER_PX - reach_px, positive inside the ink.
    """

    blur_px: float
    reach_px: float
    share: FloatArray
    slope: FloatArray


@lru_cache(maxsize=64)
def edge_spread(blur_px: float) -> EdgeSpread:
    """Return the profile of a straight edge seen through square pixels and a Gaussian blur.

    The square's shadow on the edge's normal (c, s) is a box of width c smoothed by one of width s;
    smoothing the step by each box is a difference of antiderivatives (derived).
    """
    sigma = max(blur_px, _LEAST_PX)
    reach = 0.75 + 3.0 * sigma
    count = 2 * math.ceil(reach * PER_PX) + 1
    reach = (count - 1) / 2 / PER_PX
    d = np.arange(count) / PER_PX - reach
    share = np.empty((SLANTS, count))
    slope = np.empty((SLANTS, count))
    for row, angle in enumerate(np.linspace(0.0, math.pi / 4, SLANTS)):
        c, s = math.cos(angle), max(math.sin(angle), 1e-4)
        far, near = (c + s) / 2, (c - s) / 2
        share[row] = (
            _twice(d + far, sigma)
            - _twice(d + near, sigma)
            - _twice(d - near, sigma)
            + _twice(d - far, sigma)
        ) / (c * s)
        slope[row] = (
            _once(d + far, sigma) - _once(d + near, sigma) - _once(d - near, sigma) + _once(d - far, sigma)
        ) / (c * s)
    return EdgeSpread(blur_px, reach, np.clip(share, 0.0, 1.0), np.maximum(slope, 0.0))


def _once(u: FloatArray, sigma: float) -> FloatArray:
    """Return the antiderivative of a step smoothed by a Gaussian."""
    z = u / sigma
    return np.asarray(u * _below(z) + sigma * _bell(z))


def _twice(u: FloatArray, sigma: float) -> FloatArray:
    """Return the antiderivative of that."""
    z = u / sigma
    return np.asarray((u * u + sigma * sigma) / 2 * _below(z) + u * sigma / 2 * _bell(z))


@counted(cache=True)
def _below(z: FloatArray) -> FloatArray:
    """Return the normal distribution's share below z. (scipy has it too, but takes a quarter of a second to load.)"""
    share = np.empty_like(z)
    for k in range(len(z)):
        share[k] = 0.5 * math.erfc(-z[k] / math.sqrt(2.0))
    return share


def _bell(z: FloatArray) -> FloatArray:
    return np.asarray(np.exp(-0.5 * z * z) / math.sqrt(2 * math.pi))
