"""How much ink there is at places of a picture: around single pixels, and between them."""

import math
from dataclasses import dataclass

import numpy as np

from zeichen.core.compiled import uncounted
from zeichen.core.values import AnyArray, FloatArray


@dataclass(frozen=True, slots=True)
class Ink:
    """How much ink each of a picture's own pixels holds, worked out only where it is asked for.

    grey: (height, width); ink, paper: the grey of either.
    """

    grey: AnyArray
    ink: float
    paper: float

    def around(self, rows: AnyArray, columns: AnyArray, half: int) -> FloatArray:
        """Return the share of ink in squares around pixels, shape (pixels, 2 half + 1, 2 half + 1).

        Beyond the picture its rim is repeated.
        """
        height, width = self.grey.shape
        side = np.arange(-half, half + 1)
        down = np.clip(rows[:, None] + side, 0, height - 1)
        across = np.clip(columns[:, None] + side, 0, width - 1)
        seen = self.grey[down[:, :, None], across[:, None, :]].astype(np.float64)
        return np.asarray((self.paper - seen) / (self.paper - self.ink))


@uncounted(cache=True)
def ink_at(ink: FloatArray, x: float, y: float) -> float:
    """Return the ink at a place, interpolated between pixel centres; none outside the picture."""
    height, width = ink.shape
    c, r = x - 0.5, y - 0.5
    c0, r0 = math.floor(c), math.floor(r)
    if c0 >= 0 and r0 >= 0 and c0 + 1 < width and r0 + 1 < height:
        # Nearly always, and several times as fast.
        right, down = c - c0, r - r0
        upper = ink[r0, c0] + right * (ink[r0, c0 + 1] - ink[r0, c0])
        lower = ink[r0 + 1, c0] + right * (ink[r0 + 1, c0 + 1] - ink[r0 + 1, c0])
        inside: float = upper + down * (lower - upper)
        return inside
    value = 0.0
    for rr in range(r0, r0 + 2):
        for cc in range(c0, c0 + 2):
            if 0 <= rr < height and 0 <= cc < width:
                value += (1.0 - abs(c - cc)) * (1.0 - abs(r - rr)) * ink[rr, cc]
    return value
