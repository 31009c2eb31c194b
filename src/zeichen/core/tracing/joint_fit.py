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

from zeichen.core.values import AnyArray, BoolArray, FloatArray

# Segments moved at once; more would cost the cube for nothing, since far nodes hardly feel each other.
WINDOW = 6
_MOST_SAMPLES = 26


@njit(cache=True, error_model="numpy")
def controls(
    k: int,
    node: FloatArray,
    line: BoolArray,
    angle: FloatArray,
    handle: FloatArray,
    p: FloatArray,
) -> None:
    """Write the control points of segment k into p (4, 2)."""
    j = (k + 1) % len(node)
    x0, y0, x3, y3 = node[k, 0], node[k, 1], node[j, 0], node[j, 1]
    p[0, 0], p[0, 1], p[3, 0], p[3, 1] = x0, y0, x3, y3
    if line[k]:
        p[1, 0], p[1, 1] = x0 + (x3 - x0) / 3, y0 + (y3 - y0) / 3
        p[2, 0], p[2, 1] = x3 - (x3 - x0) / 3, y3 - (y3 - y0) / 3
    else:
        p[1, 0], p[1, 1] = (
            x0 + handle[k, 0] * math.cos(angle[k, 0]),
            y0 + handle[k, 0] * math.sin(angle[k, 0]),
        )
        p[2, 0], p[2, 1] = (
            x3 - handle[k, 1] * math.cos(angle[k, 1]),
            y3 - handle[k, 1] * math.sin(angle[k, 1]),
        )


@njit(cache=True, error_model="numpy")
def project(
    p: FloatArray, x: float, y: float, t: float, steps: int
) -> tuple[float, float, float, float, float]:
    """Return (t, offset along the unit normal, nx, ny, distance) of a point from a cubic, starting at t.

    The offset is curve minus point, measured along the curve's normal at the foot.
    """
    ax, ay = p[1, 0] - p[0, 0], p[1, 1] - p[0, 1]
    bx, by = p[2, 0] - p[1, 0], p[2, 1] - p[1, 1]
    cx, cy = p[3, 0] - p[2, 0], p[3, 1] - p[2, 1]
    fx = fy = gx = gy = 0.0
    for step in range(steps + 1):
        s = 1.0 - t
        w0, w1, w2, w3 = s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t
        fx = w0 * p[0, 0] + w1 * p[1, 0] + w2 * p[2, 0] + w3 * p[3, 0] - x
        fy = w0 * p[0, 1] + w1 * p[1, 1] + w2 * p[2, 1] + w3 * p[3, 1] - y
        gx = 3 * (s * s * ax + 2 * s * t * bx + t * t * cx)
        gy = 3 * (s * s * ay + 2 * s * t * by + t * t * cy)
        if step == steps:
            break
        square = gx * gx + gy * gy
        # The full Newton step near the foot, the plain one where it would go the wrong way.
        hx = 6 * (s * (bx - ax) + t * (cx - bx))
        hy = 6 * (s * (by - ay) + t * (cy - by))
        full = square + fx * hx + fy * hy
        slope = full if full > 0.3 * square else square
        if slope < 1e-12:
            break
        change = (fx * gx + fy * gy) / slope
        moved = min(1.0, max(0.0, t - change))
        if abs(moved - t) < 1e-7:
            break
        t = moved
    size = math.hypot(gx, gy)
    if size < 1e-9:
        gx, gy = p[3, 0] - p[0, 0], p[3, 1] - p[0, 1]
        size = max(math.hypot(gx, gy), 1e-12)
    nx, ny = -gy / size, gx / size
    return t, fx * nx + fy * ny, nx, ny, math.hypot(fx, fy)


@njit(cache=True, error_model="numpy")
def _solve(a: FloatArray, b: FloatArray, size: int) -> bool:
    """Solve a symmetric positive system by Cholesky in place; the answer is left in b."""
    for c in range(size):
        d = a[c, c]
        for k in range(c):
            d -= a[c, k] * a[c, k]
        if d <= 0.0:
            return False
        d = math.sqrt(d)
        a[c, c] = d
        for r in range(c + 1, size):
            v = a[r, c]
            for k in range(c):
                v -= a[r, k] * a[c, k]
            a[r, c] = v / d
    for r in range(size):
        v = b[r]
        for k in range(r):
            v -= a[r, k] * b[k]
        b[r] = v / a[r, r]
    for r in range(size - 1, -1, -1):
        v = b[r]
        for k in range(r + 1, size):
            v -= a[k, r] * b[k]
        b[r] = v / a[r, r]
    return True


