"""One step of the refinement: nodes, directions and handles moved by it, kept sane, or brought back."""

import math

from zeichen.core.compiled import uncounted
from zeichen.core.fitting.spline_arrays import SplineArrays, Window
from zeichen.core.geometry.loops import around
from zeichen.core.geometry.norm import norm
from zeichen.core.values import AnyArray, FloatArray

# A handle shorter than this share of its chord hardly bends the curve.
_UNFELT = 0.07
# How far one step may move a smooth node, and a corner: a slender tip may lie far from where it begins.
_MOST_STEP_PX = 1.5
_MOST_CORNER_STEP_PX = 5.0


@uncounted
def tie_lines(spline: SplineArrays, s0: int, count: int) -> None:
    """Give curves that join a line smoothly the line's direction."""
    _, _, _, node, _, line, corner, _, angle, _, closed = spline
    nodes = len(node)
    segments = nodes if closed else nodes - 1
    for i in range(count):
        k = around(s0 + i, segments)
        if not line[k]:
            continue
        j = around(k + 1, nodes)
        angle[k, 0] = angle[k, 1] = math.atan2(node[j, 1] - node[k, 1], node[j, 0] - node[k, 0])
        if not corner[k] and (closed or k > 0):
            angle[around(k - 1, segments), 1] = angle[k, 0]
        if not corner[j] and (closed or k < segments - 1):
            angle[around(k + 1, segments), 0] = angle[k, 0]


@uncounted
def keep(kept: FloatArray, window: Window) -> None:
    """Write nodes, directions and handles of a window into kept (count + 1, 6)."""
    node, angle, handle = window.spline.node, window.spline.angle, window.spline.handle
    s0, count, segments = window.s0, window.wide, window.segments
    for i in range(count + 1):
        kept[i, 0], kept[i, 1] = node[around(s0 + i, len(node)), 0], node[around(s0 + i, len(node)), 1]
        if i < count:
            k = around(s0 + i, segments)
            kept[i, 2], kept[i, 3] = angle[k, 0], angle[k, 1]
            kept[i, 4], kept[i, 5] = handle[k, 0], handle[k, 1]


@uncounted
def bring_back(kept: FloatArray, window: Window) -> None:
    """Put back what was kept of a window."""
    node, angle, handle = window.spline.node, window.spline.angle, window.spline.handle
    s0, count, segments = window.s0, window.wide, window.segments
    for i in range(count + 1):
        node[around(s0 + i, len(node)), 0], node[around(s0 + i, len(node)), 1] = kept[i, 0], kept[i, 1]
        if i < count:
            k = around(s0 + i, segments)
            angle[k, 0], angle[k, 1] = kept[i, 2], kept[i, 3]
            handle[k, 0], handle[k, 1] = kept[i, 4], kept[i, 5]


@uncounted
def apply_step(step: FloatArray, window: Window, at: AnyArray, direction: AnyArray, reach: AnyArray) -> None:
    """Move a window by a step of its unknowns, within what a segment can bear."""
    spline, s0, count, segments, aligned, _ = window
    _, _, _, node, _, line, corner, _, angle, handle, closed = spline
    nodes = len(node)
    whole = closed and count == segments
    for i in range(count if whole else count + 1):
        if at[i] >= 0:
            k = around(s0 + i, nodes)
            dx, dy = step[at[i]], step[at[i] + 1]
            size = norm(dx, dy)
            most = _MOST_CORNER_STEP_PX if corner[k] else _MOST_STEP_PX
            shorten = 1.0 if size < most else most / size
            node[k, 0] += dx * shorten
            node[k, 1] += dy * shorten
    for i in range(count):
        k = around(s0 + i, segments)
        if line[k]:
            continue
        j = around(k + 1, nodes)
        chord = norm(node[j, 0] - node[k, 0], node[j, 1] - node[k, 1])
        for end in range(2):
            grown = handle[k, end] + step[reach[i] + end]
            handle[k, end] = min(max(grown, 0.04 * chord + 1e-3), 1.6 * chord + 1.0)
            index = direction[i, end]
            if index >= 0:
                angle[k, end] += max(-0.5, min(0.5, step[index]))
    tie_lines(spline, s0, count)
    for i in range(count):
        k = around(s0 + i, segments)
        if not line[k]:
            _shorten_handles(k, node, angle, handle)
            for end in range(2):
                if aligned and corner[around(k + end, nodes)]:
                    _turn_short_handle(k, end, node, angle, handle)


@uncounted
def _shorten_handles(k: int, node: FloatArray, angle: FloatArray, handle: FloatArray) -> None:
    """Keep the handles of a segment from passing each other along its chord, where it would loop."""
    j = around(k + 1, len(node))
    dx, dy = node[j, 0] - node[k, 0], node[j, 1] - node[k, 1]
    chord = norm(dx, dy)
    if chord < 1e-9:
        return
    run = 0.0
    for end in range(2):
        along = (math.cos(angle[k, end]) * dx + math.sin(angle[k, end]) * dy) / chord
        run += handle[k, end] * max(along, 0.0)
    if run > 0.96 * chord:
        handle[k, 0] *= 0.96 * chord / run
        handle[k, 1] *= 0.96 * chord / run


@uncounted
def _turn_short_handle(k: int, end: int, node: FloatArray, angle: FloatArray, handle: FloatArray) -> None:
    """Point a handle that is too short to be felt to where the curve goes: the fit says nothing of it."""
    j = around(k + 1, len(node))
    dx, dy = node[j, 0] - node[k, 0], node[j, 1] - node[k, 1]
    if handle[k, end] > _UNFELT * norm(dx, dy):
        return
    # From the end to the other handle's tip.
    far = handle[k, 1 - end]
    x = dx - far * math.cos(angle[k, 1]) if end == 0 else dx - far * math.cos(angle[k, 0])
    y = dy - far * math.sin(angle[k, 1]) if end == 0 else dy - far * math.sin(angle[k, 0])
    if x * x + y * y > 1e-12:
        angle[k, end] = math.atan2(y, x)


@uncounted
def move_split(spline: SplineArrays, k: int) -> None:
    """Let the points on either side of a node belong to the segment they lie beside."""
    q, w, u, node, first, _, _, _, angle, _, closed = spline
    n = len(q)
    nodes = len(node)
    before = first[k - 1] if k > 0 else first[nodes - 1] - n
    after = first[k + 1] if k + 1 < nodes else first[0] + n
    segments = nodes if closed else nodes - 1
    left = around(k - 1, segments)
    cx = math.cos(angle[around(k, segments), 0]) + math.cos(angle[left, 1])
    cy = math.sin(angle[around(k, segments), 0]) + math.sin(angle[left, 1])
    split = first[k]
    while split > before + 1:
        j = around(split - 1, n)
        if w[j] < 0.5 or (q[j, 0] - node[k, 0]) * cx + (q[j, 1] - node[k, 1]) * cy <= 0:
            break
        u[j] = 0.0
        split -= 1
    if split == first[k]:
        while split < after - 1:
            j = around(split, n)
            if w[j] < 0.5 or (q[j, 0] - node[k, 0]) * cx + (q[j, 1] - node[k, 1]) * cy >= 0:
                break
            u[j] = 1.0
            split += 1
    first[k] = split
    if closed and k == 0 and split < 0:
        for i in range(nodes):
            first[i] += n
