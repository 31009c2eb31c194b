"""Equal parts drawn equally: the same ornament twice, shifted or mirrored, gets the same nodes.

Two outlines of one picture are never measured alike to the last hundredth, so fits of equal parts differ.
Where one outline, moved onto another, lies on it within the tolerance, its curve is moved along; where an
outline is its own mirror image, half of its curve is kept and mirrored.
"""

import math
from collections.abc import Callable

import numpy as np

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.nearest import nearest_on
from zeichen.core.tracing.untangle import polyline
from zeichen.core.values import AnyArray, FloatArray

_SAMPLES = 192
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
# A turn this near to a quarter is one.
_SNAP_RAD = 0.01
_MOST_MODELS = 20
# A move is looked for until it changes by no more than this, px.
_SHIFT_PX = 0.002
_SHIFT_ROUNDS = 8
_TURN_ROUNDS = 4
# An outline whose parts pull at its turn with a lever shorter than this is as good as round.
_LEAST_LEVER_PX = 1.0
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
    rings, lengths = zip(*(_even(loop) for loop in loops), strict=True)
    order = sorted(
        (k for k, loop in enumerate(loops) if len(loop) >= _LEAST_POINTS and lengths[k] >= _SHORTEST_PX),
        key=lambda k: (lengths[k], k),
    )
    for k in order:
        out[k] = _symmetric(out[k], rings[k], loops[k], within, near)
    placed: list[int] = []
    for k in order:
        moved = None
        for model in reversed(placed[-_MOST_MODELS:]):
            if lengths[model] < (1 - _SIZE_SHARE) * lengths[k]:
                break
            moved = _moved(out[model], rings[model], rings[k], loops[k], within)
            if moved is not None:
                out[k] = moved
                break
        if moved is None:
            placed.append(k)
    return out


def _even(loop: FloatArray) -> tuple[FloatArray, float]:
    """Return samples at even steps along a loop, and its length."""
    ring = np.concatenate([loop, loop[:1]])
    run = bezier.lengths_along(ring)
    at = np.linspace(0.0, run[-1], _SAMPLES, endpoint=False)
    return np.stack([np.interp(at, run, ring[:, 0]), np.interp(at, run, ring[:, 1])], axis=1), float(run[-1])


def _moved(path: Path, ring: FloatArray, onto: FloatArray, loop: FloatArray, within: float) -> Path | None:
    """Return a path moved with its ring onto another's: shifted, turned, mirrored; None if they are not alike.

    loop: all measured points of the other; the rings are samples, which cut its corners short.
    """
    centre, target = ring.mean(axis=0), onto.mean(axis=0)
    goal = _complex(onto - target)
    for mirrored in (False, True):
        signal = _complex(ring - centre)
        if mirrored:
            signal = np.conj(signal[::-1])
        shift, turn, left = _best_fit(goal, signal)
        if left > (3.0 * within) ** 2:
            continue
        turn = _snapped(turn)
        placed = turn * np.roll(signal, shift)
        # Samples of equal outlines slide along them by up to half a step: nearest places are compared.
        samples = np.column_stack([placed.real, placed.imag])
        if not _is_quarter(turn):
            more = _true_turn(samples, loop - target)
            turn *= more
            placed = more * placed
            samples = np.column_stack([placed.real, placed.imag])
        across, off = _true_shift(samples, loop - target)
        if np.linalg.norm(off, axis=1).max() > within:
            continue
        move = complex(across[0], across[1])
        points = _complex(path.segments - centre)
        points = turn * (np.conj(points) if mirrored else points) + move
        curves = np.stack([points.real, points.imag], axis=-1) + target
        return Path(bezier.reverse(curves) if mirrored else curves)
    return None


def _complex(points: FloatArray) -> AnyArray:
    return np.asarray(points[..., 0] + 1j * points[..., 1])


