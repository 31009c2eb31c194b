"""All nodes of a chain of segments moved together until the chain lies best on its points.

A chain has nodes and, between them, lines and cubics. At a smooth node both sides share one
direction (the line's own where one side is a line); at a corner each side has its own. Unknown are
the nodes, the directions and the handle lengths; the measure is the squared distance of the points
from the chain, each weighted. Solved by damped Gauss-Newton steps (Levenberg-Marquardt) over windows
of a few segments, the points projected onto the chain anew at each step.

Sources: D. W. Marquardt, "An algorithm for least-squares estimation of nonlinear parameters", SIAM
Journal 11 (1963); distance along the normal only, as in "tangent distance minimisation", W. Wang,
H. Pottmann and Y. Liu, ACM Transactions on Graphics 25 (2006), from memory.
"""

import math

import numpy as np
from numba import njit

from zeichen.core.tracing.chain_geometry import controls, project, span
from zeichen.core.tracing.joint_step import apply_step, bring_back, keep, move_split, tie_lines
from zeichen.core.tracing.joint_unknowns import add_direction, add_term, number_unknowns, solve_positive
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Segments moved at once; more would cost the cube for nothing, since far nodes hardly feel each other.
WINDOW = 6
_MOST_SAMPLES = 26


@njit(cache=True, error_model="numpy")
def _error(
    q: FloatArray,
    w: FloatArray,
    u: FloatArray,
    s0: int,
    count: int,
    segments: int,
    node: FloatArray,
    first: AnyArray,
    line: BoolArray,
    angle: FloatArray,
    handle: FloatArray,
    closed: bool,
    p: FloatArray,
) -> float:
    n = len(q)
    total = 0.0
    for i in range(count):
        k = (s0 + i) % segments
        controls(k, node, line, angle, handle, p)
        start, points = span(first, k, n, closed)
        stride = max(1, points // _MOST_SAMPLES)
        for step in range(stride // 2, points, stride):
            j = (start + step) % n
            if w[j] <= 0.0:
                continue
            _, off, _, _, _ = project(p, q[j, 0], q[j, 1], u[j], 2)
            total += w[j] * stride * off * off
    return total


@njit(cache=True, error_model="numpy")
def widen(s0: int, count: int, closed: bool, line: BoolArray, corner: BoolArray) -> tuple[int, int]:
    """Return the window with no line at its rim whose direction a curve outside takes over."""
    nodes = len(corner)
    segments = nodes if closed else nodes - 1
    if count >= segments:
        return 0, segments
    if line[s0 % segments] and not corner[s0 % nodes] and (closed or s0 > 0):
        s0 -= 1
        count += 1
    last = (s0 + count - 1) % segments
    if count < segments and line[last] and not corner[(last + 1) % nodes] and (closed or last < segments - 1):
        count += 1
    if count >= segments:
        return 0, segments
    return s0 % segments, count


@njit(cache=True, error_model="numpy")
def refine_window(
    q: FloatArray,
    w: FloatArray,
    u: FloatArray,
    s0: int,
    count: int,
    node: FloatArray,
    first: AnyArray,
    line: BoolArray,
    corner: BoolArray,
    pinned: BoolArray,
    angle: FloatArray,
    handle: FloatArray,
    closed: bool,
    rounds: int,
    calm: bool,
) -> float:
    """Move the inner nodes of segments s0 .. s0 + count - 1; returns the weighted squared error left.

    q, w, u: points (n, 2), their weights, their parameters (kept from call to call).
    node, first: nodes and the index of the point where each segment starts.
    line, angle, handle: one row a segment; corner, pinned: one entry a node. All changed in place.
    calm: handles at corners too short to be felt point where the curve goes.
    """
    n = len(q)
    nodes = len(node)
    segments = nodes if closed else nodes - 1
    at = np.full(count + 1, -1)
    direction = np.full((count, 2), -1)
    reach = np.full(count, -1)
    size = number_unknowns(s0, count, segments, nodes, closed, line, corner, pinned, at, direction, reach)
    p = np.empty((4, 2))
    best: float = _error(q, w, u, s0, count, segments, node, first, line, angle, handle, closed, p)
    if size == 0:
        return best
    a = np.empty((size, size))
    work = np.empty((size, size))
    b = np.empty(size)
    row = np.empty(16)
    used = np.empty(16, np.int64)
    damp = 1e-3
    kept = np.empty((count + 1, 6))
    keep(kept, s0, count, segments, node, angle, handle)
    for _ in range(rounds):
        a[:] = 0.0
        b[:] = 0.0
        for i in range(count):
            k = (s0 + i) % segments
            controls(k, node, line, angle, handle, p)
            start, points = span(first, k, n, closed)
            stride = max(1, points // _MOST_SAMPLES)
            c0, d0 = math.cos(angle[k, 0]), math.sin(angle[k, 0])
            c1, d1 = math.cos(angle[k, 1]), math.sin(angle[k, 1])
            for step in range(stride // 2, points, stride):
                j = (start + step) % n
                if w[j] <= 0.0:
                    continue
                t, off, nx, ny, _ = project(p, q[j, 0], q[j, 1], u[j], 2)
                u[j] = t
                s = 1.0 - t
                filled = 0
                if line[k]:
                    left, right = s, t
                    if at[i] >= 0:
                        filled = add_term(row, used, filled, at[i], left * nx)
                        filled = add_term(row, used, filled, at[i] + 1, left * ny)
                    if at[i + 1] >= 0:
                        filled = add_term(row, used, filled, at[i + 1], right * nx)
                        filled = add_term(row, used, filled, at[i + 1] + 1, right * ny)
                else:
                    w1, w2 = 3 * s * s * t, 3 * s * t * t
                    left, right = s * s * s + w1, t * t * t + w2
                    if at[i] >= 0:
                        filled = add_term(row, used, filled, at[i], left * nx)
                        filled = add_term(row, used, filled, at[i] + 1, left * ny)
                    if at[i + 1] >= 0:
                        filled = add_term(row, used, filled, at[i + 1], right * nx)
                        filled = add_term(row, used, filled, at[i + 1] + 1, right * ny)
                    filled = add_term(row, used, filled, reach[i], w1 * (nx * c0 + ny * d0))
                    filled = add_term(row, used, filled, reach[i] + 1, -w2 * (nx * c1 + ny * d1))
                    filled = add_direction(
                        row,
                        used,
                        filled,
                        direction[i, 0],
                        w1 * handle[k, 0] * (ny * c0 - nx * d0),
                        at,
                        node,
                        s0,
                    )
                    filled = add_direction(
                        row,
                        used,
                        filled,
                        direction[i, 1],
                        -w2 * handle[k, 1] * (ny * c1 - nx * d1),
                        at,
                        node,
                        s0,
                    )
                weight = w[j] * stride
                for r in range(filled):
                    v = weight * row[r]
                    b[used[r]] -= v * off
                    for c in range(filled):
                        a[used[r], used[c]] += v * row[c]
        tried = False
        for _ in range(5):
            for r in range(size):
                for c in range(size):
                    work[r, c] = a[r, c]
                work[r, r] += damp * (a[r, r] + 1e-3) + 1e-7
            step_vector = b.copy()
            if not solve_positive(work, step_vector, size):
                damp *= 10
                continue
            apply_step(
                step_vector,
                s0,
                count,
                segments,
                closed,
                node,
                line,
                corner,
                angle,
                handle,
                at,
                direction,
                reach,
                calm,
            )
            now = _error(q, w, u, s0, count, segments, node, first, line, angle, handle, closed, p)
            if now < best:
                tried = True
                damp = max(damp / 5, 1e-7)
                break
            bring_back(kept, s0, count, segments, node, angle, handle)
            damp *= 8
        if not tried:
            break
        gain = best - now
        best = now
        keep(kept, s0, count, segments, node, angle, handle)
        if gain < 1e-2 * best + 1e-7:
            break
    for i in range(count + 1):
        k = (s0 + i) % nodes
        # A corner's own point stays; those around it have no say anyway.
        if not corner[k] and (closed or 0 < k < nodes - 1):
            move_split(q, w, u, k, node, first, corner, angle, closed)
    return best


def sweep_starts(segments: int, sweeps: int, *, closed: bool) -> AnyArray:
    """Return where the windows of some sweeps over a chain start."""
    if segments <= WINDOW:
        return np.zeros(sweeps, np.int64)
    pace = WINDOW // 2
    runs = []
    for sweep in range(sweeps):
        start = -(sweep % 2) if closed else 0
        # An open chain ends with the first window that reaches its end.
        stop = segments if closed else max(segments - WINDOW + pace, 1)
        runs.append(np.arange(start, stop, pace))
    return np.concatenate(runs).astype(np.int64)


@njit(cache=True, error_model="numpy")
def refine(
    q: FloatArray,
    w: FloatArray,
    u: FloatArray,
    node: FloatArray,
    first: AnyArray,
    line: BoolArray,
    corner: BoolArray,
    pinned: BoolArray,
    angle: FloatArray,
    handle: FloatArray,
    closed: bool,
    starts: AnyArray,
    rounds: int,
    calm: bool,
) -> None:
    """Move the nodes of a chain, window after window from given segments on; see refine_window."""
    nodes = len(node)
    segments = nodes if closed else nodes - 1
    tie_lines(0, segments, closed, node, line, corner, angle)
    for s0 in starts:
        from_k, wide = 0, segments
        if segments > WINDOW:
            count = WINDOW if closed else min(WINDOW, segments - s0)
            from_k, wide = widen(s0, count, closed, line, corner)
        refine_window(
            q, w, u, from_k, wide, node, first, line, corner, pinned, angle, handle, closed, rounds, calm
        )
