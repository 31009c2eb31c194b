"""What workers do: plain functions from paths and values to values."""

import base64
from collections.abc import Callable
from dataclasses import asdict, dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from zeichen.core.briefing.generator import SketchOrder
from zeichen.core.errors import InvalidInputError
from zeichen.core.formats.dxf import Entity
from zeichen.core.formats.picture import read_picture, write_png
from zeichen.core.formats.render import render_drawing
from zeichen.core.formats.svg import read_svg, shape_data, write_svg
from zeichen.core.geometry.drawing import Drawing
from zeichen.core.making import apparel, carve, laser, relief
from zeichen.core.making.product import Product
from zeichen.core.packing import Listing, PackItem, make_pack
from zeichen.core.proofing import Proof, Yardstick, delete_shapes, drop_specks, proof
from zeichen.core.raster.picture import Picture
from zeichen.core.tracing import TraceSettings, trace, warm_up
from zeichen.standins.laser import LaserMachine, rehearse
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
class ShapeData:
    """A shape as the screen draws it."""

    id: str
    fill: str
    d: str
    node_count: int
    area_px2: float
    stroke_width_px: float | None
    box_px: tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class DrawingData:
    """A drawing as the screen draws it, judged by a yardstick."""

    width_px: float
    height_px: float
    mm_per_px: float
    figure_px: tuple[float, float, float, float]
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


def make_product(
    path: Path,
    process: str,
    width_mm: float,
    title: str,
    settings: dict[str, Any],
    blank_mm: tuple[float, float] | None,
    step: Step,
) -> tuple[Product, dict[str, Any], bytes]:
    """Return the files of a ticket, its rehearsal and a picture of it (PNG)."""
    drawing = read_svg(path.read_bytes())
    step(0.1)
    rehearsal: dict[str, Any] = {}
    if process == "laser":
        chosen = laser.LaserSettings(**{**settings, "cut": laser.CutLine(settings.get("cut", "around"))})
        on_blank = blank_mm if chosen.cut is laser.CutLine.NONE else None
        product = laser.make_laser(drawing, chosen, width_mm=width_mm, title=title, blank_mm=on_blank)
        step(0.5)
        run = rehearse(
            product.files[1].data.decode(), LaserMachine(acceleration_mm_s2=chosen.acceleration_mm_s2)
        )
        burned = cv2.cvtColor(run.picture, cv2.COLOR_GRAY2RGB)
        preview = write_png(np.ascontiguousarray(burned))
        rehearsal = {
            "seconds": run.seconds,
            "bounds_mm": run.bounds_mm,
            "burned_mm": run.burned_mm,
            "travel_mm": run.travel_mm,
            "operations": [
                {"name": name or "travel", "seconds": seconds}
                for name, seconds in run.operations
                if seconds > 0.05
            ],
            "picture_bounds_mm": run.picture_bounds_mm,
            "warnings": list(run.warnings),
        }
    elif process == "carve":
        product = carve.make_carve(
            drawing, carve.CarveSettings(**_with_enum(settings, "entity", Entity)), width_mm=width_mm
        )
        preview = write_png(render_drawing(_framed(drawing), width_px=900))
    elif process == "relief":
        product = relief.make_relief(
            drawing,
            relief.ReliefSettings(**_with_enum(settings, "form", relief.BaseForm)),
            width_mm=width_mm,
            title=title,
        )
        preview = write_png(render_drawing(_framed(drawing), width_px=900))
    elif process == "apparel":
        product = apparel.make_apparel(drawing, apparel.ApparelSettings(**settings), width_mm=width_mm)
        full = cv2.imdecode(np.frombuffer(product.files[0].data, np.uint8), cv2.IMREAD_UNCHANGED)
        assert full is not None, "the PNG was written a moment ago"
        small = cv2.resize(full, (full.shape[1] // 6, full.shape[0] // 6), interpolation=cv2.INTER_AREA)
        preview = write_png(np.asarray(cv2.cvtColor(small, cv2.COLOR_BGRA2RGBA), dtype=np.uint8))
    else:
        raise InvalidInputError(f"There is no process {process}. Use laser, carve, relief or apparel.")
    step(1.0)
    return product, rehearsal, preview


def pack_drawings(items: list[tuple[str, Path]], listing: Listing, width_mm: float, step: Step) -> bytes:
    """Return the ZIP of a pack."""
    parts = []
    for number, (name, path) in enumerate(items):
        step(0.3 * number / max(len(items), 1))
        parts.append(PackItem(name, read_svg(path.read_bytes()), width_mm))
    data = make_pack(parts, listing)
    step(1.0)
    return data


def relief_mesh(path: Path, width_mm: float, settings: dict[str, Any]) -> dict[str, Any]:
    """Return the parts of a relief for the screen: float32 positions and uint32 triangles, base64."""
    chosen = relief.ReliefSettings(**_with_enum(settings, "form", relief.BaseForm))
    parts = relief.relief_parts(read_svg(path.read_bytes()), chosen, width_mm=width_mm)
    return {
        "parts": [
            {
                "name": part.name,
                "colour": part.colour,
                "positions": base64.b64encode(part.mesh.vertices_mm.astype("<f4").tobytes()).decode(),
                "triangles": base64.b64encode(part.mesh.triangles.astype("<u4").tobytes()).decode(),
            }
            for part in parts
        ]
    }


def listing_from(values: dict[str, Any]) -> Listing:
    """Return a listing from stored values."""
    from zeichen.core.packing import Origin

    return Listing(
        **{
            **values,
            "keywords": tuple(values.get("keywords", ())),
            "origin": Origin(values.get("origin", "machine")),
        }
    )


def listing_values(listing: Listing) -> dict[str, Any]:
    """Return a listing as values that can be stored."""
    return {**asdict(listing), "keywords": list(listing.keywords), "origin": listing.origin.value}


def _with_enum(settings: dict[str, Any], key: str, kind: type[Any]) -> dict[str, Any]:
    return {**settings, key: kind(settings[key])} if key in settings else settings


def _framed(drawing: Drawing) -> Drawing:
    """Return the drawing cut to its figure's box."""
    x_min, y_min, x_max, y_max = drawing.bounds()
    return drawing.moved(
        lambda p: p - np.array([x_min, y_min]),
        width=max(x_max - x_min, 1e-6),
        height=max(y_max - y_min, 1e-6),
    )


def _data(drawing: Drawing, yardstick: Yardstick) -> DrawingData:
    judged = proof(drawing, yardstick)
    box = drawing.bounds()
    shapes = tuple(
        ShapeData(
            shape.id,
            shape.fill,
            shape_data(shape, decimals=2),
            shape.node_count,
            shape.area,
            shape.stroke_width,
            replace(drawing, shapes=(shape,)).bounds(),
        )
        for shape in drawing.shapes
        if shape.node_count
    )
    span = box[2] - box[0] if box[2] > box[0] else box[3] - box[1]
    return DrawingData(drawing.width, drawing.height, yardstick.width_mm / span, box, shapes, judged)


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
