"""Runs of borders between their ends, each simplified once, and none so far that it meets what it did not meet."""

from collections.abc import Sequence

import numpy as np
import shapely
from shapely import LineString, STRtree

from zeichen.core.fitting.simplify import fewest
from zeichen.core.geometry import bezier
from zeichen.core.values import AnyArray, FloatArray

# A piece of border: its two nodes and the middle of its curve, whichever way it is run through.
Key = tuple[int, int, int]

# Runs that would meet others are tried with these shares of the tolerance, then left as they are.
_SHARES = (1.0, 0.25)


class Runs:
    """All runs of a drawing's borders, each there once, whichever way its owners run through it."""

    def __init__(self, tolerance: float) -> None:
        self.wanted: list[bool] = []
        self._tolerance = tolerance
        self._before: list[FloatArray] = []
        self._now: list[FloatArray] = []
        self._numbers: dict[tuple[Key, ...], tuple[int, bool]] = {}

    def number(self, segments: FloatArray, keys: Sequence[Key], wanted: bool) -> tuple[int, bool]:
        """Return the number of a run, and whether it is run through the way it is kept."""
        row = tuple(keys)
        # The keys tell the way, except those of a single segment: its ends do, or, in a loop, its handles.
        if row not in self._numbers:
            number = len(self._before)
            self._before.append(segments)
            self._now.append(segments)
            self.wanted.append(wanted)
            self._numbers[row[::-1]] = number, False
            self._numbers[row] = number, True
        number, forth = self._numbers[row]
        if len(row) == 1:
            known = self._before[number][0]
            forth = bool(np.abs(known - segments[0]).sum() <= np.abs(known[::-1] - segments[0]).sum())
        return number, forth

    def segments(self, number: int, forth: bool) -> FloatArray:
        """Return what has become of a run, one way or the other."""
        return self._now[number] if forth else bezier.reverse(self._now[number])

    def simplify(self) -> None:
        """Give each wanted run as few segments as will do."""
        level = [
            0 if wanted and len(before) > 1 else len(_SHARES)
            for wanted, before in zip(self.wanted, self._before, strict=True)
        ]
        due = [number for number, each in enumerate(level) if each < len(_SHARES)]
        before_lines = self._lines(self._before)
        while due:
            for number in due:
                share = _SHARES[level[number]] if level[number] < len(_SHARES) else 0.0
                before = self._before[number]
                self._now[number] = fewest(before, share * self._tolerance) if share else before
            met = self._newly_met(before_lines, level)
            due = [number for number in met if level[number] < len(_SHARES)]
            for number in due:
                level[number] += 1

    def _newly_met(self, before: AnyArray, level: list[int]) -> list[int]:
        """Return the runs that meet themselves or others where they did not before."""
        now = self._lines(self._now)
        moved = np.array([each < len(_SHARES) for each in level])
        crossed = moved & ~shapely.is_simple(now) & shapely.is_simple(before)
        found = set(np.nonzero(crossed)[0].tolist())
        i, j = STRtree(now).query(now, predicate="intersects")
        keep = (i < j) & (moved[i] | moved[j])
        i, j = i[keep], j[keep]
        meets = _meetings(now[i], now[j]) > _meetings(before[i], before[j])
        found |= {int(k) for k in np.concatenate([i[meets], j[meets]])}
        return sorted(found)

    def _lines(self, runs: list[FloatArray]) -> AnyArray:
        return np.array([LineString(bezier.flatten(run, tolerance=0.05 * self._tolerance)) for run in runs])


def _meetings(one: AnyArray, other: AnyArray) -> AnyArray:
    """Return at how many places each two lines meet; where they run together counts as one place."""
    return np.asarray(shapely.get_num_geometries(shapely.intersection(one, other)))
