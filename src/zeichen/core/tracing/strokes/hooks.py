"""Hooks: lines that turn sharply just before they end, whose last piece is too short to be measured.

Where they turned and where they end is told by the ink: what such a pen leaves on the sheet is compared with it.
"""

import math
from dataclasses import replace
from functools import cached_property
from itertools import product

import numpy as np

from zeichen.core.compiled import counted
from zeichen.core.geometry.norm import norm
from zeichen.core.raster.ink import ink_at
from zeichen.core.tracing.strokes.halving import Place, best_nearby
from zeichen.core.tracing.strokes.lines_met import Lines, walked
from zeichen.core.tracing.strokes.meetings import Stroke
from zeichen.core.tracing.strokes.pen_ink import InkWindow
from zeichen.core.tracing.strokes.pen_turn import Corner, Side, right_px2, told_apart
from zeichen.core.tracing.strokes.skeleton import length_of
from zeichen.core.values import FloatArray

# So far aside of a line's middle there is no more ink, and so far there still is; so much of its end is looked at;
# widths.
_OUTSIDE, _INSIDE, _LOOKED_AT = 0.64, 0.36, 3.2
# Of a line that is plain again so much is left out, and so much must be left; widths.
_BEFORE, _PLAIN = 0.3, 1.0
# Directions are those over so many points on either side.
_OVER = 2
# What else may be the last piece is no longer and no further away, widths.
_LONGEST = 2.0
# Ink further than this from it belongs to something else; of the line so much is drawn, with few points; widths.
_AROUND, _DRAWN, _EVERY = 0.9, 3.0, 2
# A drawing that is so many times as far off as a right one is doubted, and one so many times as far off no better.
_DOUBTFUL, _RIGHT = 2.0, 3.0
# A hook must explain so much of what the drawing did not.
_BETTER = 0.5
# Where the line turned is looked for here first, up to there, the end no further away than this, in steps from so much
# to so much; widths.
_TURNS, _FURTHEST_TURN, _MOST_MOVE = (0.0, 0.5, 1.0, 1.5, 2.0), 2.9, 0.5
_FIRST, _FINEST = 0.5, 0.03
# A last piece is no shorter than this (widths), nor does it go straight on (cosine).
_SHORTEST, _STRAIGHT_ON = 0.3, 0.8
# Where a line turned by more than this (cosine) it may have ended.
_TURNED = 0.5
_GAP = np.full((1, 2), np.nan)


def with_hooks(strokes: list[Stroke], ink: FloatArray) -> list[Stroke]:
    """Return strokes with short last pieces drawn where the ink shows them, also where those were strokes of their own.

    Parameters
    ----------
    strokes : list of Stroke
        With their ends.
    ink : (height, width) float array
        How much ink each pixel holds.
    """
    drawn = _Drawn(strokes)
    for number in range(len(strokes)):
        for side in (0, 1):
            stroke = drawn.strokes[number]
            if number in drawn.gone or stroke.closed or stroke.ends[side] is not None:
                continue
            points = np.ascontiguousarray(stroke.points if side == 0 else stroke.points[::-1])
            first, beside = _plain_from(points, stroke.width, ink)
            if first < 0 or len(points) - first < _PLAIN * stroke.width:
                continue
            end = _End(drawn, number, side, first, beside, ink)
            # Another that is hidden in the last piece is no line of its own.
            for other in (*drawn.short_ones_near(number, points[0]), None):
                found = end.hooked(other)
                if found is not None:
                    drawn.put(number, found, other)
                    break
    return [stroke for number, stroke in enumerate(drawn.strokes) if number not in drawn.gone]


class _Drawn:
    """The strokes of a drawing, also as lines, and which of them are gone."""

    def __init__(self, strokes: list[Stroke]) -> None:
        self.strokes = list(strokes)
        self.gone: set[int] = set()

    # Most drawings have no end that is looked at.
    @cached_property
    def lines(self) -> Lines:
        """All strokes as lines."""
        return Lines.of([(stroke.points, stroke.closed) for stroke in self.strokes])

    @cached_property
    def _lengths(self) -> FloatArray:
        return np.array([np.inf if s.closed else length_of(s.points) for s in self.strokes])

    @cached_property
    def _starts(self) -> FloatArray:
        return np.array([s.points[0] for s in self.strokes]).reshape(-1, 2)

    def put(self, number: int, stroke: Stroke, instead_of: int | None) -> None:
        """Have a stroke in place of one, and of another one, too, if that is given."""
        self.strokes[number] = stroke
        if instead_of is not None:
            self.gone.add(instead_of)
        del self.lines

    def short_ones_near(self, number: int, place: FloatArray) -> list[int]:
        """Return which strokes are short and near enough to a place to be the last piece of one that ends there."""
        reach = _LONGEST * self.strokes[number].width
        near = (np.hypot(*(self._starts - place).T) < 2.0 * reach) & (self._lengths < reach)
        return [k for k in np.nonzero(near)[0].tolist() if k != number and k not in self.gone]


