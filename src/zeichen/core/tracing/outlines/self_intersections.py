"""Cutting out the tiny loops that fits make where there is less than a pixel to fit to."""

from bisect import bisect

import numpy as np

from zeichen.core.geometry import bezier
from zeichen.core.geometry.meeting import crossing_pairs
from zeichen.core.values import BoolArray, FloatArray

# A curve is looked at in so many steps, and so many loops inside each other are cut out (our own rules).
_SAMPLES = 25
_ROUNDS = 4
# A curve no larger than this is a place.
_ONE_PLACE_PX = 1e-9
# Longer runs than this are texture, in which nobody looks for loops.
_MOST_SEGMENTS = 4_000


def polyline(curves: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return points (n, 2) along curves (m, 4, 2) and where on them each lies, (n,): segment number plus parameter."""
    t = np.linspace(0.0, 1.0, _SAMPLES)
    points = bezier.evaluate(curves, t)
    at = np.arange(len(curves))[:, None] + t[None]
    return (
        np.vstack([points[:, :-1].reshape(-1, 2), curves[-1:, 3]]),
        np.append(at[:, :-1].ravel(), float(len(curves))),
    )


def crossings(a: FloatArray, b: FloatArray | None = None) -> FloatArray:
    """Return where a run of curves crosses itself or another: rows of the two places, shape (n, 2)."""
    points, at = polyline(a)
    other_points, other_at = (points, at) if b is None else polyline(b)
    pairs, shares = crossing_pairs(points, None if b is None else other_points)
    return np.stack(
        [
            places[pairs[:, column]]
            + shares[:, column] * (places[pairs[:, column] + 1] - places[pairs[:, column]])
            for column, places in enumerate((at, other_at))
        ],
        axis=1,
    )


def without_loops(curves: FloatArray, longest: float, *, closed: bool) -> FloatArray:
    """Return a run of curves without its loops up to a length: where it crosses itself it turns at once.

    Parameters
    ----------
    curves : (n, 4, 2) float array
    longest : float
        Loops longer than this along the run are left alone.
    closed : bool
        Whether the run's end is its start.
    """
    curves = _with_length(curves)
    for _ in range(_ROUNDS if len(curves) and _drawn(curves).any() else 0):
        if not 0 < len(curves) <= _MOST_SEGMENTS:
            break
        found = crossings(curves)
        if len(found) == 0:
            break
        run = np.concatenate([[0.0], np.cumsum(bezier.arc_lengths(curves))])
        whole = float(run[-1])
        # To a loop's length the even spread of a segment's length is near enough.
        inside = np.interp(found[:, 1], np.arange(len(run)), run) - np.interp(
            found[:, 0], np.arange(len(run)), run
        )
        loops = sorted(
            (float(length), float(u), float(v))
            for length, (u, v) in zip(inside, found, strict=True)
            if length <= longest
        )
        if not loops:
            around = whole - inside
            if not closed or around.min() > longest:
                break
            # The loop holds the start: what lies between the two places is the run.
            u, v = found[int(around.argmin())]
            inner = bezier.piece(curves, float(u), float(v))
            curves = bezier.shifted_end(inner, 1, inner[0, 0])
            continue
        cut: list[tuple[float, float]] = []
        for _, u, v in loops:
            # Those taken so far lie apart, in order: only the two beside it can be in its way.
            at = bisect(cut, (u, v))
            if (at == 0 or cut[at - 1][1] <= u) and (at == len(cut) or cut[at][0] >= v):
                cut.insert(at, (u, v))
        curves = _without(curves, cut)
    return curves


def _with_length(curves: FloatArray) -> FloatArray:
    """Return a run without the curves that are all one place: they cross themselves in their last digits."""
    drawn = _drawn(curves)
    if drawn.all():
        return curves
    out = (curves[drawn] if drawn.any() else curves[:1]).copy()
    # The run keeps its start and its end to the last digit.
    out[0, 0], out[-1, 3] = curves[0, 0], curves[-1, 3]
    return out


def _drawn(curves: FloatArray) -> BoolArray:
    """Return which curves are more than one place."""
    return np.asarray(np.abs(curves - curves[:, :1]).max(axis=(1, 2), initial=0.0) > _ONE_PLACE_PX)


def _without(curves: FloatArray, cut: list[tuple[float, float]]) -> FloatArray:
    """Return a run of curves without some stretches, what is left joined."""
    out = bezier.piece(curves, 0.0, cut[0][0])
    for k, (_, v) in enumerate(cut):
        end = cut[k + 1][0] if k + 1 < len(cut) else float(len(curves))
        out = _joined(out, bezier.piece(curves, v, end))
    return out


def _joined(before: FloatArray, after: FloatArray) -> FloatArray:
    if len(before) == 0 or len(after) == 0:
        return before if len(before) else after
    place = (before[-1, 3] + after[0, 0]) / 2
    return np.concatenate([bezier.shifted_end(before, 1, place), bezier.shifted_end(after, 0, place)])
