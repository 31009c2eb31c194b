"""The unknowns of a window of segments, and the linear system for their step.

Unknown are the places of free nodes, one direction where a curve meets another smoothly (two at a
corner; none where a line gives it), and two handle lengths for each curve.
"""

import math

from numba import njit

from zeichen.core.values import AnyArray, BoolArray, FloatArray


@njit(cache=True, error_model="numpy")
def solve_positive(a: FloatArray, b: FloatArray, size: int) -> bool:
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
def number_unknowns(
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
def add_term(
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
def add_direction(
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
        return int(add_term(row, used, filled, index, value))
    if index == -1:
        return filled
    i = -2 - index
    a, b = (s0 + i) % len(node), (s0 + i + 1) % len(node)
    dx, dy = node[b, 0] - node[a, 0], node[b, 1] - node[a, 1]
    square = max(dx * dx + dy * dy, 1e-6)
    px, py = -dy / square * value, dx / square * value
    if at[i + 1] >= 0:
        filled = add_term(row, used, filled, at[i + 1], px)
        filled = add_term(row, used, filled, at[i + 1] + 1, py)
    if at[i] >= 0:
        filled = add_term(row, used, filled, at[i], -px)
        filled = add_term(row, used, filled, at[i] + 1, -py)
    return filled
