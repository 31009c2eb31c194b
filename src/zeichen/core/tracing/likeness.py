"""Equal parts drawn equally: the same ornament twice, shifted or mirrored, gets the same nodes.

Two outlines of one picture are never measured alike to the last hundredth, so fits of equal parts differ.
Where one outline, moved onto another, lies on it within the tolerance, its curve is moved along; where an
outline is its own mirror image, half of its curve is kept and mirrored.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numba import njit

from zeichen.core.geometry import bezier
from zeichen.core.geometry.cells import Pieces, sorted_pieces
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.meeting import flat_pieces
from zeichen.core.tracing.outline_match import Outline, furthest_off, laid_onto, mirrored, outline_of
from zeichen.core.values import FloatArray

# Equal outlines have sizes this near.
_SIZE_SHARE = 0.012
# No sample of a moved outline may be further off than this share of the tolerance, nor must it be nearer than this.
_SHARE = 0.75
_SAME_PX = 0.12
# A half and its image may lie off the whole they replace by this many tolerances: either fit may be off by nearly
# one, to opposite sides.
_APART = 1.5
_LEAST_SEGMENTS = 3
# Outlines shorter than this are not worth it, px.
_SHORTEST_PX = 24.0
_LEAST_POINTS = 12
_MOST_MODELS = 20
# Curves are looked at in so many steps, or as pieces this near to them, px.
_STEPS = 24
_FLATTEN_PX = 0.01
_STRAIGHT_PX = 1e-4
# A node this near to the axis lies on it.
_ON_AXIS_PX = 0.6
# A handle this near to square across the axis belongs to a smooth node.
_SMOOTH_DEG = 12.0


def draw_alike(paths: list[Path], loops: list[FloatArray], *, tolerance_px: float) -> list[Path]:
    """Return the paths with equal outlines drawn by the same curves, and symmetric ones symmetric.

    Parameters
    ----------
    paths : list of Path
        Closed, one for each loop.
    loops : list of (n, 2) float arrays, px
        The measured outlines.
    tolerance_px : float
        How far a curve may be from its outline.
    """
    out = list(paths)
    within = max(_SHARE * tolerance_px, _SAME_PX)
    near = max(_APART * tolerance_px, within)
    outlines = {k: outline_of(loop) for k, loop in enumerate(loops) if len(loop) >= _LEAST_POINTS}
    order = sorted(
        (k for k, outline in outlines.items() if outline.length >= _SHORTEST_PX),
        key=lambda k: (outlines[k].length, k),
    )
    for k in order:
        out[k] = _symmetric(out[k], outlines[k], within, near)
    placed: list[int] = []
    for k in order:
        moved = None
        for model in reversed(placed[-_MOST_MODELS:]):
            if outlines[model].length < (1 - _SIZE_SHARE) * outlines[k].length:
                break
            moved = _moved(out[model], outlines[model], outlines[k], within)
            if moved is not None:
                out[k] = moved
                break
        if moved is None:
            placed.append(k)
    return out


def _moved(path: Path, own: Outline, onto: Outline, within: float) -> Path | None:
    """Return a path moved with its outline onto another: shifted, turned, mirrored; None if they are not alike."""
    for backwards in (False, True):
        ring = mirrored(own.ring) if backwards else own.ring
        found, turn, x, y, off = laid_onto(ring, onto.ring, onto.pieces, onto.centre, within)
        if not found or off > within:
            continue
        points = (path.segments - own.centre) @ np.array([1.0, 1j])
        moved = turn * (np.conj(points) if backwards else points)
        curves = np.stack([moved.real, moved.imag], axis=-1) + (onto.centre + np.array([x, y]))
        return Path(bezier.reverse(curves) if backwards else curves)
    return None


def _symmetric(path: Path, outline: Outline, within: float, near: float) -> Path:
    """Return the path mirrored from its better half if its outline is its own mirror image within a tolerance."""
    if len(path.segments) < _LEAST_SEGMENTS:
        return path
    # Mirrored at a line through the middle in direction f, z becomes e^(2if) times its conjugate.
    found, turn, x, y, _ = laid_onto(
        mirrored(outline.ring), outline.ring, outline.pieces, outline.centre, within
    )
    if not found:
        return path
    way = np.sqrt(turn)
    across = np.array([-way.imag, way.real])
    mirror = np.eye(2) - 2.0 * np.outer(across, across)
    # How far the image lies from the loop tells where the axis truly runs.
    middle = outline.centre + across * float(x * across[0] + y * across[1]) / 2.0
    half = _mirrored_half(path, middle, across, mirror)
    return half if half is not None and _follows(half, path, near) else path


def _mirrored_half(path: Path, middle: FloatArray, across: FloatArray, mirror: FloatArray) -> Path | None:
    """Return the closed path of one half and its image, the half with fewer nodes; None if it crosses oftener."""
    cuts = _crossings(path.segments, middle, across).tolist()
    if len(cuts) != 2:
        return None
    halves = [
        _span(path.segments, first, last, middle, across)
        for first, last in ((cuts[0], cuts[1]), (cuts[1], cuts[0] + len(path.segments)))
    ]
    best = min((half for half in halves if half.numbers), key=_Half.nodes, default=None)
    return None if best is None else Path(_whole(path.segments, best, middle, across, mirror))


@dataclass(frozen=True, slots=True)
class _Half:
    """The segments of a closed run from the axis to the axis.

    numbers: of the segments, and of those before and after, which cross the axis
    unless there is a node on it at the start or at the end.
    """

    numbers: list[int]
    before: int
    after: int
    starts_on_axis: bool
    ends_on_axis: bool

    def nodes(self) -> int:
        """Return how many nodes it makes with its image."""
        return 2 * len(self.numbers) + (not self.starts_on_axis) + (not self.ends_on_axis)


def _span(segments: FloatArray, first: float, last: float, middle: FloatArray, across: FloatArray) -> _Half:
    low, high = math.ceil(first), math.floor(last)
    numbers = list(range(low, high))
    start, end = (_at_node(segments, place, middle, across) for place in (first, last))
    if start is not None and start != low:
        numbers.insert(0, start)
    if end is not None and end != high:
        numbers.append(high)
    count = len(segments)
    return _Half(
        [k % count for k in numbers], (low - 1) % count, high % count, start is not None, end is not None
    )


def _whole(
    segments: FloatArray, half: _Half, middle: FloatArray, across: FloatArray, mirror: FloatArray
) -> FloatArray:
    """Return one half of a closed run, from the axis to the axis, and its image; segments across the axis are whole."""

    def image(points: FloatArray) -> FloatArray:
        return np.asarray((points - middle) @ mirror.T + middle)

    rows = segments[half.numbers]
    if half.starts_on_axis:
        _square_up(rows, 0, 0, middle, across)
    if half.ends_on_axis:
        _square_up(rows, len(rows) - 1, 1, middle, across)
    out = [rows]
    if not half.ends_on_axis:
        out.append(_across_axis(segments[half.after], 0, image))
    out.append(np.ascontiguousarray(image(rows.reshape(-1, 2)).reshape(rows.shape)[::-1, ::-1]))
    if not half.starts_on_axis:
        out.append(_across_axis(segments[half.before], 3, image)[::-1, ::-1])
    whole = np.ascontiguousarray(np.concatenate(out))
    # Mirrored twice, a place is itself but for the last digit.
    whole[:, 0] = np.roll(whole[:, 3], 1, axis=0)
    return whole


def _at_node(segments: FloatArray, place: float, middle: FloatArray, across: FloatArray) -> int | None:
    """Return the number of the node that lies on the axis near a place, or None."""
    for node in (math.floor(place), math.ceil(place)):
        if abs(float((segments[node % len(segments), 0] - middle) @ across)) < _ON_AXIS_PX:
            return node
    return None


def _square_up(rows: FloatArray, k: int, end: int, middle: FloatArray, across: FloatArray) -> None:
    """Put an end of a half exactly on the axis, and its handle straight across it where the outline is smooth."""
    node, handle = (0, 1) if end == 0 else (3, 2)
    straight = _is_line(rows[k])
    rows[k, node] -= across * float((rows[k, node] - middle) @ across)
    if straight:
        rows[k] = bezier.line_segments(rows[k][[0, 3]])[0]
        return
    arm = rows[k, handle] - rows[k, node]
    size = float(np.linalg.norm(arm))
    if size > 1e-9 and abs(float(arm @ across)) > math.cos(math.radians(_SMOOTH_DEG)) * size:
        rows[k, handle] = rows[k, node] + across * math.copysign(size, float(arm @ across))


def _across_axis(segment: FloatArray, kept: int, image: Callable[[FloatArray], FloatArray]) -> FloatArray:
    """Return the symmetric curve across the axis from a segment's kept end (0 or 3) to its image."""
    node, handle = segment[kept], segment[1 if kept == 0 else 2]
    if _is_line(segment):
        return bezier.line_segments(np.array([node, image(node[None])[0]]))
    return np.array([[node, handle, image(handle[None])[0], image(node[None])[0]]])