def _best_fit(goal: AnyArray, signal: AnyArray) -> tuple[int, complex, float]:
    """Return by how many samples and which turn a signal fits a goal best, and the mean square left over.

    The cross-correlation over all shifts comes from one Fourier transform; its phase is the turn.
    """
    product = np.fft.fft(goal) * np.conj(np.fft.fft(signal))
    score = np.fft.ifft(product)
    size = np.abs(score)
    shift = int(size.argmax())
    # Between samples, where the parabola through the three best has its top.
    before, here, after = size[shift - 1], size[shift], size[(shift + 1) % len(size)]
    bow = before - 2.0 * here + after
    part = float(np.clip(0.5 * (before - after) / bow, -0.5, 0.5)) if bow < 0 else 0.0
    waves = np.exp(2j * np.pi * np.fft.fftfreq(len(goal)) * (shift + part))
    best = complex((product * waves).sum() / len(goal))
    energy = float((np.abs(goal) ** 2).sum() + (np.abs(signal) ** 2).sum())
    turn = best / abs(best) if abs(best) > 0 else 1.0 + 0j
    return shift, turn, max(0.0, energy - 2.0 * abs(best)) / len(goal)


def _snapped(turn: complex) -> complex:
    """Return a turn, made one by a whole number of quarters if it is nearly one."""
    quarter = complex(np.exp(0.5j * np.pi * round(math.atan2(turn.imag, turn.real) / (0.5 * math.pi))))
    return complex(round(quarter.real), round(quarter.imag)) if abs(turn - quarter) < _SNAP_RAD else turn


def _is_quarter(turn: complex) -> bool:
    """Return whether a turn is by a whole number of quarters exactly: it was made one, and stays as it is."""
    return turn.real == 0.0 or turn.imag == 0.0


def _symmetric(path: Path, ring: FloatArray, loop: FloatArray, within: float, near: float) -> Path:
    """Return the path mirrored from its better half if its ring is its own mirror image within a tolerance."""
    if len(path.segments) < _LEAST_SEGMENTS:
        return path
    centre = ring.mean(axis=0)
    own = _complex(ring - centre)
    # Mirrored at a line through the middle in direction f, z becomes e^(2if) times its conjugate.
    _, turn, left = _best_fit(own, np.conj(own[::-1]))
    if left > (3.0 * within) ** 2:
        return path
    turn = _snapped(turn)
    if not _is_quarter(turn):
        image = turn * np.conj(own)
        turn *= _true_turn(np.column_stack([image.real, image.imag]), loop - centre)
    way = np.sqrt(turn)
    across = np.array([-way.imag, way.real])
    mirror = np.eye(2) - 2.0 * np.outer(across, across)
    # How far the image lies from the loop tells where the axis truly runs.
    shift, _ = _true_shift((ring - centre) @ mirror.T, loop - centre)
    middle = centre + across * float(shift @ across) / 2.0
    half = _mirrored_half(path, middle, across, mirror)
    return half if half is not None and _follows(half, path, near) else path


def _offsets(points: FloatArray, ring: FloatArray) -> FloatArray:
    """Return the vectors from points to the nearest places on a ring of samples."""
    return nearest_on(points, ring, np.roll(ring, -1, axis=0))[0]


