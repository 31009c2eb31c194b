"""Lines that run on under others they have met already: they end there, unless the ink shows the rest of them.

Where several lines run together into another one, each was led on to that one alone, across all the others.
"""

import math
from dataclasses import dataclass, replace

import numpy as np

from zeichen.core.tracing.strokes.landing import nearest
from zeichen.core.tracing.strokes.lines_met import Lines, walked
from zeichen.core.tracing.strokes.meetings import Stroke
from zeichen.core.tracing.strokes.pen_ink import InkWindow
from zeichen.core.tracing.strokes.skeleton import length_of
from zeichen.core.values import FloatArray

# What is cut off is no shorter than this, widths.
_LEAST_CUT = 0.3
# Without it no more than this of the ink may be missing, px².
_MISSING_PX2 = 0.5
# Ink further than this from it is not looked at, widths.
_AROUND = 0.8
# Ends no further apart than this (px) are at one place.
_TOGETHER_PX = 1.2


@dataclass(frozen=True, slots=True, eq=False)
class MetAt:
    """How one end of a stroke (side 0: its first point) was led on to the line it met: points from its own last on."""

    stroke: int
    side: int
    points: FloatArray


@dataclass(frozen=True, slots=True, eq=False)
class _Cut:
    """A way that may end where it meets another: what is kept of it and what not, and what ink is righter then, px²."""

    way: int
    on: int
    kept: FloatArray
    rest: FloatArray
    gain_px2: float


def ended_where_met(strokes: list[Stroke], ways: list[MetAt], ink: FloatArray) -> list[Stroke]:
    """Return strokes whose ends run no further than to the first line they meet, if the ink is there without them.

    Parameters
    ----------
    strokes : list of Stroke
        With their ends led on.
    ways : list of MetAt
        Along which they were.
    ink : (height, width) float array
        How much ink each pixel holds.
    """
    close = _close_by([way.points for way in ways])
    if not close:
        return strokes
    even = {i: walked(ways[i].points) for i in dict.fromkeys(i for i, _ in close)}
    ends = np.array([way.points[-1] for way in ways])
    drawn = _drawn(strokes)
    cuts = []
    for i, j in close:
        halves = _halves(even[i], even[j], strokes[ways[i].stroke].width)
        # Nothing else ends on what is cut off.
        if halves is not None and not _bears(halves[1], ends):
            cuts.append(_Cut(i, j, *halves, _gain(strokes, drawn, ways[i], *halves, ink)))
    out = list(strokes)
    ended: set[int] = set()
    met: set[int] = set()
    # What the ink is against goes first, then what is longest.
    for cut in sorted(cuts, key=lambda cut: (-round(cut.gain_px2), -length_of(cut.rest))):
        if cut.way in met or cut.way in ended or cut.on in ended:
            continue
        way = ways[cut.way]
        if _gain(out, drawn, way, cut.kept, cut.rest, ink) > -_MISSING_PX2:
            ended.add(cut.way)
            met.add(cut.on)
            out[way.stroke] = replace(out[way.stroke], points=_shorter(out[way.stroke], way, cut.kept))
            drawn = _drawn(out)
    return out


def _drawn(strokes: list[Stroke]) -> Lines:
    return Lines.of([(stroke.points, stroke.closed) for stroke in strokes])


def _close_by(ways: list[FloatArray]) -> list[tuple[int, int]]:
    """Return which ways may meet, both ways round."""
    if len(ways) < 2:
        return []
    low = np.array([way.min(axis=0) for way in ways]) - _TOGETHER_PX
    high = np.array([way.max(axis=0) for way in ways]) + _TOGETHER_PX
    apart = (low[:, None] > high[None]).any(axis=2)
    close = ~(apart | apart.T | np.eye(len(ways), dtype=np.bool_))
    return [(int(i), int(j)) for i, j in np.argwhere(close)]


def _halves(way: FloatArray, goal: FloatArray, width: float) -> tuple[FloatArray, FloatArray] | None:
    """Return a way up to where it first meets another and the rest of it; None if that is short or nowhere."""
    at, place = Lines.of([(goal, False)]).touched_by(way, width)
    k = int(at)
    if at < 0.0 or len(way) - k < _LEAST_CUT * width:
        return None
    return np.concatenate([way[: max(k, 1)], place[None]]), np.concatenate([place[None], way[k + 1 :]])


def _bears(rest: FloatArray, ends: FloatArray) -> bool:
    """Return whether any ends of ways lie on the rest of one, but those where it ends itself."""
    near = (ends > rest.min(axis=0) - _TOGETHER_PX) & (ends < rest.max(axis=0) + _TOGETHER_PX)
    return any(
        nearest(rest, end[0], end[1])[1] < _TOGETHER_PX and math.dist(end, rest[-1]) > _TOGETHER_PX
        for end in ends[near.all(axis=1)]
    )


def _shorter(stroke: Stroke, way: MetAt, kept: FloatArray) -> FloatArray:
    """Return a stroke's points with only what is kept of its way on at one end."""
    run = stroke.points if way.side == 0 else stroke.points[::-1]
    shorter = np.concatenate([kept[::-1], run[len(way.points) :]])
    return shorter if way.side == 0 else shorter[::-1]


def _gain(
    strokes: list[Stroke], drawn: Lines, way: MetAt, kept: FloatArray, rest: FloatArray, ink: FloatArray
) -> float:
    """Return by how much the ink near the rest of a way is nearer to the picture's without it, px².

    drawn: all strokes as lines.
    """
    stroke = strokes[way.stroke]
    width = stroke.width
    low, high = rest.min(axis=0) - _AROUND * width, rest.max(axis=0) + _AROUND * width
    others = drawn.in_window(low, high, width, without=[way.stroke])
    window = InkWindow(ink, width, low, high, [others, _shorter(stroke, way, kept)])
    return window.off(rest) - window.off(rest[:1])
