"""All nodes of a spline of segments moved together until the spline lies best on its points.

A spline has nodes and, between them, lines and cubics. At a smooth node both sides share one
direction (the line's own where one side is a line); at a corner each side has its own. Unknown are
the nodes, the directions and the handle lengths; the measure is the squared distance of the points
from the spline, each weighted. Solved by damped Gauss-Newton steps (Levenberg-Marquardt) over windows
of a few segments, the points projected onto the spline anew at each step.

Sources: D. W. Marquardt, "An algorithm for least-squares estimation of nonlinear parameters", SIAM
Journal 11 (1963); distance along the normal only, as in "tangent distance minimisation", W. Wang,
H. Pottmann and Y. Liu, ACM Transactions on Graphics 25 (2006), from memory.
"""

from typing import NamedTuple

import numpy as np

from zeichen.core.compiled import NONE, counted, uncounted
from zeichen.core.fitting.refinement_samples import gather, lie, normal_equations
from zeichen.core.fitting.refinement_step import apply_step, bring_back, keep, move_split, tie_lines
from zeichen.core.fitting.refinement_unknowns import (
    System,
    Unknowns,
    add_segment,
    name_targets,
    number_unknowns,
    solve_positive,
    stiffness,
    widen_band,
)
from zeichen.core.fitting.spline_arrays import SplineArrays, Window
from zeichen.core.fitting.spline_geometry import controls
from zeichen.core.geometry.loops import around
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Segments moved at once: far nodes hardly feel each other, and a step that fails fails for all of them.
WINDOW = 8
# And how far the next window lies from the one before: nodes near a rim get a second, better look.
PACE = 6
# A step that brings less than this share of what is left ends the fit of a window.
_LEAST_GAIN = 2e-2
# Unless it moves a corner by more than this.
_STILL_MOVING_PX = 0.3


class _Samples(NamedTuple):
    """A window's samples, where those of each segment begin, their first parameters, and two states of them."""

    seen: FloatArray
    begin: AnyArray
    before: FloatArray
    states: FloatArray


@uncounted
def _lie_all(
    window: Window, seen: FloatArray, begin: AnyArray, before: FloatArray, state: FloatArray
) -> float:
    """Put all samples of a window on its segments; returns the weighted squared error."""
    spline, total = window.spline, 0.0
    for i in range(window.wide):
        k = around(window.s0 + i, window.segments)
        controls(k, spline.node, spline.line, spline.angle, spline.handle, window.p)
        total += lie(window.p, seen, begin[i], begin[i + 1], before, state)
    return total


@uncounted
def widen(s0: int, count: int, closed: bool, line: BoolArray, corner: BoolArray) -> tuple[int, int]:
    """Return the window with no line at its rim whose direction a curve outside takes over."""
    nodes = len(corner)
    segments = nodes if closed else nodes - 1
    if count >= segments:
        return 0, segments
    if line[around(s0, segments)] and not corner[around(s0, nodes)] and (closed or s0 > 0):
        s0 -= 1
        count += 1
    last = around(s0 + count - 1, segments)
    if (
        count < segments
        and line[last]
        and not corner[around(last + 1, nodes)]
        and (closed or last < segments - 1)
    ):
        count += 1
    if count >= segments:
        return 0, segments
    return around(s0, segments), count


@uncounted
def _furthest_corner(kept: FloatArray, s0: int, node: FloatArray, corner: BoolArray) -> float:
    """Return how far a step moved the corner of a window that it moved furthest, px along an axis."""
    furthest = 0.0
    for i in range(len(kept)):
        k = around(s0 + i, len(node))
        if corner[k]:
            furthest = max(furthest, abs(node[k, 0] - kept[i, 0]), abs(node[k, 1] - kept[i, 1]))
    return furthest


@counted
def refine_window(spline: SplineArrays, s0: int, count: int, rounds: int, aligned: bool) -> float:
    """Move the inner nodes of segments s0 .. s0 + count - 1; returns the weighted squared error left.

    aligned: handles at corners too short to be felt point where the curve goes.
    """
    nodes = len(spline.node)
    segments = nodes if spline.closed else nodes - 1
    window = Window(spline, s0, count, segments, aligned, np.empty((4, 2)))
    at = np.empty(count + 1, np.int64)
    direction = np.empty((count, 2), np.int64)
    reach = np.empty(count, np.int64)
    size = number_unknowns(window, at, direction, reach)
    seen, before, point, begin = gather(spline, s0, count, segments)
    samples = _Samples(seen, begin, before, np.empty((2, 4, len(before))))
    unknowns = Unknowns(
        size,
        at,
        direction,
        reach,
        np.empty((count, 8), np.int64),
        np.empty((count, 8, 4), np.int64),
        np.empty((count, 8, 4)),
        np.empty(size, np.int64),
    )
    system = System(
        np.empty((size, size)),
        np.empty((size, size)),
        np.empty(size),
        np.empty(size),
        np.empty(size),
        np.empty((8, 8)),
        np.empty((8, 8)),
        np.empty(8),
        np.empty((count + 1, 6)),
    )
    best, now = _descend(window, samples, unknowns, system, rounds)
    _settle_in(window, samples, now, point)
    return float(best)