@njit(cache=True, error_model="numpy")
def span(first: AnyArray, k: int, n: int, closed: bool) -> tuple[int, int]:
    """Return the first point and the number of points of segment k."""
    if closed and k == len(first) - 1:
        return first[k], first[0] + n - first[k]
    return first[k], first[k + 1] - first[k]


@njit(cache=True, error_model="numpy")
def _link(
    s0: int,
    count: int,
    segments: int,
    nodes: int,
    closed: bool,
    line: BoolArray,
    corner: BoolArray,
    pinned: BoolArray,
    at: AnyArray,
    direction: AnyArray,
    reach: AnyArray,
) -> int:
    """Number the unknowns of a window; returns how many there are.

    at[i]: index of node s0 + i's x, or -1. direction[i, end]: index of the angle of segment s0 + i at
    its end, -1 for fixed, -2 - j for "that of line s0 + j". reach[i]: index of its first handle.
    """
    whole = closed and count == segments
    size = 0
    for i in range(count + 1):
        k = (s0 + i) % nodes
        if whole and i == count:
            at[i] = at[0]
            continue
        inner = whole or 0 < i < count or (not closed and k in (0, nodes - 1))
        at[i] = -1
        if inner and not pinned[k]:
            at[i] = size
            size += 2
    for i in range(count):
        k = (s0 + i) % segments
        reach[i] = -1
        direction[i, 0] = direction[i, 1] = -1
        if line[k]:
            continue
        reach[i] = size
        size += 2
        # At its start: the direction of the segment before, where they join smoothly.
        if at[i] >= 0 or pinned[(s0 + i) % nodes]:
            if corner[(s0 + i) % nodes]:
                direction[i, 0] = size
                size += 1
            elif i > 0 or whole:
                before = (i - 1) % count
                if line[(s0 + before) % segments]:
                    direction[i, 0] = -2 - before
                elif i > 0:
                    direction[i, 0] = direction[before, 1]
        j = i + 1
        if at[j] >= 0 or pinned[(s0 + j) % nodes]:
            if corner[(s0 + j) % nodes]:
                direction[i, 1] = size
                size += 1
            elif j < count or whole:
                after = j % count
                if line[(s0 + after) % segments]:
                    direction[i, 1] = -2 - after
                else:
                    direction[i, 1] = size
                    size += 1
    if whole and not line[s0] and not corner[s0 % nodes] and not line[(s0 + count - 1) % segments]:
        direction[0, 0] = direction[count - 1, 1]
    return size


@njit(cache=True, error_model="numpy")
def _add(
    row: FloatArray,
    used: AnyArray,
    filled: int,
    index: int,
    value: float,
) -> int:
    for k in range(filled):
        if used[k] == index:
            row[k] += value
            return filled
    used[filled] = index
    row[filled] = value
    return filled + 1


@njit(cache=True, error_model="numpy")
def _add_direction(
    row: FloatArray,
    used: AnyArray,
    filled: int,
    index: int,
    value: float,
    at: AnyArray,
    node: FloatArray,
    s0: int,
) -> int:
    """Add the effect of an angle: its own unknown, or the ends of the line it belongs to."""
    if index >= 0:
        return int(_add(row, used, filled, index, value))
    if index == -1:
        return filled
    i = -2 - index
    a, b = (s0 + i) % len(node), (s0 + i + 1) % len(node)
    dx, dy = node[b, 0] - node[a, 0], node[b, 1] - node[a, 1]
    square = max(dx * dx + dy * dy, 1e-6)
    px, py = -dy / square * value, dx / square * value
    if at[i + 1] >= 0:
        filled = _add(row, used, filled, at[i + 1], px)
        filled = _add(row, used, filled, at[i + 1] + 1, py)
    if at[i] >= 0:
        filled = _add(row, used, filled, at[i], -px)
        filled = _add(row, used, filled, at[i] + 1, -py)
    return filled


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
def tie_lines(
    s0: int, count: int, closed: bool, node: FloatArray, line: BoolArray, corner: BoolArray, angle: FloatArray
) -> None:
    """Give curves that join a line smoothly the line's direction."""
    nodes = len(node)
    segments = nodes if closed else nodes - 1
    for i in range(count):
        k = (s0 + i) % segments
        if not line[k]:
            continue
        j = (k + 1) % nodes
        angle[k, 0] = angle[k, 1] = math.atan2(node[j, 1] - node[k, 1], node[j, 0] - node[k, 0])
        if not corner[k] and (closed or k > 0):
            angle[(k - 1) % segments, 1] = angle[k, 0]
        if not corner[j] and (closed or k < segments - 1):
            angle[(k + 1) % segments, 0] = angle[k, 0]


