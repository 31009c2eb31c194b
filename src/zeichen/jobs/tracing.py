"""Tracing one picture file anywhere: what goes to a worker and what comes back are plain values."""

import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from zeichen.core.forecasting.method_choice import method_for
from zeichen.core.forecasting.purposes import choices_said, for_process
from zeichen.core.formats.picture import picture_origin, read_picture
from zeichen.core.formats.svg import write_svg
from zeichen.core.methods import Method
from zeichen.core.proofing.yardstick import DRAWING_LINES, Process
from zeichen.core.raster.even_light import even_light
from zeichen.core.raster.picture import Picture
from zeichen.core.tracing.regions.trapping import underlaid
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace


@dataclass(frozen=True, slots=True)
class TraceOrder:
    """A picture's file name, its bytes (a worker may see no files of ours), and how to trace it.

    underlay_mm, width_mm: for flats, how far colours reach under their neighbours when the figure is
    made so wide; in place of the settings' borders. auto: by the method that the picture wants, instead of the
    settings' own; process: what will make it, if that is known.
    """

    name: str
    data: bytes
    settings: TraceSettings
    underlay_mm: float | None = None
    width_mm: float | None = None
    auto: bool = False
    process: Process | None = None


@dataclass(frozen=True, slots=True)
class TracedFile:
    """The drawing as SVG and the figures of the trace."""

    svg: str
    figures: dict[str, Any]


def _wanted(picture: Picture, order: TraceOrder) -> tuple[Method, str]:
    """Return the method that a picture wants, with its light evened out if that is asked for, and why."""
    settings = order.settings
    if settings.even_light:
        picture = Picture(np.repeat(even_light(picture.grey())[..., None], 3, axis=2))
    choice = method_for(picture, draws_lines=order.process is None or order.process in DRAWING_LINES)
    if choice.method is Method.FLATS and (
        settings.even_light or settings.invert or settings.level is not None
    ):
        return Method.SOLID, "two tones, as asked"
    return choice.method, choice.why


def trace_file(order: TraceOrder, step: Callable[[float], None] | None = None) -> TracedFile:
    """Trace a picture file; step is told how much is done, 0-1."""
    picture = read_picture(order.data)
    started = time.perf_counter()
    settings, why = order.settings, "as asked"
    if order.auto:
        method, why = _wanted(picture, order)
        settings = replace(settings, method=method)
    result = trace(picture, for_process(settings, order.process), step=step)
    drawing = result.drawing
    if order.underlay_mm is not None and order.width_mm is not None:
        x_min, _, x_max, _ = drawing.bounds()
        margin_px = order.underlay_mm * (x_max - x_min) / order.width_mm
        drawing = replace(drawing, shapes=underlaid(drawing.shapes, margin_px))
    seconds = time.perf_counter() - started
    area = sum(shape.area for shape in drawing.shapes)
    colour_areas: dict[str, float] = {}
    for shape in drawing.shapes:
        colour_areas[shape.fill] = colour_areas.get(shape.fill, 0.0) + shape.area
    figures = {
        "seconds": round(seconds, 4),
        "method": settings.method.value,
        "why": why,
        "chosen": list(choices_said(settings, result, order.process)),
        "shading": None if result.shading is None else result.shading.value,
        "figure": result.figure.value if settings.method is Method.SOLID else None,
        "inside": [
            {"x_px": place.x_px, "y_px": place.y_px, "area_px2": place.area_px2, "kept": place.kept}
            for place in result.inside
        ],
        "width_px": picture.width_px,
        "height_px": picture.height_px,
        "level": result.level,
        "dropped_spots": result.dropped_spots,
        "shapes": len(drawing.shapes),
        "paths": len(drawing.paths),
        "closed_paths": sum(path.closed for path in drawing.paths),
        "self_crossings": result.self_crossings,
        "nodes": drawing.node_count,
        "colours": [
            {"hex": colour, "area_share": round(part / area, 6) if area else 0.0}
            for colour, part in colour_areas.items()
        ],
        "gradient_share": round(result.gradient_share, 4),
        "deviation_px": {
            "mean": round(result.deviation.mean_px, 4),
            "p95": round(result.deviation.p95_px, 4),
            "max": round(result.deviation.largest_px, 4),
        },
    }
    # How the picture came about goes with the drawing.
    origin = picture_origin(order.data)
    return TracedFile(write_svg(replace(drawing, origin=origin)), figures)
