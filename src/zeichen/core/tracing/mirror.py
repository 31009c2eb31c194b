"""A symmetric outline drawn by one half of its curves and their image, in compiled functions."""

import math

import numpy as np
from numba import njit

from zeichen.core.geometry.cells import Pieces, cell_size, into_cells
from zeichen.core.geometry.loops import around
from zeichen.core.geometry.meeting import pieces_along
from zeichen.core.geometry.norm import norm
from zeichen.core.tracing.outline_match import furthest_off
from zeichen.core.values import FloatArray

# Curves are looked at in so many steps, or as pieces this near to them, px.
_STEPS = 24
_FLATTEN_PX = 0.01
# A curve is a line if its handles are this near to its chord, px.
_STRAIGHT_PX = 1e-4
# A node this near to the axis lies on it.
_ON_AXIS_PX = 0.6
# A handle this near to square across the axis belongs to a smooth node.
_SMOOTH_COS = math.cos(math.radians(12.0))


@njit(cache=True, error_model="numpy")
def mirrored_from_half(
    segments: FloatArray, middle: FloatArray, across: FloatArray, within: float
) -> FloatArray:
    """Return a closed run of curves made of one half of another and its image, the half with fewer nodes.

    Parameters
    ----------
    segments : (n, 4, 2) float array, px
    middle, across : (2,) float arrays
        A place on the axis, and the direction square to it.
    within : float
        How far the new run may be from the old one, px.

    Returns
    -------
    (m, 4, 2) float array
        Empty if the run does not cross its axis twice, or its halves differ by more.
    """
    none = np.empty((0, 4, 2))
    cuts = _crossings(segments, middle, across)
    if len(cuts) != 2:
        return none
    count = len(segments)
    best, fewest = none, np.iinfo(np.int64).max
    for half in range(2):
        first, last = (cuts[0], cuts[1]) if half == 0 else (cuts[1], cuts[0] + count)
        low, high = math.ceil(first), math.floor(last)
        start, end = _node_at(segments, first, middle, across), _node_at(segments, last, middle, across)
        # Segments that cross the axis are whole; a node beside it lies on it.
        begin = low - 1 if start == low - 1 else low
        stop = high + 1 if end == high + 1 else high
        nodes = 2 * (stop - begin) + int(start < 0) + int(end < 0)
        if stop > begin and nodes < fewest:
            fewest = nodes
            best = _whole(segments, begin, stop, start >= 0, end >= 0, middle, across)
    if len(best) and max(_apart(best, segments), _apart(segments, best)) <= within:
        return best
    return none


@njit(cache=True, error_model="numpy")
def _crossings(segments: FloatArray, middle: FloatArray, across: FloatArray) -> FloatArray:
    """Return where a closed run of curves crosses the line through a place square to a direction, three at most.

    Each as a segment's number plus the parameter on it.
    """
    out = np.empty(3)
    found = 0
    side = np.empty(4)
    before, last = 0.0, 0.0
    for k in range(len(segments)):
        for i in range(4):
            side[i] = _side(segments[k, i], middle, across)
        for step in range(_STEPS + 1):
            t = step / _STEPS
            u = 1.0 - t
            here = u * u * u * side[0] + 3 * u * t * (u * side[1] + t * side[2]) + t * t * t * side[3]
            # On the line itself counts as beyond it.
            here = 1e-9 if abs(here) < 1e-9 else here
            at = k + t
            if (k or step) and before * here < 0 and found < 3:
                out[found] = last + (at - last) * before / (before - here)
                found += 1
            before, last = here, at
    return out[:found]


@njit(cache=True, error_model="numpy")
def _side(point: FloatArray, middle: FloatArray, across: FloatArray) -> float:
    """Return how far a point is from the axis, by which side of it."""
    return float((point[0] - middle[0]) * across[0] + (point[1] - middle[1]) * across[1])


@njit(cache=True, error_model="numpy")
def _node_at(segments: FloatArray, place: float, middle: FloatArray, across: FloatArray) -> int:
    """Return the number of the node that lies on the axis beside a place on the run, or -1."""
    for node in (math.floor(place), math.ceil(place)):
        if abs(_side(segments[around(node, len(segments)), 0], middle, across)) < _ON_AXIS_PX:
            return int(node)
    return -1


