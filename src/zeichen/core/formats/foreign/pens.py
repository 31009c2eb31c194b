"""Drawn lines taken apart: dashes, and lines that are drawn askew."""

import math

import numpy as np

from zeichen.core.errors import TooMuchError
from zeichen.core.formats.foreign.style import Stroke
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.values import FloatArray

# More dashes than this in one line are no drawing any more (our own rule).
MOST_DASHES = 20_000
# Lengths along a curve are looked up between so many places on each of its segments.
_STEPS = 64


def dashed(path: Path, stroke: Stroke) -> list[Path]:
    """Return the inked parts of a path, each open; all of it if the line is whole.

    Source: SVG 2, section 13.5.6; where a closed path begins within a dash, that dash is one.

    Raises
    ------
    TooMuchError
        If there would be more than 20,000 dashes.
    """
    if not stroke.dashes:
        return [path]
    places, along = _measured(path.segments)
    whole, period = float(along[-1]), math.fsum(stroke.dashes)
    if not (whole > 0 and period > 0):
        return [path]
    if whole / period * (len(stroke.dashes) / 2) > MOST_DASHES:
        raise TooMuchError(
            f"The SVG has a line of more than {MOST_DASHES:,} dashes. Draw it whole, or with longer dashes."
        )
    spans = _inked(stroke, whole, period)
    if not spans:
        return []
    if len(spans) == 1 and spans[0] == (0.0, whole):
        return [path]
    cuts = np.interp(np.array(spans).ravel(), along, places).reshape(-1, 2).tolist()
    joined = path.closed and spans[0][0] == 0.0 and spans[-1][1] == whole and len(cuts) > 1
    out = [
        Path(bezier.piece(path.segments, first, last), closed=False)
        for first, last in (cuts[1:-1] if joined else cuts)
        if last > first
    ]
    if joined:
        parts = [bezier.piece(path.segments, *cuts[-1]), bezier.piece(path.segments, *cuts[0])]
        out.append(Path(np.concatenate(parts), closed=False))
    return out


def _inked(stroke: Stroke, whole: float, period: float) -> list[tuple[float, float]]:
    """Return from where to where along a line there is ink."""
    spans: list[tuple[float, float]] = []
    at = -(stroke.offset % period)
    while at < whole:
        for number, length in enumerate(stroke.dashes):
            first, last = max(at, 0.0), min(at + length, whole)
            if number % 2 == 0 and last > first:
                if spans and first <= spans[-1][1]:
                    spans[-1] = (spans[-1][0], last)
                else:
                    spans.append((first, last))
            at += length
    return spans


def _measured(segments: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return places along a run, segment number plus parameter, and the length up to each."""
    t = np.linspace(0.0, 1.0, _STEPS + 1)
    points = bezier.evaluate(segments, t)
    steps = np.hypot(*np.moveaxis(np.diff(points, axis=1), 2, 0))
    # The chords are a little shorter than the curve, everywhere by the same share of it.
    true = bezier.arc_lengths(segments)
    sums = steps.sum(axis=1)
    steps *= (true / np.where(sums > 0, sums, 1.0))[:, None]
    along = np.concatenate([[0.0], np.cumsum(steps)])
    places = np.concatenate([[0.0], (np.arange(len(segments))[:, None] + t[None, 1:]).ravel()])
    return places, along