def _true_shift(samples: FloatArray, loop: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return the move that puts samples onto a loop, and what is then still between them.

    Nearest places tell of a move only what is square to the loop: about half of it. So the rest is
    looked for again, each time half as large.
    """
    shift = np.zeros(2)
    off = _offsets(samples, loop)
    for _ in range(_SHIFT_ROUNDS):
        step = off.mean(axis=0)
        shift = shift + step
        off = _offsets(samples + shift, loop)
        if float(np.hypot(*step)) < _SHIFT_PX:
            break
    return shift, off


def _true_turn(samples: FloatArray, loop: FloatArray) -> complex:
    """Return the turn about the origin that, with a move, puts samples on an outline best onto a loop.

    Only what is square to the outline counts, so a many-sided polygon is not taken for a circle; a circle has none.
    """
    turn = 1.0 + 0.0j
    ring = samples
    for _ in range(_TURN_ROUNDS):
        along = np.roll(ring, -1, axis=0) - np.roll(ring, 1, axis=0)
        normal = np.column_stack([-along[:, 1], along[:, 0]]) / np.maximum(np.hypot(*along.T), 1e-12)[:, None]
        lever = normal[:, 1] * ring[:, 0] - normal[:, 0] * ring[:, 1]
        rows = np.column_stack([normal, lever])
        square = rows.T @ rows
        square[2, 2] += _LEAST_LEVER_PX**2 * len(ring)
        step = np.linalg.solve(
            square + 1e-9 * np.eye(3), rows.T @ np.einsum("ij,ij->i", normal, _offsets(ring, loop))
        )
        more = complex(np.exp(1j * step[2]))
        turn *= more
        placed = more * _complex(ring) + complex(step[0], step[1])
        ring = np.column_stack([placed.real, placed.imag])
    return turn


def _mirrored_half(path: Path, middle: FloatArray, across: FloatArray, mirror: FloatArray) -> Path | None:
    """Return the closed path of one half and its image, the half with fewer nodes; None if it crosses oftener."""
    points, at = polyline(path.segments)
    side = (points - middle) @ across
    side = np.where(np.abs(side) < 1e-9, 1e-9, side)
    flips = np.nonzero(side[:-1] * side[1:] < 0)[0]
    if len(flips) != 2:
        return None
    cuts = [float(at[k] + (at[k + 1] - at[k]) * side[k] / (side[k] - side[k + 1])) for k in flips]
    choices = [
        _half(path.segments, first, last, middle, across, mirror)
        for first, last in ((cuts[0], cuts[1]), (cuts[1], cuts[0] + len(path.segments)))
    ]
    best = min((curves for curves in choices if len(curves)), key=len, default=None)
    return None if best is None else Path(best)


def _half(
    segments: FloatArray,
    first: float,
    last: float,
    middle: FloatArray,
    across: FloatArray,
    mirror: FloatArray,
) -> FloatArray:
    """Return one half of a closed run, from the axis to the axis, and its image; segments across the axis are whole."""
    count = len(segments)

    def image(points: FloatArray) -> FloatArray:
        return np.asarray((points - middle) @ mirror.T + middle)

    low, high = math.ceil(first), math.floor(last)
    inner = [segments[k % count].copy() for k in range(low, high)]
    start, end = (_at_node(segments, place, middle, across) for place in (first, last))
    if start is not None and start != low:
        inner.insert(0, segments[start % count].copy())
    if end is not None and end != high:
        inner.append(segments[high % count].copy())
    if not inner:
        return np.zeros((0, 4, 2))
    rows = np.array(inner)
    if start is not None:
        _square_up(rows, 0, 0, middle, across)
    if end is not None:
        _square_up(rows, len(rows) - 1, 1, middle, across)
    out = [rows]
    if end is None:
        out.append(_across_axis(segments[high % count], 0, image))
    out.append(np.ascontiguousarray(image(rows.reshape(-1, 2)).reshape(rows.shape)[::-1, ::-1]))
    if start is None:
        out.append(_across_axis(segments[(low - 1) % count], 3, image)[::-1, ::-1])
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
    straight = bool(bezier.is_straight(rows[k : k + 1], tolerance=1e-4)[0])
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
    if bool(bezier.is_straight(segment[None], tolerance=1e-4)[0]):
        return bezier.line_segments(np.array([node, image(node[None])[0]]))
    return np.array([[node, handle, image(handle[None])[0], image(node[None])[0]]])


def _follows(path: Path, old: Path, within: float) -> bool:
    """Return whether a path stays near another, both ways."""
    one, other = (polyline(p.segments)[0][:-1] for p in (path, old))
    return all(
        np.linalg.norm(_offsets(a[:: max(1, len(a) // 300)], b), axis=1).max() <= within
        for a, b in ((one, other), (other, one))
    )
