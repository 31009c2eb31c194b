"""A symmetric outline drawn by one half of its curves and their image, in compiled functions."""

import math
from typing import NamedTuple

import numpy as np

from zeichen.core.compiled import NO, NONE, YES, counted, uncounted
from zeichen.core.fitting.spline_geometry import draw_line
from zeichen.core.geometry.cells import Pieces, cell_size, into_cells
from zeichen.core.geometry.loops import around
from zeichen.core.geometry.meeting import pieces_along
from zeichen.core.geometry.nearest import way_to_nearest
from zeichen.core.geometry.norm import norm
from zeichen.core.tracing.symmetry.registration import furthest_off, laid_onto
from zeichen.core.values import BoolArray, FloatArray

# Curves are looked at in so many steps, or as pieces this near to them, px.
_STEPS = 24
# Of which of two halves is nearer, so many places on each curve tell.
_LOOKS = 8
_FLATTEN_PX = 0.01
# A node this near to the axis lies on it.
_ON_AXIS_PX = 0.6
# A handle this near to square across the axis belongs to a smooth node.
_SMOOTH_COS = math.cos(math.radians(12.0))
# A handle rises along the axis by this share of its length at least, to tell from where a curve crosses it.
_SLANTED = 0.2


class Measured(NamedTuple):
    """The measured outline of a run; see Outline."""

    ring: FloatArray
    centre: FloatArray
    pieces: Pieces


class Likeness(NamedTuple):
    """How much alike an outline and its image are, px.

    within: how far the outline may be from its image for a look at it. alike: how far nine in ten places on it may be:
    near corners the rest differs by chance. near: how far the new run may be from the old one.
    """

    within: float
    alike: float
    near: float


class Axis(NamedTuple):
    """A place on an axis, and the direction square to it, unit: (2,) px."""

    middle: FloatArray
    across: FloatArray