@njit(cache=True, error_model="numpy")
def _keep(
    kept: FloatArray,
    s0: int,
    count: int,
    segments: int,
    node: FloatArray,
    angle: FloatArray,
    handle: FloatArray,
) -> None:
    for i in range(count + 1):
        kept[i, 0], kept[i, 1] = node[(s0 + i) % len(node), 0], node[(s0 + i) % len(node), 1]
        if i < count:
            k = (s0 + i) % segments
            kept[i, 2], kept[i, 3] = angle[k, 0], angle[k, 1]
            kept[i, 4], kept[i, 5] = handle[k, 0], handle[k, 1]


@njit(cache=True, error_model="numpy")
def _bring_back(
    kept: FloatArray,
    s0: int,
    count: int,
    segments: int,
    node: FloatArray,
    angle: FloatArray,
    handle: FloatArray,
) -> None:
    for i in range(count + 1):
        node[(s0 + i) % len(node), 0], node[(s0 + i) % len(node), 1] = kept[i, 0], kept[i, 1]
        if i < count:
            k = (s0 + i) % segments
            angle[k, 0], angle[k, 1] = kept[i, 2], kept[i, 3]
            handle[k, 0], handle[k, 1] = kept[i, 4], kept[i, 5]


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
) -> float:
    """Move the inner nodes of segments s0 .. s0 + count - 1; returns the weighted squared error left.

    q, w, u: points (n, 2), their weights, their parameters (kept from call to call).
    node, first: nodes and the index of the point where each segment starts.
    line, angle, handle: one row a segment; corner, pinned: one entry a node. All changed in place.
    """
    n = len(q)
    nodes = len(node)
    segments = nodes if closed else nodes - 1
    at = np.full(count + 1, -1)
    direction = np.full((count, 2), -1)
    reach = np.full(count, -1)
    size = _link(s0, count, segments, nodes, closed, line, corner, pinned, at, direction, reach)
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
    _keep(kept, s0, count, segments, node, angle, handle)
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
                        filled = _add(row, used, filled, at[i], left * nx)
                        filled = _add(row, used, filled, at[i] + 1, left * ny)
                    if at[i + 1] >= 0:
                        filled = _add(row, used, filled, at[i + 1], right * nx)
                        filled = _add(row, used, filled, at[i + 1] + 1, right * ny)
                else:
                    w1, w2 = 3 * s * s * t, 3 * s * t * t
                    left, right = s * s * s + w1, t * t * t + w2
                    if at[i] >= 0:
                        filled = _add(row, used, filled, at[i], left * nx)
                        filled = _add(row, used, filled, at[i] + 1, left * ny)
                    if at[i + 1] >= 0:
                        filled = _add(row, used, filled, at[i + 1], right * nx)
                        filled = _add(row, used, filled, at[i + 1] + 1, right * ny)
                    filled = _add(row, used, filled, reach[i], w1 * (nx * c0 + ny * d0))
                    filled = _add(row, used, filled, reach[i] + 1, -w2 * (nx * c1 + ny * d1))
                    filled = _add_direction(
                        row,
                        used,
                        filled,
                        direction[i, 0],
                        w1 * handle[k, 0] * (ny * c0 - nx * d0),
                        at,
                        node,
                        s0,
                    )
                    filled = _add_direction(
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
            if not _solve(work, step_vector, size):
                damp *= 10
                continue
            _apply(
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
            )
            now = _error(q, w, u, s0, count, segments, node, first, line, angle, handle, closed, p)
            if now < best:
                tried = True
                damp = max(damp / 5, 1e-7)
                break
            _bring_back(kept, s0, count, segments, node, angle, handle)
            damp *= 8
        if not tried:
            break
        gain = best - now
        best = now
        _keep(kept, s0, count, segments, node, angle, handle)
        if gain < 1e-2 * best + 1e-7:
            break
    for i in range(count + 1):
        k = (s0 + i) % nodes
        # A corner's own point stays; those around it have no say anyway.
        if not corner[k] and (closed or 0 < k < nodes - 1):
            _move_split(q, w, u, k, node, first, corner, angle, closed)
    return best


@njit(cache=True, error_model="numpy")
def _apply(
    step: FloatArray,
    s0: int,
    count: int,
    segments: int,
    closed: bool,
    node: FloatArray,
    line: BoolArray,
    corner: BoolArray,
    angle: FloatArray,
    handle: FloatArray,
    at: AnyArray,
    direction: AnyArray,
    reach: AnyArray,
) -> None:
    nodes = len(node)
    whole = closed and count == segments
    for i in range(count if whole else count + 1):
        if at[i] >= 0:
            k = (s0 + i) % nodes
            dx, dy = step[at[i]], step[at[i] + 1]
            size = math.hypot(dx, dy)
            shorten = 1.0 if size < 1.5 else 1.5 / size
            node[k, 0] += dx * shorten
            node[k, 1] += dy * shorten
    for i in range(count):
        k = (s0 + i) % segments
        if line[k]:
            continue
        j = (k + 1) % nodes
        chord = math.hypot(node[j, 0] - node[k, 0], node[j, 1] - node[k, 1])
        for end in range(2):
            grown = handle[k, end] + step[reach[i] + end]
            handle[k, end] = min(max(grown, 0.04 * chord + 1e-3), 1.6 * chord + 1.0)
            index = direction[i, end]
            if index >= 0:
                angle[k, end] += max(-0.5, min(0.5, step[index]))
    tie_lines(s0, count, closed, node, line, corner, angle)
    for i in range(count):
        k = (s0 + i) % segments
        if not line[k]:
            _shorten_handles(k, node, angle, handle)


@njit(cache=True, error_model="numpy")
def _shorten_handles(k: int, node: FloatArray, angle: FloatArray, handle: FloatArray) -> None:
    """Keep the handles of a segment from passing each other along its chord, where it would loop."""
    j = (k + 1) % len(node)
    dx, dy = node[j, 0] - node[k, 0], node[j, 1] - node[k, 1]
    chord = math.hypot(dx, dy)
    if chord < 1e-9:
        return
    run = 0.0
    for end in range(2):
        along = (math.cos(angle[k, end]) * dx + math.sin(angle[k, end]) * dy) / chord
        run += handle[k, end] * max(along, 0.0)
    if run > 0.96 * chord:
        handle[k, 0] *= 0.96 * chord / run
        handle[k, 1] *= 0.96 * chord / run


@njit(cache=True, error_model="numpy")
def _move_split(
    q: FloatArray,
    w: FloatArray,
    u: FloatArray,
    k: int,
    node: FloatArray,
    first: AnyArray,
    corner: BoolArray,
    angle: FloatArray,
    closed: bool,
) -> None:
    """Let the points on either side of a node belong to the segment they lie beside."""
    n = len(q)
    nodes = len(node)
    before = first[k - 1] if k > 0 else first[nodes - 1] - n
    after = first[k + 1] if k + 1 < nodes else first[0] + n
    segments = nodes if closed else nodes - 1
    left = (k - 1) % segments
    cx = math.cos(angle[k % segments, 0]) + math.cos(angle[left, 1])
    cy = math.sin(angle[k % segments, 0]) + math.sin(angle[left, 1])
    split = first[k]
    while split > before + 1:
        j = (split - 1) % n
        if w[j] < 0.5 or (q[j, 0] - node[k, 0]) * cx + (q[j, 1] - node[k, 1]) * cy <= 0:
            break
        u[j] = 0.0
        split -= 1
    if split == first[k]:
        while split < after - 1:
            j = split % n
            if w[j] < 0.5 or (q[j, 0] - node[k, 0]) * cx + (q[j, 1] - node[k, 1]) * cy >= 0:
                break
            u[j] = 1.0
            split += 1
    first[k] = split
    if closed and k == 0 and split < 0:
        for i in range(nodes):
            first[i] += n


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
    sweeps: int,
    rounds: int,
) -> None:
    """Move all nodes of a chain, window after window."""
    nodes = len(node)
    segments = nodes if closed else nodes - 1
    tie_lines(0, segments, closed, node, line, corner, angle)
    if segments <= WINDOW:
        for _ in range(sweeps):
            refine_window(
                q, w, u, 0, segments, node, first, line, corner, pinned, angle, handle, closed, rounds
            )
        return
    pace = WINDOW // 2
    for sweep in range(sweeps):
        s0 = -(sweep % 2) if closed else 0
        while s0 < segments:
            count = WINDOW if closed else min(WINDOW, segments - s0)
            from_k, wide = widen(s0, count, closed, line, corner)
            refine_window(
                q, w, u, from_k, wide, node, first, line, corner, pinned, angle, handle, closed, rounds
            )
            if not closed and s0 + count >= segments:
                break
            s0 += pace


