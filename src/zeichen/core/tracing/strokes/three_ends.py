"""Which two of three lines that meet are one, where how they run does not say: the ink of the pen's turn does."""

import math

import numpy as np

from zeichen.core.geometry import bezier
from zeichen.core.tracing.strokes.halving import best_place
from zeichen.core.tracing.strokes.pen_ink import InkWindow
from zeichen.core.tracing.strokes.pen_turn import (
    Corner,
    Side,
    Turn,
    right_px2,
    told_apart,
    turn_between,
    where_sides_meet,
)
from zeichen.core.values import FloatArray

# Ink further than this from where lines end or meet belongs to something else, widths.
_AROUND = 0.9
# Another pair must leave so much of what the likeliest one does not explain, and so much at least, px².
_BETTER, _LEAST_PX2 = 0.4, 2.0
# And a corner of the likeliest pair so much.
_CORNER = 0.6
# What leaves so many times what a right way does is doubted.
_DOUBTFUL = 3.0
# Places where the third line may end are tried so far apart, widths, and then between those.
_PACE, _HALVINGS = 0.4, 3
# Its way there has so many points, and leaves its run along it for so much of the way.
_POINTS, _ALONG = 7, 0.5
_WEIGHTS = np.array([[(1 - t) ** 2, 2 * t * (1 - t), t * t] for t in np.linspace(0.0, 1.0, _POINTS)])
_GAP = np.full((1, 2), np.nan)

Pair = tuple[int, int, Turn]


class _Knot:
    """Three lines that meet, and the part of the picture where they do."""

    def __init__(self, ink: FloatArray, leads: list[FloatArray], width: float) -> None:
        self.ink, self.width = ink, width
        self.sides = [Side(lead, width) for lead in leads]

    def look_at(self, places: FloatArray) -> None:
        """Set the window: what is near to some places."""
        low, high = places.min(axis=0) - _AROUND * self.width, places.max(axis=0) + _AROUND * self.width
        self.window = InkWindow(self.ink, self.width, low, high, [side.run for side in self.sides])

    def third(self, pair: Pair) -> tuple[FloatArray, float]:
        """Return the way on which the third line best ends on the other two, and how far off the ink then is, px²."""
        i, j, turn = pair
        path = np.concatenate([self.sides[i].run[-1:], turn.points, self.sides[j].run[-1:]])
        side = self.sides[3 - i - j]
        end, heading = side.run[-1], side.heading(0.0)
        along = bezier.lengths_along(path)

        def way(at: float) -> FloatArray:
            k = min(int(along.searchsorted(at, side="right")), len(along) - 1) - 1
            goal = path[k] + (at - along[k]) / max(along[k + 1] - along[k], 1e-12) * (path[k + 1] - path[k])
            bend = end + _ALONG * math.dist(end, goal) * heading
            return np.asarray(_WEIGHTS @ np.stack([end, bend, goal]))

        def off(at: float) -> float:
            return self.window.off(np.concatenate([path, _GAP, way(at)]))

        pace = along[-1] / max(2, math.ceil(along[-1] / (_PACE * self.width)))
        places = np.arange(0.0, along[-1] + 0.5 * pace, pace).tolist()
        best, least = best_place(off, places, 0.5 * pace, _HALVINGS, lambda at: 0.0 <= at <= along[-1])
        return way(best), least


def pair_of_three(
    ink: FloatArray, leads: list[FloatArray], width: float, drafted: Pair | None
) -> Pair | None:
    """Return which two of three ends are one line, and its turn: the drafted ones unless others are plainly better.

    The third line ends where it meets that.

    Parameters
    ----------
    ink : (height, width) float array
        How much ink each pixel holds.
    leads : list of three (n, 2) float arrays, px
        The points that lead to each end, about a pixel apart.
    width : float, px
        Of the lines.
    drafted : (first, second, turn) or None
        Numbers of the ends that are likeliest one, and the turn from the first to the second.
    """
    if not all(told_apart(lead, width) for lead in leads):
        return drafted
    knot = _Knot(ink, leads, width)
    turns: list[Pair] = []
    for i, j in ((0, 1), (0, 2), (1, 2)):
        met = where_sides_meet(knot.sides[i], knot.sides[j])
        if met is not None:
            come, go = knot.sides[i].upto(met[0]), knot.sides[j].upto(met[1])
            turns.append((i, j, Turn(np.concatenate([come, go[::-1]]), [Corner(come[-1])])))
    knot.look_at(
        np.concatenate(
            [side.onwards[:1] for side in knot.sides]
            + [turn.points for _, _, turn in turns]
            + ([drafted[2].points] if drafted else [])
        )
    )
    doubtful = _DOUBTFUL * right_px2(width)
    # Where none is likely, one must be right.
    best, least = drafted, doubtful / _BETTER if drafted is None else knot.third(drafted)[1]
    if least < doubtful:
        # What it turned round may be a corner.
        for turn in turns:
            if best is not None and {*turn[:2]} == {*best[:2]} and knot.third(turn)[1] < _CORNER * least:
                best = turn
        return best
    for i, j, crossing in turns:
        k = 3 - i - j
        way, _ = knot.third((i, j, crossing))
        pair = i, j, turn_between(ink, leads[i], leads[j], width, crossing, [knot.sides[k].run, way])
        _, its = knot.third(pair)
        if its < min(_BETTER * least, least - _LEAST_PX2):
            best, least = pair, its
    return best
