"""The unknowns of a window of segments, and the linear system for their step.

Unknown are the places of free nodes, one direction where a curve meets another smoothly (two at a
corner; none where a line gives it), and two handle lengths for each curve. They are numbered along the
spline, so that the system is a narrow band (but for a loop's last node, which feels the first).
"""

import math
from typing import NamedTuple

import numpy as np

from zeichen.core.compiled import FAST_SUMS, uncounted
from zeichen.core.fitting.spline_arrays import Window
from zeichen.core.geometry.loops import around
from zeichen.core.values import AnyArray, FloatArray

# Corners that turn by less than this cosine's angle are blunt, and held so many times as firmly as they are stiff.
_BLUNT_COS = math.cos(math.radians(75.0))
_BLUNT_HOLD = 10.0
_ONE = np.uint64(1)


class Unknowns(NamedTuple):
    """How many unknowns a window has, where each is, what each segment is made of, each row's first column."""

    size: int
    at: AnyArray
    direction: AnyArray
    reach: AnyArray
    many: AnyArray
    target: AnyArray
    share: FloatArray
    low: AnyArray


class System(NamedTuple):
    """Room for the equations of a step: of all unknowns (a, work, b, step, stiff), of one segment, what was before."""

    a: FloatArray
    work: FloatArray
    b: FloatArray
    step: FloatArray
    stiff: FloatArray
    own: FloatArray
    half: FloatArray
    own_b: FloatArray
    kept: FloatArray


@uncounted(cache=True, fastmath={"contract"})
def solve_positive(a: FloatArray, b: FloatArray, low: AnyArray, size: int) -> bool:
    """Solve a symmetric positive system by Cholesky in place; the answer is left in b.

    Only the lower half of a is read; low: the first column of each row that is not 0. Counted without a sign:
    otherwise each access would ask whether it counts from the end, which takes twice as long.
    """
    for r in range(np.uint64(size)):
        first = np.uint64(low[r])
        for c in range(first, r + _ONE):
            v = a[r, c]
            for k in range(max(first, np.uint64(low[c])), c):
                v -= a[r, k] * a[c, k]
            if c < r:
                a[r, c] = v * a[c, c]
            elif v <= 0.0:
                return False
            else:
                # The reciprocal of the pivot: it only ever divides.
                a[r, r] = 1.0 / math.sqrt(v)
    for r in range(np.uint64(size)):
        v = b[r]
        for k in range(np.uint64(low[r]), r):
            v -= a[r, k] * b[k]
        b[r] = v * a[r, r]
    for passed in range(np.uint64(size)):
        last = np.uint64(size) - _ONE - passed
        b[last] *= a[last, last]
        for k in range(np.uint64(low[last]), last):
            b[k] -= a[last, k] * b[last]
    return True


@uncounted
def number_unknowns(window: Window, at: AnyArray, direction: AnyArray, reach: AnyArray) -> int:
    """Number the unknowns of a window; returns how many there are.

    at[i]: index of node s0 + i's x, or -1. direction[i, end]: index of the angle of segment s0 + i at
    its end, -1 for fixed, -2 - j for "that of line s0 + j". reach[i]: index of its first handle.
    """
    s0, count, segments = window.s0, window.wide, window.segments
    line, corner, pinned = window.spline.line, window.spline.corner, window.spline.pinned
    closed, nodes = window.spline.closed, len(corner)
    whole = closed and count == segments
    size = 0
    for i in range(count + 1):
        k = around(s0 + i, nodes)
        if whole and i == count:
            at[i] = at[0]
            break
        inner = whole or 0 < i < count or (not closed and k in (0, nodes - 1))
        at[i] = -1
        if inner and not pinned[k]:
            at[i] = size
            size += 2
        if i == count:
            break
        segment = around(s0 + i, segments)
        reach[i] = -1
        direction[i, 0] = direction[i, 1] = -1
        if line[segment]:
            continue
        # At its start: the direction of the segment before, where they join smoothly.
        if inner or pinned[k]:
            if corner[k]:
                direction[i, 0] = size
                size += 1
            elif i > 0 or whole:
                before = around(i - 1, count)
                if line[around(s0 + before, segments)]:
                    direction[i, 0] = -2 - before
                elif i > 0:
                    direction[i, 0] = direction[before, 1]
        reach[i] = size
        size += 2
        j = around(s0 + i + 1, nodes)
        if whole or i + 1 < count or (not closed and j in (0, nodes - 1)) or pinned[j]:
            if corner[j]:
                direction[i, 1] = size
                size += 1
            elif i + 1 < count or whole:
                after = around(i + 1, count)
                if line[around(s0 + after, segments)]:
                    direction[i, 1] = -2 - after
                else:
                    direction[i, 1] = size
                    size += 1
    if (
        whole
        and not line[s0]
        and not corner[around(s0, nodes)]
        and not line[around(s0 + count - 1, segments)]
    ):
        direction[0, 0] = direction[count - 1, 1]
    return size