def _is_line(segment: FloatArray) -> bool:
    """Return whether one segment draws its own chord; see bezier.is_straight, which is for many."""
    (x0, y0), (x1, y1), (x2, y2), (x3, y3) = segment.tolist()
    length = math.hypot(x3 - x0, y3 - y0)
    if length == 0:
        return False
    ux, uy = (x3 - x0) / length, (y3 - y0) / length
    return all(
        abs((x - x0) * uy - (y - y0) * ux) < _STRAIGHT_PX
        and -_STRAIGHT_PX < (x - x0) * ux + (y - y0) * uy < length + _STRAIGHT_PX
        for x, y in ((x1, y1), (x2, y2))
    )


def _follows(path: Path, old: Path, within: float) -> bool:
    """Return whether a path stays near another, both ways."""
    one, other = (
        sorted_pieces(*flat_pieces(p.segments, np.array([0, len(p.segments)]), _FLATTEN_PX))
        for p in (path, old)
    )
    return bool(_furthest_piece(one, other) <= within and _furthest_piece(other, one) <= within)


@njit(cache=True, error_model="numpy")
def _furthest_piece(pieces: Pieces, others: Pieces) -> float:
    """Return how far the start or the middle of any piece is from the nearest of the others."""
    middles = 0.5 * (pieces.start + pieces.end)
    furthest: float = max(furthest_off(pieces.start, others), furthest_off(middles, others))
    return furthest


@njit(cache=True, error_model="numpy")
def _crossings(segments: FloatArray, middle: FloatArray, across: FloatArray) -> FloatArray:
    """Return where a closed run of curves crosses the line through a place square to a direction, three at most."""
    out = np.empty(3)
    found = 0
    side = np.empty(4)
    before, last = 0.0, 0.0
    for k in range(len(segments)):
        for i in range(4):
            side[i] = (segments[k, i, 0] - middle[0]) * across[0] + (segments[k, i, 1] - middle[1]) * across[
                1
            ]
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