def symmetric(segments: FloatArray, lines: BoolArray, measured: Measured, asked: Likeness) -> FloatArray:
    """Return a closed run of curves made of half of another and its image; empty if its outline is not symmetric.

    Parameters
    ----------
    segments : (n, 4, 2) float array, px
    lines : (n,) bool array
        Which of them are straight.
    measured : Measured
    asked : Likeness
    """
    ring, centre, pieces = measured
    within, alike, near = asked
    # Mirrored at a line through the middle in direction f, z becomes e^(2if) times its conjugate.
    found, turn, x, y, off = laid_onto(ring, YES, ring, pieces, centre, within)
    if not found:
        return np.empty((0, 4, 2))
    if off > alike:
        each = np.sort(
            _off_pieces(np.ascontiguousarray(ring[::-1] * (1.0, -1.0)), turn, x, y, centre, pieces)
        )
        if each[(9 * len(each)) // 10] > alike:
            return np.empty((0, 4, 2))
    half = 0.5 * math.atan2(turn.imag, turn.real)
    across = np.array([-math.sin(half), math.cos(half)])
    # How far the image lies from the loop tells where the axis truly runs.
    middle = centre + across * (0.5 * (x * across[0] + y * across[1]))
    out: FloatArray = mirrored_from_half(segments, lines, pieces, Axis(middle, across), near)
    return out


@counted(cache=True)
def _off_pieces(
    ring: FloatArray, turn: complex, x: float, y: float, centre: FloatArray, pieces: Pieces
) -> FloatArray:
    """Return how far each of a ring's n samples, turned and moved, is from the nearest piece, (n,)."""
    off = np.empty(len(ring))
    for k in range(len(ring)):
        spun = turn * complex(ring[k, 0], ring[k, 1])
        way_x, way_y, _ = way_to_nearest(spun.real + centre[0] + x, spun.imag + centre[1] + y, pieces)
        off[k] = norm(way_x, way_y)
    return off


@counted(cache=True)
def mirrored_from_half(
    segments: FloatArray,
    lines: BoolArray,
    pieces: Pieces,
    axis: Axis,
    within: float,
) -> FloatArray:
    """Return a closed run of curves made of one half of another and its image.

    The half with fewer nodes, or else the one nearer to what was measured.

    Parameters
    ----------
    segments : (n, 4, 2) float array, px
    lines : (n,) bool array
        Which of them are straight.
    pieces : Pieces
        Of the measured outline.
    axis : Axis
    within : float
        How far the new run may be from the old one, px.

    Returns
    -------
    (m, 4, 2) float array
        Empty if the run does not cross its axis twice, or its halves differ by more.
    """
    cuts = _crossings(segments, axis)
    count, fewest, least = len(segments), 0, np.inf
    begin = stop = NONE
    on_axis = NO, NO
    for half in range(2 if len(cuts) == 2 else 0):
        first, last = (cuts[0], cuts[1]) if half == 0 else (cuts[1], cuts[0] + count)
        low, high = math.ceil(first), math.floor(last)
        start, end = _node_at(segments, first, axis), _node_at(segments, last, axis)
        # Segments that cross the axis are whole; a node beside it lies on it.
        low -= int(start == low - 1)
        high += int(end == high + 1)
        nodes = 2 * (high - low) + int(start < 0) + int(end < 0)
        if high <= low or (fewest and nodes > fewest):
            continue
        # Blur rounds both halves alike.
        off = _off(segments, low, high, pieces)
        if fewest == 0 or nodes < fewest or off < least:
            fewest, least, begin, stop = nodes, off, low, high
            on_axis = start >= 0, end >= 0
    out = np.empty((fewest, 4, 2))
    if fewest:
        _fill(out, segments, lines, (begin, stop), on_axis, cuts, axis)
        if not _near(out, segments, within):
            return out[:0]
    return out


@uncounted
def _off(segments: FloatArray, begin: int, stop: int, pieces: Pieces) -> float:
    """Return how far, squared and on average, some of a closed run's curves lie from the nearest pieces."""
    total = 0.0
    for k in range(begin, stop):
        curve = segments[around(k, len(segments))]
        for step in range(_LOOKS):
            t = (step + 0.5) / _LOOKS
            u = 1.0 - t
            b0, b1, b2, b3 = u * u * u, 3.0 * u * u * t, 3.0 * u * t * t, t * t * t
            x, y, _ = way_to_nearest(
                b0 * curve[0, 0] + b1 * curve[1, 0] + b2 * curve[2, 0] + b3 * curve[3, 0],
                b0 * curve[0, 1] + b1 * curve[1, 1] + b2 * curve[2, 1] + b3 * curve[3, 1],
                pieces,
            )
            total += x * x + y * y
    return total / ((stop - begin) * _LOOKS)


@counted
def _crossings(segments: FloatArray, axis: Axis) -> FloatArray:
    """Return where a closed run of curves crosses an axis, three at most.

    Each as a segment's number plus the parameter on it.
    """
    out = np.empty(3)
    found = 0
    side = np.empty(4)
    before, last = 0.0, 0.0
    for k in range(len(segments)):
        for i in range(4):
            side[i] = _side(segments[k, i], axis)
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


@uncounted
def _side(point: FloatArray, axis: Axis) -> float:
    """Return how far a point is from the axis, by which side of it."""
    return float((point[0] - axis.middle[0]) * axis.across[0] + (point[1] - axis.middle[1]) * axis.across[1])


@uncounted
def _node_at(segments: FloatArray, place: float, axis: Axis) -> int:
    """Return the number of the node that lies on the axis beside a place on the run, or -1."""
    for node in (math.floor(place), math.ceil(place)):
        if abs(_side(segments[around(node, len(segments)), 0], axis)) < _ON_AXIS_PX:
            return int(node)
    return -1


@uncounted
def _fill(
    out: FloatArray,
    segments: FloatArray,
    lines: BoolArray,
    half_run: tuple[int, int],
    on_axis: tuple[bool, bool],
    cuts: FloatArray,
    axis: Axis,
) -> None:
    """Write some segments and their image, joined by symmetric curves where either end is not on the axis."""
    begin, stop = half_run
    count, half = len(segments), stop - begin
    for k in range(half):
        for i in range(4):
            for xy in range(2):
                out[k, i, xy] = segments[around(begin + k, count), i, xy]
    for end in range(2):
        if on_axis[end]:
            k, node = (stop - 1, 3) if end else (begin, 0)
            _square_up(out[half - 1 if end else 0], lines[around(k, count)], node, axis)
        else:
            # After the half, or after its image: there run the curve's other way round.
            k, kept = (around(stop, count), 0) if end else (around(begin - 1, count), 3)
            cut = cuts[0] if math.floor(cuts[0]) == k else cuts[1]
            into = out[half if end else len(out) - 1]
            _across_axis(segments[k], lines[k], kept, cut - k, axis, into)
    image = half + int(not on_axis[1])
    for k in range(half):
        for i in range(4):
            _image(out[half - 1 - k, 3 - i], axis, out[image + k, i])
    # Mirrored twice, a place is itself but for the last digit.
    for k in range(len(out)):
        for xy in range(2):
            out[k, 0, xy] = out[k - 1, 3, xy]


@uncounted
def _image(point: FloatArray, axis: Axis, out: FloatArray) -> None:
    twice = 2.0 * _side(point, axis)
    out[0], out[1] = point[0] - twice * axis.across[0], point[1] - twice * axis.across[1]


@uncounted
def _square_up(curve: FloatArray, straight: bool, node: int, axis: Axis) -> None:
    """Put an end of a half (0 or 3) exactly on the axis, and its handle straight across it where it is smooth."""
    across = axis.across
    off = _side(curve[node], axis)
    handle = 1 if node == 0 else 2
    curve[node, 0] -= across[0] * off
    curve[node, 1] -= across[1] * off
    if straight:
        draw_line(curve, curve[0], curve[3])
        return
    x, y = curve[handle, 0] - curve[node, 0], curve[handle, 1] - curve[node, 1]
    size, along = norm(x, y), x * across[0] + y * across[1]
    if size > 1e-9 and abs(along) > _SMOOTH_COS * size:
        size = math.copysign(size, along)
        curve[handle, 0], curve[handle, 1] = (
            curve[node, 0] + across[0] * size,
            curve[node, 1] + across[1] * size,
        )


@uncounted
def _across_axis(
    segment: FloatArray,
    straight: bool,
    kept: int,
    cut: float,
    axis: Axis,
    out: FloatArray,
) -> None:
    """Write the symmetric curve across the axis between a segment's kept end and its image.

    It begins at the kept end if that is the segment's start (0), and ends there if it is its end (3). cut: the
    segment's parameter on the axis. Its two handles differ by chance: the new ones are as long as lets the curve
    cross the axis at the same place.
    """
    across = axis.across
    handle = 1 if kept == 0 else 2
    hx, hy = segment[handle, 0] - segment[kept, 0], segment[handle, 1] - segment[kept, 1]
    size = norm(hx, hy)
    other = norm(segment[3 - handle, 0] - segment[3 - kept, 0], segment[3 - handle, 1] - segment[3 - kept, 1])
    usual = 0.5 * (size + other)
    along = hy * across[0] - hx * across[1]
    share = 1.0
    if abs(along) > _SLANTED * size:
        u = 1.0 - cut
        b0, b1, b2, b3 = u * u * u, 3.0 * u * u * cut, 3.0 * u * cut * cut, cut * cut * cut
        x = b0 * segment[0, 0] + b1 * segment[1, 0] + b2 * segment[2, 0] + b3 * segment[3, 0]
        y = b0 * segment[0, 1] + b1 * segment[1, 1] + b2 * segment[2, 1] + b3 * segment[3, 1]
        rise = (y - segment[kept, 1]) * across[0] - (x - segment[kept, 0]) * across[1]
        # Half-way between two handles, a curve has come three quarters of their rise.
        share = min(max(rise / (0.75 * along), 0.5 * usual / size), 2.0 * usual / size)
    for xy in range(2):
        out[kept, xy] = segment[kept, xy]
        out[handle, xy] = segment[kept, xy] + share * (segment[handle, xy] - segment[kept, xy])
    _image(out[kept], axis, out[3 - kept])
    _image(out[handle], axis, out[3 - handle])
    if straight:
        draw_line(out, out[0], out[3])


@counted
def _near(one: FloatArray, other: FloatArray, within: float) -> bool:
    """Return whether two closed runs of curves are no further from each other than a distance, both ways."""
    for way in range(2):
        start, end = _pieces_of(one if way == 0 else other)
        onto_start, onto_end = _pieces_of(other if way == 0 else one)
        corner, cell = cell_size(onto_start, onto_end)
        columns, rows, firsts, held = into_cells(onto_start, onto_end, corner, cell)
        pieces = Pieces(onto_start, onto_end, corner, cell, columns, rows, firsts, held)
        places = np.empty((2 * len(start), 2))
        for k in range(len(start)):
            for axis in range(2):
                places[2 * k, axis] = start[k, axis]
                places[2 * k + 1, axis] = 0.5 * (start[k, axis] + end[k, axis])
        if furthest_off(places, pieces) > within:
            return False
    return True


@counted
def _pieces_of(run: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return the starts and ends of the pieces of a closed run's polyline."""
    start, end, _, _ = pieces_along(run, np.array([0, len(run)]), np.ones(1, np.bool_), _FLATTEN_PX)
    return start, end