@njit(cache=True, error_model="numpy")
def _whole(
    segments: FloatArray,
    begin: int,
    stop: int,
    starts_on_axis: bool,
    ends_on_axis: bool,
    middle: FloatArray,
    across: FloatArray,
) -> FloatArray:
    """Return segments begin to stop and their image, joined by symmetric curves where they do not reach the axis."""
    count, half = len(segments), stop - begin
    out = np.empty((2 * half + int(not starts_on_axis) + int(not ends_on_axis), 4, 2))
    for k in range(half):
        out[k] = segments[around(begin + k, count)]
    if starts_on_axis:
        _square_up(out[0], 0, middle, across)
    if ends_on_axis:
        _square_up(out[half - 1], 3, middle, across)
    at = half
    if not ends_on_axis:
        _across_axis(segments[around(stop, count)], 0, middle, across, out[at])
        at += 1
    for k in range(half):
        for i in range(4):
            _image(out[half - 1 - k, 3 - i], middle, across, out[at + k, i])
    if not starts_on_axis:
        curve = np.empty((4, 2))
        _across_axis(segments[around(begin - 1, count)], 3, middle, across, curve)
        out[at + half] = curve[::-1]
    # Mirrored twice, a place is itself but for the last digit.
    for k in range(len(out)):
        out[k, 0] = out[k - 1, 3]
    return out


@njit(cache=True, error_model="numpy")
def _image(point: FloatArray, middle: FloatArray, across: FloatArray, out: FloatArray) -> None:
    twice = 2.0 * _side(point, middle, across)
    out[0], out[1] = point[0] - twice * across[0], point[1] - twice * across[1]


@njit(cache=True, error_model="numpy")
def _draw_line(curve: FloatArray) -> None:
    """Put a curve's handles on the thirds of its chord."""
    for axis in range(2):
        third = (curve[3, axis] - curve[0, axis]) / 3.0
        curve[1, axis], curve[2, axis] = curve[0, axis] + third, curve[3, axis] - third


@njit(cache=True, error_model="numpy")
def _is_line(curve: FloatArray) -> bool:
    """Return whether a curve draws its own chord; see bezier.is_straight."""
    dx, dy = curve[3, 0] - curve[0, 0], curve[3, 1] - curve[0, 1]
    length = norm(dx, dy)
    if length == 0.0:
        return False
    for i in range(1, 3):
        x, y = curve[i, 0] - curve[0, 0], curve[i, 1] - curve[0, 1]
        along = (x * dx + y * dy) / length
        if abs(x * dy - y * dx) >= _STRAIGHT_PX * length:
            return False
        if not -_STRAIGHT_PX < along < length + _STRAIGHT_PX:
            return False
    return True


@njit(cache=True, error_model="numpy")
def _square_up(curve: FloatArray, node: int, middle: FloatArray, across: FloatArray) -> None:
    """Put an end of a half (0 or 3) exactly on the axis, and its handle straight across it where it is smooth."""
    straight = _is_line(curve)
    off = _side(curve[node], middle, across)
    handle = 1 if node == 0 else 2
    curve[node, 0] -= across[0] * off
    curve[node, 1] -= across[1] * off
    if straight:
        _draw_line(curve)
        return
    x, y = curve[handle, 0] - curve[node, 0], curve[handle, 1] - curve[node, 1]
    size, along = norm(x, y), x * across[0] + y * across[1]
    if size > 1e-9 and abs(along) > _SMOOTH_COS * size:
        size = math.copysign(size, along)
        curve[handle, 0], curve[handle, 1] = (
            curve[node, 0] + across[0] * size,
            curve[node, 1] + across[1] * size,
        )


@njit(cache=True, error_model="numpy")
def _across_axis(
    segment: FloatArray, kept: int, middle: FloatArray, across: FloatArray, out: FloatArray
) -> None:
    """Write the symmetric curve across the axis from a segment's kept end (0 or 3) to its image."""
    out[0] = segment[kept]
    out[1] = segment[1 if kept == 0 else 2]
    _image(out[0], middle, across, out[3])
    _image(out[1], middle, across, out[2])
    if _is_line(segment):
        _draw_line(out)


@njit(cache=True, error_model="numpy")
def _apart(segments: FloatArray, others: FloatArray) -> float:
    """Return how far one closed run of curves is from another where it is furthest."""
    loop, ring = np.array([0, len(segments)]), np.ones(1, np.bool_)
    start, end, _, _ = pieces_along(segments, loop, ring, _FLATTEN_PX)
    loop[1] = len(others)
    other_start, other_end, _, _ = pieces_along(others, loop, ring, _FLATTEN_PX)
    low, cell = cell_size(other_start, other_end)
    columns, rows, first, held = into_cells(other_start, other_end, low, cell)
    pieces = Pieces(other_start, other_end, low, cell, columns, rows, first, held)
    furthest: float = max(furthest_off(start, pieces), furthest_off(0.5 * (start + end), pieces))
    return furthest