@uncounted
def _descend(
    window: Window, samples: _Samples, unknowns: Unknowns, system: System, rounds: int
) -> tuple[float, int]:
    """Move a window step by step to where it lies best; returns the weighted squared error left, and the state kept."""
    spline, s0, count, segments, _, _ = window
    seen, begin, before, states = samples
    size, at, direction, reach, many, target, _, low = unknowns
    a, work, b, step, stiff, own, _, own_b, kept = system
    # The present state and that of a step on trial change places when the step is kept.
    now = 0
    _lie_all(window, seen, begin, before, states[1])
    best: float = _lie_all(window, seen, begin, states[1, 0], states[0])
    if size == 0:
        return best, now
    for r in range(size):
        low[r] = r
    for i in range(count):
        name_targets(i, window, unknowns)
        widen_band(target[i], many[i], low)
    keep(kept, window)
    damp = 0.01
    furthest = 0.0
    for _ in range(rounds):
        a[:] = 0.0
        b[:] = 0.0
        for i in range(count):
            k = around(s0 + i, segments)
            name_targets(i, window, unknowns)
            some = begin[i], begin[i + 1]
            normal_equations(seen, states[now], some, spline.line[k], own, own_b)
            add_segment(i, window, unknowns, system)
        stiffness(window, at, system)
        tried = False
        gone = best
        for _ in range(5):
            for r in range(size):
                for c in range(low[r], r + 1):
                    work[r, c] = a[r, c]
                work[r, r] += damp * (stiff[r] + 1e-3) + 1e-7
                step[r] = b[r]
            if not solve_positive(work, step, low, size):
                damp *= 10
                continue
            # What the linear picture promises; less is not worth a look.
            promised = 0.0
            for r in range(size):
                promised += step[r] * b[r]
            if promised < _LEAST_GAIN * best + 1e-7 and furthest < _STILL_MOVING_PX:
                break
            apply_step(step, window, at, direction, reach)
            left = _lie_all(window, seen, begin, states[now, 0], states[1 - now])
            if left < best:
                tried = True
                gone = left
                damp = max(damp / 5, 1e-7)
                break
            bring_back(kept, window)
            damp *= 8
        if not tried:
            break
        now = 1 - now
        gain = best - gone
        best = gone
        # The points beside a corner have little say: it may be on its way although little is gained.
        furthest = _furthest_corner(kept, s0, spline.node, spline.corner)
        keep(kept, window)
        if gain < _LEAST_GAIN * best + 1e-7 and furthest < _STILL_MOVING_PX:
            break
    return best, now


@uncounted
def _settle_in(window: Window, samples: _Samples, now: int, point: AnyArray) -> None:
    """Keep the samples' parameters, and let the points around each node belong to the segment they lie beside."""
    spline = window.spline
    for j in range(samples.begin[window.wide]):
        spline.at[point[j]] = samples.states[now, 0, j]
    nodes = len(spline.node)
    for i in range(window.wide + 1):
        k = around(window.s0 + i, nodes)
        # A corner's own point stays; those around it have no say anyway.
        if not spline.corner[k] and (spline.closed or 0 < k < nodes - 1):
            move_split(spline, k)


@counted(cache=True)
def sweep_starts(segments: int, sweeps: int, closed: bool) -> AnyArray:
    """Return where the windows of some sweeps over a spline start."""
    if segments <= WINDOW:
        return np.zeros(sweeps, np.int64)
    # An open spline ends with the first window that reaches its end.
    stop = segments if closed else max(segments - WINDOW + PACE, 1)
    starts = np.empty(sweeps * (stop // PACE + 2), np.int64)
    count = 0
    for sweep in range(sweeps):
        for start in range(-(sweep % 2) if closed else 0, stop, PACE):
            starts[count] = start
            count += 1
    return starts[:count]


@counted(cache=True)
def starts_around(changed: BoolArray, closed: bool) -> AnyArray:
    """Return where windows start that have each of some segments in their middle, or one near to it."""
    segments = len(changed)
    if segments <= WINDOW:
        return np.zeros(1, np.int64)
    starts = np.empty(segments, np.int64)
    count = 0
    covered = -1
    for k in range(segments):
        if changed[k] and k > covered:
            start = k - WINDOW // 2 + 1
            starts[count] = start if closed else min(max(start, 0), segments - WINDOW)
            count += 1
            covered = k + 2
    return starts[:count]


@counted
def refine(spline: SplineArrays, starts: AnyArray, rounds: int, aligned: bool) -> None:
    """Move the nodes of a spline, window after window from given segments on; see refine_window."""
    line, corner, closed = spline.line, spline.corner, spline.closed
    nodes = len(corner)
    segments = nodes if closed else nodes - 1
    tie_lines(spline, NONE, segments)
    for s0 in starts:
        from_k, wide = 0, segments
        if segments > WINDOW:
            count = WINDOW if closed else min(WINDOW, segments - s0)
            from_k, wide = widen(s0, count, closed, line, corner)
        refine_window(spline, from_k, wide, rounds, aligned)
