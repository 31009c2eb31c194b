"""Where the studio's hand gets its choices: from a seed, and near or far from what a seed gave before.

Every choice is a number from 0 to 1 that a subject turns into a proportion, a pose or a kind of ornament.
A variation moves all of them a little (near) or a lot (far), so the figure stays the one it was.
"""

import zlib
from collections.abc import Sequence

import numpy as np

from zeichen.core.briefing import Reach, Variation

# Standard deviation of the moves (our own choice).
_STEP = {Reach.NEAR: 0.09, Reach.FAR: 0.36}


class Hand:
    """A source of choices like numpy's Generator, for as much of it as the studio needs."""

    def __init__(
        self, seed: int, subject: str, stream: int = 1, variations: Sequence[Variation] = ()
    ) -> None:
        key = zlib.crc32(subject.encode())
        self._base = np.random.default_rng([seed, key, stream])
        self._moves = [
            (np.random.default_rng([step.seed, key, stream + 100]), _STEP[step.reach]) for step in variations
        ]

    def random(self) -> float:
        """Return the next choice, from 0 up to but not 1."""
        value = self._base.random()
        for rng, step in self._moves:
            value += step * rng.normal()
        # Mirrored at both ends, so that a small move stays small.
        folded = abs((value + 1.0) % 2.0 - 1.0)
        return float(min(folded, 1.0 - 1e-9))

    def uniform(self, low: float, high: float) -> float:
        """Return a number between two others."""
        return low + (high - low) * self.random()

    def integers(self, low: int, high: int) -> int:
        """Return a whole number from low up to but not high."""
        return low + int((high - low) * self.random())

    def among(self, choices: Sequence[str]) -> str:
        """Return one of several."""
        return choices[self.integers(0, len(choices))]
