"""What workers do with sketches and drawings: plain functions from paths and values to values."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from zeichen.core.briefing.generator import SketchOrder
from zeichen.core.errors import InvalidInputError
from zeichen.core.formats.picture import read_picture, write_png
from zeichen.core.formats.svg import read_svg, shape_data, write_svg
from zeichen.core.geometry import Drawing, Scale
from zeichen.core.proofing import Proof, Yardstick, delete_shapes, drop_specks, proof
from zeichen.core.raster.picture import Picture
from zeichen.core.tracing import TraceSettings, trace, warm_up
from zeichen.standins.studio import Studio

THUMB_PX = 360
Step = Callable[[float], None]


@dataclass(frozen=True, slots=True)
class SketchFiles:
    """A picture made ready: PNG, small PNG, size."""

    png: bytes
    thumb: bytes
    width_px: int
    height_px: int


@dataclass(frozen=True, slots=True)
class Box:
    """A box in drawing units."""

    x_min: float
    y_min: float
    x_max: float
    y_max: float


@dataclass(frozen=True, slots=True)
class ShapeData:
    """A shape as the screen draws it."""

    id: str
    fill: str
    d: str
    node_count: int
    area_px2: float
    stroke_width_px: float | None
    box_px: Box


@dataclass(frozen=True, slots=True)
class DrawingData:
    """A drawing as the screen draws it, judged by a yardstick."""

    width_px: float
    height_px: float
    mm_per_px: float
    figure_px: Box
    shapes: tuple[ShapeData, ...]
    proof: Proof


@dataclass(frozen=True, slots=True)
class TraceData:
    """A trace as the screen shows it."""

    drawing: DrawingData
    level: int
    dropped_spots: int
    self_crossings: int
    mean_px: float
    p95_px: float
    largest_px: float
    svg: str

    def report(self) -> dict[str, Any]:
        """Return the figures that are kept with the tracing."""
        return {
            "level": self.level,
            "dropped_spots": self.dropped_spots,
            "mean_px": self.mean_px,
            "p95_px": self.p95_px,
            "largest_px": self.largest_px,
        }


@dataclass(frozen=True, slots=True)
class Forecast:
    """How well a sketch will trace at the yardstick's size."""

    verdict: str
    reason: str
    thinnest_mm: float | None
    thin_count: int
    gap_count: int
    speck_count: int
    shapes: int
    nodes: int


def warm() -> None:
    """Load what the first real call would wait for."""
    warm_up()


def require_readable(data: bytes) -> None:
    """Decode a file to its end and let go of it; raises what is wrong with it."""
    read_picture(data)


def prepare_picture(path: Path, step: Step) -> SketchFiles:
    """Decode a brought-in file and make it ready."""
    step(0.0)
    picture = read_picture(path.read_bytes())
    step(0.5)
    files = _files(picture)
    step(1.0)
    return files


def draw_sketch(order: SketchOrder, faults: float) -> SketchFiles:
    """Draw one sketch with the stand-in studio."""
    return _files(Studio(faults=faults).draw(order))


def trace_picture(
    path: Path, settings: TraceSettings, yardstick: Yardstick, step: Step | None = None
) -> TraceData:
    """Trace a stored picture and judge the result."""
    result = trace(_picture(path), settings, step=step)
    return TraceData(
        drawing=_data(result.drawing, yardstick),
        level=result.level,
        dropped_spots=result.dropped_spots,
        self_crossings=result.self_crossings,
        mean_px=result.deviation.mean_px,
        p95_px=result.deviation.p95_px,
        largest_px=result.deviation.largest_px,
        svg=write_svg(result.drawing),
    )


@lru_cache(maxsize=256)
def forecast(path: Path, yardstick: Yardstick) -> Forecast:
    """Judge a sketch before anyone traces it: a plain trace, proofed at the yardstick's size.

    The rule: an empty or one-tone picture will not trace; more than two thin parts, or one under half
    the limit, is too fine; any finding at all needs clean-up; otherwise it traces well.
    """
    try:
        result = trace(_picture(path), TraceSettings(min_spot_px2=4.0))
    except InvalidInputError as error:
        return Forecast("will not trace", str(error), None, 0, 0, 0, 0, 0)
    judged = proof(result.drawing, yardstick)
    kinds = [finding.kind.value for finding in judged.findings]
    thin = [finding.measured for finding in judged.findings if finding.kind.value == "thin_part"]
    gaps, specks = kinds.count("small_gap"), kinds.count("speck")
    if len(thin) > 2 or (thin and min(thin) < yardstick.limits.thin_mm / 2):
        verdict, reason = (
            "too fine",
            f"{len(thin)} thin part{'s' * (len(thin) != 1)}, thinnest {min(thin):.2f} mm",
        )
    elif kinds:
        verdict, reason = (
            "needs clean-up",
            ", ".join(
                f"{count} {name}{'s' * (count != 1)}"
                for name, count in (
                    ("thin part", len(thin)),
                    ("narrow gap", gaps),
                    ("speck", specks),
                    ("loose piece", kinds.count("loose_piece")),
                )
                if count
            )
            or f"{len(kinds)} findings",
        )
    else:
        verdict, reason = "traces well", "nothing to mend"
    return Forecast(
        verdict,
        reason,
        judged.readings.thinnest_mm,
        len(thin),
        gaps,
        specks,
        judged.readings.shapes,
        judged.readings.nodes,
    )


@lru_cache(maxsize=64)
def drawing_data(path: Path, yardstick: Yardstick) -> DrawingData:
    """Return a stored drawing, judged."""
    return _data(read_svg(path.read_bytes()), yardstick)


def mend_drawing(path: Path, yardstick: Yardstick, shape_ids: list[str] | None) -> str:
    """Return the drawing as SVG less some shapes, or (None) less all specks."""
    drawing = read_svg(path.read_bytes())
    mended = drop_specks(drawing, yardstick) if shape_ids is None else delete_shapes(drawing, shape_ids)
    return write_svg(mended)


def _data(drawing: Drawing, yardstick: Yardstick) -> DrawingData:
    judged = proof(drawing, yardstick)
    shapes = tuple(
        ShapeData(
            shape.id,
            shape.fill,
            shape_data(shape, decimals=2),
            shape.node_count,
            shape.area,
            shape.stroke_width,
            Box(*replace(drawing, shapes=(shape,)).bounds()),
        )
        for shape in drawing.shapes
        if shape.node_count
    )
    scale = Scale.from_width(drawing, width_mm=yardstick.finished_width_mm(drawing))
    return DrawingData(drawing.width, drawing.height, scale.mm_per_px, Box(*drawing.bounds()), shapes, judged)


@lru_cache(maxsize=6)
def _picture(path: Path) -> Picture:
    return read_picture(path.read_bytes())


def _files(picture: Picture) -> SketchFiles:
    scale = THUMB_PX / max(picture.width_px, picture.height_px)
    size = (max(1, round(picture.width_px * scale)), max(1, round(picture.height_px * scale)))
    thumb = cv2.resize(picture.rgb, size, interpolation=cv2.INTER_AREA) if scale < 1 else picture.rgb
    return SketchFiles(
        write_png(picture.rgb), write_png(np.ascontiguousarray(thumb)), picture.width_px, picture.height_px
    )