@uncounted
def name_targets(i: int, window: Window, unknowns: Unknowns) -> None:
    """Write which unknowns the eight parameters of segment s0 + i move with, and how much.

    The parameters: x and y of its start, handle and angle there, handle and angle at its end, x and y there.
    target, share: (8, 4); many: (8). An angle that a line gives moves with the line's four coordinates.
    """
    s0, node = window.s0, window.spline.node
    at, direction, reach = unknowns.at, unknowns.direction, unknowns.reach
    target, share, many = unknowns.target[i], unknowns.share[i], unknowns.many[i]
    for r in range(8):
        many[r] = 0
    for r, index in ((0, at[i]), (1, at[i] + 1), (6, at[i + 1]), (7, at[i + 1] + 1)):
        if at[i if r < 2 else i + 1] >= 0:
            target[r, 0], share[r, 0], many[r] = index, 1.0, 1
    if reach[i] < 0:
        return
    for end in range(2):
        target[2 + 2 * end, 0], share[2 + 2 * end, 0], many[2 + 2 * end] = reach[i] + end, 1.0, 1
        r = 3 + 2 * end
        index = direction[i, end]
        if index >= 0:
            target[r, 0], share[r, 0], many[r] = index, 1.0, 1
        elif index < -1:
            along = -2 - index
            first, last = around(s0 + along, len(node)), around(s0 + along + 1, len(node))
            dx, dy = node[last, 0] - node[first, 0], node[last, 1] - node[first, 1]
            square = max(dx * dx + dy * dy, 1e-6)
            for place, sign in ((at[along + 1], 1.0), (at[along], -1.0)):
                if place >= 0:
                    target[r, many[r]], share[r, many[r]] = place, -sign * dy / square
                    target[r, many[r] + 1], share[r, many[r] + 1] = place + 1, sign * dx / square
                    many[r] += 2


@uncounted
def widen_band(target: AnyArray, many: AnyArray, low: AnyArray) -> None:
    """Note that the unknowns of one segment all feel each other."""
    least = len(low)
    for r in range(8):
        for k in range(many[r]):
            least = min(least, target[r, k])
    for r in range(8):
        for k in range(many[r]):
            low[target[r, k]] = min(low[target[r, k]], least)


@uncounted(fastmath=FAST_SUMS)
def add_segment(i: int, window: Window, unknowns: Unknowns, system: System) -> None:
    """Add the normal equations of one segment's control points to those of the window.

    Its own are in system.own (8, 8, lower half) and own_b, for x0, y0 .. y3.
    """
    k = around(window.s0 + i, window.segments)
    line, angle, handle = window.spline.line[k], window.spline.angle[k], window.spline.handle[k]
    target, share, many = unknowns.target[i], unknowns.share[i], unknowns.many[i]
    own, own_b, half, a, b = system.own, system.own_b, system.half, system.a, system.b
    for r in range(8):
        for c in range(r):
            own[c, r] = own[r, c]
    c0, d0 = math.cos(angle[0]), math.sin(angle[0])
    c1, d1 = math.cos(angle[1]), math.sin(angle[1])
    h0, h1 = handle[0], handle[1]
    inner = 0.0 if line else 1.0
    # From control points to parameters: once for the columns, once for the rows.
    for r in range(8):
        half[r, 0] = own[r, 0] + inner * own[r, 2]
        half[r, 1] = own[r, 1] + inner * own[r, 3]
        half[r, 2] = c0 * own[r, 2] + d0 * own[r, 3]
        half[r, 3] = h0 * (c0 * own[r, 3] - d0 * own[r, 2])
        half[r, 4] = -c1 * own[r, 4] - d1 * own[r, 5]
        half[r, 5] = h1 * (d1 * own[r, 4] - c1 * own[r, 5])
        half[r, 6] = own[r, 6] + inner * own[r, 4]
        half[r, 7] = own[r, 7] + inner * own[r, 5]
    for c in range(8):
        own[0, c] = half[0, c] + inner * half[2, c]
        own[1, c] = half[1, c] + inner * half[3, c]
        own[2, c] = c0 * half[2, c] + d0 * half[3, c]
        own[3, c] = h0 * (c0 * half[3, c] - d0 * half[2, c])
        own[4, c] = -c1 * half[4, c] - d1 * half[5, c]
        own[5, c] = h1 * (d1 * half[4, c] - c1 * half[5, c])
        own[6, c] = half[6, c] + inner * half[4, c]
        own[7, c] = half[7, c] + inner * half[5, c]
    g0, g1, g2, g3, g4, g5 = own_b[0], own_b[1], own_b[2], own_b[3], own_b[4], own_b[5]
    own_b[0], own_b[1] = g0 + inner * g2, g1 + inner * g3
    own_b[2], own_b[3] = c0 * g2 + d0 * g3, h0 * (c0 * g3 - d0 * g2)
    own_b[4], own_b[5] = -c1 * g4 - d1 * g5, h1 * (d1 * g4 - c1 * g5)
    own_b[6], own_b[7] = own_b[6] + inner * g4, own_b[7] + inner * g5
    for r in range(8):
        for m in range(many[r]):
            row = target[r, m]
            b[row] += share[r, m] * own_b[r]
            for c in range(8):
                for k in range(many[c]):
                    if target[c, k] <= row:
                        a[row, target[c, k]] += share[r, m] * share[c, k] * own[r, c]


@uncounted
def stiffness(window: Window, at: AnyArray, system: System) -> None:
    """Write what each unknown is damped by: its own stiffness, but that of both coordinates for a blunt corner.

    A blunt corner may slide along one of its sides while the other bends after it: the points there have too
    little say to hold it. A slender tip must get to where its sides meet, a smooth node to where a line ends.
    """
    a, stiff, s0, segments = system.a, system.stiff, window.s0, window.segments
    corner, angle, closed = window.spline.corner, window.spline.angle, window.spline.closed
    for r in range(len(stiff)):
        stiff[r] = a[r, r]
    nodes = len(corner)
    for i in range(len(at)):
        index, k = at[i], around(s0 + i, nodes)
        if index < 0 or not corner[k] or (not closed and k in (0, nodes - 1)):
            continue
        turn = angle[around(k, segments), 0] - angle[around(k - 1, segments), 1]
        if math.cos(turn) > _BLUNT_COS:
            stiff[index] = stiff[index + 1] = _BLUNT_HOLD * (a[index, index] + a[index + 1, index + 1])