@njit(cache=True, error_model="numpy")
def misfit(
    q: FloatArray,
    w: FloatArray,
    u: FloatArray,
    k: int,
    node: FloatArray,
    first: AnyArray,
    line: BoolArray,
    angle: FloatArray,
    handle: FloatArray,
    closed: bool,
) -> tuple[float, float, int]:
    """Return (largest distance, weighted sum of squares, point of the largest) of segment k."""
    n = len(q)
    p = np.empty((4, 2))
    controls(k, node, line, angle, handle, p)
    start, points = span(first, k, n, closed)
    worst, total, place = 0.0, 0.0, -1
    for step in range(points):
        j = (start + step) % n
        if w[j] <= 0.0:
            continue
        t, off, _, _, _ = project(p, q[j, 0], q[j, 1], u[j], 3)
        u[j] = t
        total += w[j] * off * off
        if abs(off) * min(1.0, w[j]) > worst:
            worst = abs(off) * min(1.0, w[j])
            place = start + step
    return worst, total, place


@njit(cache=True, error_model="numpy")
def spread_parameters(q: FloatArray, u: FloatArray, start: int, points: int) -> None:
    """Set the parameters of a run of points by length."""
    n = len(q)
    run = 0.0
    for step in range(points):
        j = (start + step) % n
        if step:
            i = (j - 1) % n
            run += math.hypot(q[j, 0] - q[i, 0], q[j, 1] - q[i, 1])
        u[j] = run
    for step in range(points):
        j = (start + step) % n
        u[j] = (u[j] + 0.25) / (run + 0.5) if points > 1 else 0.5


