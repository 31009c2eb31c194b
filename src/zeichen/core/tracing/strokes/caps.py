"""Ends whose round cap shows just before another line: there the pen was lifted, and did not run into that."""

from collections.abc import Callable

import numpy as np

from zeichen.core.compiled import uncounted
from zeichen.core.geometry.norm import norm
from zeichen.core.raster.ink import ink_at
from zeichen.core.tracing.strokes.halving import best_place
from zeichen.core.tracing.strokes.landing import nearest
from zeichen.core.tracing.strokes.pen_ink import InkWindow
from zeichen.core.tracing.strokes.pen_turn import Side
from zeichen.core.values import FloatArray

# Just outside the other line, so far from its middle, a line that runs into it has ink so far aside on both sides;
# widths.
_BEFORE, _ASIDE = 0.58, 0.46
# So far from the other line the run tells how it goes on, widths.
_PLAIN = 1.3
# Where it ends is looked for in these steps, as shares of the way to the other line, and then in halves of them.
_STEPS, _HALVINGS = 6, 3
# An end must explain so much more of the ink, and so much at least, px²; a way cut by less is as good as whole, widths.
_BETTER, _LEAST_PX2, _LEAST_CUT = 0.4, 0.6, 0.25
_AROUND = 1.2
_EVERY = 3
# Ends in the right place to a step are off by no more than this many times what they are better than.
_HOPEFUL = 2.5


def ended_before(run: FloatArray, others: FloatArray, ink: FloatArray, width: float) -> FloatArray:
    """Return a run, whose first point lies on another line, ended at its round end if that shows before.

    Parameters
    ----------
    run : (n, 2) float array, px
        From the other line on.
    others : (m, 2) float array, px
        Points of the lines near there, about a pixel apart; nan between two of them.
    ink : (height, width) float array
        How much ink each pixel holds.
    width : float, px
        Of the line.
    """
    plain = _plain_from(np.ascontiguousarray(run), others, width)
    if plain < 0:
        return run
    known = run[plain:]
    sides = [Side(known[::-1], width, straight=straight) for straight in (True, False)]
    if not any(_cap_shows(side.onwards, others, ink, width) for side in sides):
        return run
    tail = sides[0].run[::-1]
    low, high = run[0] - _AROUND * width, run[0] + _AROUND * width
    window = InkWindow(ink, width, low, high, [tail, others])

    def off(way: FloatArray) -> float:
        # Fewer points than the run has, but its end.
        return window.off(np.concatenate([way[:1], way[1 :: round(_EVERY * sides[0].step)], tail[:1]]))

    best, joined = run, off(run[: plain + 1])
    if joined <= _LEAST_PX2:
        return run
    # The way in may be wrong, and not that there is one.
    steps = [_step_nearest(side.onwards, others) for side in sides]
    for side, step in zip(sides, steps, strict=True):
        way = np.concatenate([run[:1], side.onwards[:step][::-1]])
        if (its := off(way)) < min(_BETTER * joined, joined - _LEAST_PX2):
            best, joined = np.concatenate([way, known]), its
    for side, step in zip(sides, steps, strict=True):
        left, at = _best_end(side, step, off, joined)
        cut = (step - at) * side.step
        if left < min(_BETTER * joined, joined - _LEAST_PX2) and cut > _LEAST_CUT * width:
            best, joined = np.concatenate([side.upto(at)[::-1], known]), left
    return best


def _best_end(
    side: Side, most: float, off: Callable[[FloatArray], float], joined: float
) -> tuple[float, float]:
    """Return how much is off where a side ends best, and after how many steps that is; roughly if it is hopeless."""

    def off_at(share: float) -> float:
        return off(side.upto(share * most)[::-1])

    places = [k / _STEPS for k in range(_STEPS)]
    best, least = best_place(
        off_at, places, 0.5 / _STEPS, _HALVINGS, lambda share: 0.0 <= share < 1.0, _HOPEFUL * joined
    )
    return least, best * most


@uncounted(cache=True)
def _step_nearest(onwards: FloatArray, others: FloatArray) -> int:
    """Return which point of a way is the first that comes no nearer to others with the next."""
    before = np.inf
    for k in range(len(onwards)):
        away = nearest(others, onwards[k, 0], onwards[k, 1])[1]
        if away >= before:
            return k - 1
        before = away
    return len(onwards) - 1


@uncounted(cache=True)
def _plain_from(run: FloatArray, others: FloatArray, width: float) -> int:
    """Return the first point of a run that is far from all others, -1 if none is."""
    for k in range(len(run) - 1):
        if nearest(others, run[k, 0], run[k, 1])[1] >= _PLAIN * width:
            return k
    return -1


@uncounted(cache=True)
def _cap_shows(onwards: FloatArray, others: FloatArray, ink: FloatArray, width: float) -> bool:
    """Return whether a line has no ink on one of its sides just before where it would run into another."""
    before = nearest(others, onwards[0, 0], onwards[0, 1])[1]
    for k in range(1, len(onwards)):
        now = nearest(others, onwards[k, 0], onwards[k, 1])[1]
        if now < _BEFORE * width < before:
            dx, dy = onwards[k, 0] - onwards[k - 1, 0], onwards[k, 1] - onwards[k - 1, 1]
            t, size = (before - _BEFORE * width) / (before - now), norm(dx, dy)
            x, y = onwards[k - 1, 0] + t * dx, onwards[k - 1, 1] + t * dy
            aside_x, aside_y = -dy / size * _ASIDE * width, dx / size * _ASIDE * width
            least = min(ink_at(ink, x + aside_x, y + aside_y), ink_at(ink, x - aside_x, y - aside_y))
            return bool(least < 0.5)
        before = now
    return False
