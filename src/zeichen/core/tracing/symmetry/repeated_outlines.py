"""Equal parts drawn equally: the same ornament twice, shifted or mirrored, gets the same nodes.

Two outlines of one picture are never measured alike to the last hundredth, so fits of equal parts differ.
Where one outline, moved onto another, lies on it within the tolerance, its curve is moved along; where an
outline is its own mirror image, half of its curve is kept and mirrored.
"""

import numpy as np

from zeichen.core.geometry import bezier
from zeichen.core.geometry.bezier import CIRCLE_HANDLE
from zeichen.core.geometry.drawing import Path
from zeichen.core.tracing.symmetry.reflection import Likeness, Measured, symmetric
from zeichen.core.tracing.symmetry.registration import Outline, laid_onto, outline_of
from zeichen.core.values import FloatArray

# Equal outlines have sizes this near.
_SIZE_SHARE = 0.012
# No sample of a moved outline may be further off than this share of the tolerance, nor must it be nearer than this.
_SHARE = 0.75
_SAME_PX = 0.12
# A half and its image may lie off the whole they replace by this many tolerances: either fit may be off by nearly
# one, to opposite sides.
_APART = 1.5
# A symmetric outline and its image are no further apart than this, px, and so many times the noise (common practice,
# no source: in two open sets halves that an artist mirrored are, others mostly are not).
_ALIKE_PX, _ALIKE_NOISE = 0.045, 2.5
_LEAST_SEGMENTS = 3
# Outlines shorter than this are not worth it, px.
_SHORTEST_PX = 24.0
_LEAST_POINTS = 12
_MOST_MODELS = 20
# A curve is a line if its handles are this near to its chord, px.
_STRAIGHT_PX = 1e-4


def draw_repeated_alike(
    paths: list[Path], loops: list[FloatArray], *, tolerance_px: float, noise_px: float = 0.0
) -> list[Path]:
    """Return the paths with equal outlines drawn by the same curves, and symmetric ones symmetric.

    Parameters
    ----------
    paths : list of Path
        Closed, one for each loop.
    loops : list of (n, 2) float arrays, px
        The measured outlines.
    tolerance_px : float
        How far a curve may be from its outline.
    noise_px : float
        Typical error of a measured point.
    """
    out = list(paths)
    within = max(_SHARE * tolerance_px, _SAME_PX)
    near = max(_APART * tolerance_px, within)
    alike = _ALIKE_PX + _ALIKE_NOISE * noise_px
    outlines = {k: outline_of(loop) for k, loop in enumerate(loops) if len(loop) >= _LEAST_POINTS}
    order = sorted(
        (k for k, outline in outlines.items() if outline.length >= _SHORTEST_PX),
        key=lambda k: (outlines[k].length, k),
    )
    for k in order:
        out[k] = _symmetric(out[k], outlines[k], within, alike, near)
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
        found, turn, x, y, off = laid_onto(own.ring, backwards, onto.ring, onto.pieces, onto.centre, within)
        if not found or off > within:
            continue
        points = (path.segments - own.centre) @ np.array([1.0, 1j])
        moved = turn * (np.conj(points) if backwards else points)
        curves = np.stack([moved.real, moved.imag], axis=-1) + (onto.centre + np.array([x, y]))
        return Path(bezier.reverse(curves) if backwards else curves)
    return None


def _symmetric(path: Path, outline: Outline, within: float, alike: float, near: float) -> Path:
    """Return the path mirrored from its better half if its outline is its own mirror image within a tolerance."""
    if len(path.segments) < _LEAST_SEGMENTS or _is_ellipse(path.segments):
        return path
    segments = np.ascontiguousarray(path.segments)
    lines = bezier.is_straight(segments, tolerance=_STRAIGHT_PX)
    half = symmetric(
        segments, lines, Measured(outline.ring, outline.centre, outline.pieces), Likeness(within, alike, near)
    )
    return Path(half) if len(half) else path


def _is_ellipse(segments: FloatArray) -> bool:
    """Return whether a closed run is a true circle or ellipse already: four quarters between conjugate diameters."""
    if len(segments) != 4:
        return False
    centre = segments[:, 0].mean(axis=0)
    start, end = segments[:, 0] - centre, segments[:, 3] - centre
    quarters = np.stack([start + CIRCLE_HANDLE * end, end + CIRCLE_HANDLE * start], axis=1)
    return bool(
        np.abs(segments[:, 1:3] - centre - quarters).max() < _STRAIGHT_PX
        and np.abs(start + np.roll(start, 2, axis=0)).max() < _STRAIGHT_PX
    )