@njit(cache=True, error_model="numpy")
def spread_all(q: FloatArray, u: FloatArray, first: AnyArray, segments: int, closed: bool) -> None:
    """Set the parameters of all points by length along their segments."""
    for k in range(segments):
        start, points = span(first, k, len(q), closed)
        spread_parameters(q, u, start, points)


@njit(cache=True, error_model="numpy")
def all_controls(
    segments: int, node: FloatArray, line: BoolArray, angle: FloatArray, handle: FloatArray
) -> FloatArray:
    """Return the control points of a chain, shape (segments, 4, 2)."""
    out = np.empty((segments, 4, 2))
    for k in range(segments):
        controls(k, node, line, angle, handle, out[k])
    return out


@njit(cache=True, error_model="numpy")
def furthest_points(
    q: FloatArray,
    segments: int,
    node: FloatArray,
    first: AnyArray,
    line: BoolArray,
    angle: FloatArray,
    handle: FloatArray,
    closed: bool,
) -> FloatArray:
    """Return, for each segment, how far the furthest of its points lies from it, whatever its weight."""
    n = len(q)
    out = np.zeros(segments)
    p = np.empty((4, 2))
    for k in range(segments):
        controls(k, node, line, angle, handle, p)
        start, points = span(first, k, n, closed)
        t = 0.0
        for step in range(points):
            j = (start + step) % n
            begin = (step + 0.5) / points
            t, _, _, _, off = project(p, q[j, 0], q[j, 1], begin, 6)
            if off > out[k]:
                # A second look from the last foot: Newton may have started on the wrong side of a bend.
                _, _, _, _, again = project(p, q[j, 0], q[j, 1], t, 6)
                out[k] = max(out[k], min(off, again))
    return out
