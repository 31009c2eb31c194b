"""What workers measure between a drawing and its sketch, or an earlier state: the veil, in mm."""

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np

from zeichen.core.errors import ConflictError
from zeichen.core.forecasting.purposes import for_process
from zeichen.core.formats.svg_reading import read_svg
from zeichen.core.geometry import Drawing
from zeichen.core.proofing import Yardstick
from zeichen.core.proofing.yardstick import finished_scale
from zeichen.core.tracing.deviation import Veil, veil_between
from zeichen.core.tracing.settings import Trace, TraceSettings
from zeichen.core.tracing.trace import trace
from zeichen.jobs.tasks import stored_picture
from zeichen.store.files import read_stored


@dataclass(frozen=True, slots=True)
class VeilPoint:
    """A place on the picture's boundary, px, and how far the drawing is off there (positive: fuller)."""

    x_px: float
    y_px: float
    off_mm: float


@dataclass(frozen=True, slots=True)
class VeilData:
    """Where and how far the drawing departs from the sketch, mm at the yardstick's size."""

    points: tuple[VeilPoint, ...]
    mean_mm: float
    p95_mm: float
    largest: VeilPoint


def veil(path: Path, settings: TraceSettings, yardstick: Yardstick) -> VeilData:
    """Return how far a trace departs from the sketch, place by place."""
    result = trace(stored_picture(path), for_process(settings, yardstick.process))
    return _veil_data(result.veil(), result.drawing, yardstick)


def veil_of_drawing(
    path: Path, yardstick: Yardstick, other: Path, settings: TraceSettings | None
) -> VeilData:
    """Return how far a drawing as it is now departs from another thing.

    settings: those by which the other, a picture, was traced; None if it is an earlier state.
    """
    drawing = read_svg(read_stored(path)).shown()
    if settings is None:
        found = veil_between(drawing, read_svg(read_stored(other)).shown())
    else:
        traced = _traced(other, for_process(settings, yardstick.process))
        found = veil_between(drawing, traced.drawing, list(traced.boundary))
    return _veil_data(found, drawing, yardstick)


@lru_cache(maxsize=4)
def _traced(path: Path, settings: TraceSettings) -> Trace:
    """A stored picture's trace: while a drawing is edited, its sketch stays the same."""
    return trace(stored_picture(path), settings)


def _veil_data(whole: Veil, drawing: Drawing, yardstick: Yardstick) -> VeilData:
    scale = finished_scale(drawing, yardstick)
    if not len(whole.off_px):
        raise ConflictError("There is nothing to compare: one of the two has no outlines.")
    off_mm = whole.off_px * scale.mm_per_px
    size = np.abs(off_mm)
    worst = int(size.argmax())
    shown = whole.thinned(4000)
    points = tuple(
        VeilPoint(round(float(x), 2), round(float(y), 2), round(float(d) * scale.mm_per_px, 4))
        for (x, y), d in zip(shown.places_px, shown.off_px, strict=True)
    )
    x_px, y_px = (float(v) for v in whole.places_px[worst])
    largest = VeilPoint(x_px, y_px, float(off_mm[worst]))
    return VeilData(points, float(size.mean()), float(np.percentile(size, 95)), largest)