@counted(cache=True)
def _plain_from(points: FloatArray, width: float, ink: FloatArray) -> tuple[int, FloatArray]:
    """Return from which of some points on a line has ink of its own width only; -1 if it has at once.

    And the mean place beside it where there is other ink; nan for none.
    """
    last = -1
    along = 0.0
    count = 0
    place = np.zeros(2)
    n = len(points)
    for k in range(n):
        if k:
            along += norm(points[k, 0] - points[k - 1, 0], points[k, 1] - points[k - 1, 1])
        if along > _LOOKED_AT * width:
            break
        a, b = max(0, k - _OVER), min(n - 1, k + _OVER)
        dx, dy = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1]
        size = norm(dx, dy)
        if size == 0.0:
            continue
        nx, ny = -dy / size * width, dx / size * width
        for side in (-1.0, 1.0):
            x, y = points[k, 0] + side * _OUTSIDE * nx, points[k, 1] + side * _OUTSIDE * ny
            if ink_at(ink, x, y) > 0.5:
                last = k
                count += 1
                place[0] += x
                place[1] += y
            elif ink_at(ink, points[k, 0] + side * _INSIDE * nx, points[k, 1] + side * _INSIDE * ny) < 0.5:
                last = k
    place /= count if count else math.nan
    return (last + 1 + round(_BEFORE * width) if last >= 0 else -1), place


class _End:
    """An end of a stroke, the points beyond which it is plain, and the ink around it."""

    def __init__(
        self,
        drawn: _Drawn,
        number: int,
        side: int,
        first: int,
        beside: FloatArray,
        ink: FloatArray,
    ) -> None:
        self.drawn, self.number, self.side, self.first, self.ink = drawn, number, side, first, ink
        self.stroke = stroke = drawn.strokes[number]
        self.width = stroke.width
        self.points = stroke.points if side == 0 else stroke.points[::-1]
        corners = stroke.corners_at(self.points)
        self.corners = [c for at, c in zip(corners, stroke.corners, strict=True) if at >= first]
        beyond = min((at for at in corners if at >= first), default=len(self.points))
        self.known = self.points[first:beyond][::-1]
        # Where the line ended it may have been drawn through, and turned there.
        step = np.diff(self.points[: first + 1], axis=0)
        turns = (step[1:] * step[:-1]).sum(axis=1) < _TURNED * np.hypot(*step[1:].T) * np.hypot(*step[:-1].T)
        self.ends = [self.points[0], *self.points[1:first][turns]]
        if not np.isnan(beside[0]):
            self.ends.append(beside)

    def hooked(self, instead_of: int | None) -> Stroke | None:
        """Return the stroke with a last piece as the ink shows it, in place of another one if given; else None."""
        if not told_apart(self.known, self.width):
            return None
        width = self.width
        come = Side(self.known, width)
        unit = width / come.step
        tail = self.points[: self.first + 1]
        short = None if instead_of is None else self.drawn.strokes[instead_of]
        ends = [*self.ends, *([] if short is None else short.points[[0, -1]])]
        places = np.concatenate([tail, ends, come.onwards[: math.ceil(_LONGEST * unit)]])
        low, high = places.min(axis=0) - _AROUND * width, places.max(axis=0) + _AROUND * width
        without = self.drawn.gone | {self.number} | ({instead_of} if instead_of is not None else set())
        beside = self.drawn.lines.in_window(low, high, width, without=without)
        drawn = self.known[-math.ceil(_DRAWN * width) :: _EVERY]
        window = InkWindow(self.ink, width, low, high, [drawn, self.known[-1:], beside])
        drafted = window.off(tail if short is None else np.concatenate([tail, _GAP, short.points]))
        right = right_px2(width)
        if drafted < _DOUBTFUL * right:
            return None
        start = ends[0]

        def way(place: Place) -> FloatArray:
            return np.concatenate([come.upto(place[0] * unit), start[None] + width * np.array([place[1:]])])

        def off(place: Place) -> float:
            return window.off(np.concatenate([self.known[-1:], way(place)]))

        starts = [tuple(((end - start) / width).tolist()) for end in ends]

        def inside(place: Place) -> bool:
            near = min(math.dist(place[1:], end) for end in starts)
            return 0.0 <= place[0] <= _FURTHEST_TURN and near <= _MOST_MOVE

        places_first = [(turn, *end) for turn, end in product(_TURNS, starts)]
        best, its = best_nearby(off, places_first, _FIRST, _FINEST, inside)
        if its > min(_BETTER * drafted, _RIGHT * right):
            return None
        found = way(best)
        piece, heading = found[-1] - found[-2], come.heading(best[0] * unit)
        size = math.hypot(*piece)
        if size < _SHORTEST * width or float(piece @ heading) > _STRAIGHT_ON * size:
            # It may be cut square, or be off some other way.
            return None
        ended = np.concatenate([walked(found[:-3:-1]), found[-3::-1], self.points[self.first :]])
        return replace(
            self.stroke,
            points=ended if self.side == 0 else ended[::-1],
            corners=[*self.corners, Corner(found[-2])],
        )
