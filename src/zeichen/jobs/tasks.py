"""What workers do with sketches and drawings: plain functions from paths and values to values."""

import contextlib
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from zeichen.core.briefing.generator import SketchOrder
from zeichen.core.errors import DamagedError, NotFoundError
from zeichen.core.forecasting.forecast import forecast as forecast_of
from zeichen.core.forecasting.purposes import choices_said, for_process
from zeichen.core.formats.picture import picture_origin, picture_size, read_picture, write_png
from zeichen.core.formats.svg import shape_data, write_svg
from zeichen.core.formats.svg_reading import read_svg
from zeichen.core.geometry import Drawing, Shape
from zeichen.core.methods import Figure, Method, Shading
from zeichen.core.proofing import Proof, Yardstick, proof
from zeichen.core.proofing.facts import Memory
from zeichen.core.proofing.yardstick import finished_scale
from zeichen.core.provenance import Origin
from zeichen.core.raster.clean import CleanStep, at_scale, cleaned, steps_from_data
from zeichen.core.raster.colours import common_palette, find_palette, hex_colour
from zeichen.core.raster.picture import Picture
from zeichen.core.raster.style_reading import StyleReading, read_style
from zeichen.core.tracing.doubts import Doubt, find_doubts
from zeichen.core.tracing.inside_places import InsideAt, InsidePlace
from zeichen.core.tracing.ladder import rung_settings
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace
from zeichen.jobs.forecasts import ForecastData, forecast_data
from zeichen.standins.studio import Studio
from zeichen.store.files import read_stored

THUMB_PX = 360
_MOST_TRAIL = 48
SCREEN_PX = 1280
# Of this worker: a drawing that is edited is judged again and again.
MEMORY = Memory()
Step = Callable[[float], None]


@dataclass(frozen=True, slots=True)
class SketchFiles:
    """A picture made ready: PNG, small PNG, size, and how it came about as far as its file says."""

    png: bytes
    thumb: bytes
    width_px: int
    height_px: int
    origin: Origin | None = None


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
    fill_rule: str
    stroke_width_px: float | None
    cap: str
    join: str
    mitre_limit: float
    box_px: Box
    group: str
    locked: bool
    hidden: bool
    letters: str


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
    gradient_share: float
    svg: str
    shading: Shading | None
    figure: Figure
    inside: tuple[InsidePlace, ...]
    chosen: tuple[str, ...]

    def report(self) -> dict[str, Any]:
        """Return the figures that are kept with the tracing."""
        return {
            "level": self.level,
            "dropped_spots": self.dropped_spots,
            "mean_px": self.mean_px,
            "p95_px": self.p95_px,
            "largest_px": self.largest_px,
        }


def pixel_count(data: bytes) -> int:
    """Return how many pixels a picture file declares; raises what is wrong with its head."""
    width_px, height_px = picture_size(data)
    return width_px * height_px


def require_readable(data: bytes) -> None:
    """Decode a file to its end and let go of it; raises what is wrong with it."""
    read_picture(data)


def prepare_picture(path: Path, step: Step) -> SketchFiles:
    """Decode a brought-in file and make it ready."""
    step(0.0)
    files = prepare_file(read_stored(path))
    step(1.0)
    return files


def prepare_file(data: bytes) -> SketchFiles:
    """Decode a picture file and make it ready."""
    return _files(read_picture(data), picture_origin(data))


def draw_sketch(order: SketchOrder, faults: float) -> SketchFiles:
    """Draw one sketch with the stand-in studio."""
    return _files(Studio(faults=faults).draw(order), Origin.MACHINE)


def prepare_bytes(data: bytes) -> SketchFiles:
    """Decode a picture that came from a generator and make it ready."""
    return _files(read_picture(data), Origin.MACHINE)


@lru_cache(maxsize=32)
def read_hand(path: Path) -> StyleReading:
    """Return the hand a stored picture is drawn in."""
    return read_style(stored_picture(path))


def trace_picture(
    path: Path, settings: TraceSettings, yardstick: Yardstick, step: Step | None = None
) -> TraceData:
    """Trace a stored picture and judge the result."""
    result = trace(stored_picture(path), for_process(settings, yardstick.process), step=step)
    return TraceData(
        drawing=judged(result.drawing, yardstick),
        level=result.level,
        dropped_spots=result.dropped_spots,
        self_crossings=result.self_crossings,
        mean_px=result.deviation.mean_px,
        p95_px=result.deviation.p95_px,
        largest_px=result.deviation.largest_px,
        gradient_share=result.gradient_share,
        svg=write_svg(replace(result.drawing, origin=picture_origin(read_stored(path)))),
        shading=result.shading,
        figure=result.figure,
        inside=result.inside,
        chosen=choices_said(settings, result, yardstick.process),
    )


@lru_cache(maxsize=256)
def forecast(path: Path, yardstick: Yardstick) -> ForecastData:
    """Judge a sketch before anyone traces it."""
    return forecast_data(forecast_of(stored_picture(path), yardstick))


def clean_picture(path: Path, steps: list[dict[str, Any]]) -> SketchFiles:
    """Return what clean-up steps make of a stored picture."""
    return _files(_cleaned(path, steps_from_data(steps)), picture_origin(read_stored(path)))


def preview_cleaning(path: Path, steps: list[dict[str, Any]]) -> bytes:
    """Return a PNG of what clean-up steps make of a stored picture, at the size of a screen."""
    small, factor = _on_screen(path)
    chain = at_scale(steps_from_data(steps), factor)
    return write_png(cleaned(small, chain).rgb, quick=True)


def _cleaned(path: Path, chain: tuple[CleanStep, ...]) -> Picture:
    """Return the picture after a chain; what the steps before the last one made of it is kept for a while."""
    if len(chain) < 2:
        return cleaned(stored_picture(path), chain)
    before = _BETWEEN.get(path, chain[:-1])
    if before is None:
        before = cleaned(stored_picture(path), chain[:-1])
        _BETWEEN.put(path, chain[:-1], before)
    return cleaned(before, chain[-1:], original=stored_picture(path), number=len(chain))


class _AtHand:
    """Pictures by their file and what was done to them; the oldest go when there are too many pixels."""

    def __init__(self, most_px: int) -> None:
        self._most_px = most_px
        self._kept: OrderedDict[tuple[Path, tuple[CleanStep, ...]], Picture] = OrderedDict()

    def get(self, path: Path, chain: tuple[CleanStep, ...]) -> Picture | None:
        found = self._kept.get((path, chain))
        if found is not None:
            self._kept.move_to_end((path, chain))
        return found

    def put(self, path: Path, chain: tuple[CleanStep, ...], picture: Picture) -> None:
        self._kept[path, chain] = picture
        while sum(each.width_px * each.height_px for each in self._kept.values()) > self._most_px:
            self._kept.popitem(last=False)


# Between two clean-up steps, and as they are stored: 90 MB each at most.
_BETWEEN, _PICTURES = _AtHand(30_000_000), _AtHand(30_000_000)


@lru_cache(maxsize=2)
def _on_screen(path: Path) -> tuple[Picture, float]:
    """Return a picture no larger than a screen, and how much smaller it is."""
    picture = stored_picture(path)
    factor = min(1.0, SCREEN_PX / max(picture.width_px, picture.height_px))
    size = (max(8, round(picture.width_px * factor)), max(8, round(picture.height_px * factor)))
    if factor == 1.0:
        return picture, 1.0
    return Picture(np.ascontiguousarray(cv2.resize(picture.rgb, size, interpolation=cv2.INTER_AREA))), factor


@lru_cache(maxsize=64)
def drawing_data(path: Path, yardstick: Yardstick) -> DrawingData:
    """Return a stored drawing, judged."""
    return judged(read_svg(read_stored(path)), yardstick)


def judged(drawing: Drawing, yardstick: Yardstick) -> DrawingData:
    """Return a drawing as the screen draws it, with what is wrong with it.

    Raises
    ------
    InvalidInputError
        If nothing of it is shown, or it would be beyond 100 m or below 1 µm.
    """
    shown = drawing.shown()
    result = proof(shown, yardstick, MEMORY)
    # A long narrow place is shown by some of its middles.
    findings = tuple(
        replace(f, trail_px=f.trail_px[:: -(-len(f.trail_px) // _MOST_TRAIL) or 1]) for f in result.findings
    )
    scale = finished_scale(shown, yardstick)
    return DrawingData(
        drawing.width,
        drawing.height,
        scale.mm_per_px,
        Box(*shown.bounds()),
        shapes_data(drawing.shapes),
        replace(result, findings=findings),
    )


def shapes_data(shapes: tuple[Shape, ...]) -> tuple[ShapeData, ...]:
    """Return shapes as the screen draws them."""
    return tuple(
        ShapeData(
            shape.id,
            shape.fill,
            shape_data(shape, decimals=2),
            shape.node_count,
            shape.area,
            shape.fill_rule,
            shape.stroke_width,
            shape.cap,
            shape.join,
            shape.mitre_limit,
            Box(*shape.bounds()),
            shape.group,
            shape.locked,
            shape.hidden,
            shape.letters,
        )
        for shape in shapes
        if shape.node_count
    )


def stored_picture(path: Path) -> Picture:
    """Return a stored picture; the last few are kept at hand."""
    picture = _PICTURES.get(path, ())
    if picture is None:
        picture = read_picture(read_stored(path))
        _PICTURES.put(path, (), picture)
    return picture


def _files(picture: Picture, origin: Origin | None) -> SketchFiles:
    scale = THUMB_PX / max(picture.width_px, picture.height_px)
    size = (max(1, round(picture.width_px * scale)), max(1, round(picture.height_px * scale)))
    thumb = cv2.resize(picture.rgb, size, interpolation=cv2.INTER_AREA) if scale < 1 else picture.rgb
    png = write_png(picture.rgb, quick=True, origin=origin)
    small = write_png(np.ascontiguousarray(thumb))
    return SketchFiles(png, small, picture.width_px, picture.height_px, origin)


# A rough trace is made of the picture at this size; it takes a few hundredths of a second.
ROUGH_PX = 360


def trace_rough(path: Path, settings: TraceSettings, yardstick: Yardstick) -> TraceData | None:
    """Trace a much smaller copy of a picture; None if the picture is not larger than that anyway."""
    picture = stored_picture(path)
    factor = max(picture.width_px, picture.height_px) / ROUGH_PX
    if factor < 1.5:
        return None
    size = (max(8, round(picture.width_px / factor)), max(8, round(picture.height_px / factor)))
    small = Picture(np.ascontiguousarray(cv2.resize(picture.rgb, size, interpolation=cv2.INTER_AREA)))
    x, y = picture.width_px / size[0], picture.height_px / size[1]
    result = trace(
        small,
        replace(
            for_process(settings, yardstick.process),
            turned_inside=tuple(InsideAt(at.x_px / x, at.y_px / y) for at in settings.turned_inside),
            tolerance_px=max(0.1, settings.tolerance_px / factor),
            min_spot_px2=settings.min_spot_px2 / factor**2,
            underlay_px=settings.underlay_px / factor,
        ),
    )
    drawing = result.drawing.moved(
        lambda points: points * np.array([x, y]),
        width=float(picture.width_px),
        height=float(picture.height_px),
    )
    shapes = tuple(
        replace(shape, stroke_width=shape.stroke_width and shape.stroke_width * factor)
        for shape in drawing.shapes
    )
    off = result.deviation
    return TraceData(
        drawing=judged(replace(drawing, shapes=shapes), yardstick),
        level=result.level,
        dropped_spots=result.dropped_spots,
        self_crossings=result.self_crossings,
        mean_px=off.mean_px * factor,
        p95_px=off.p95_px * factor,
        largest_px=off.largest_px * factor,
        gradient_share=result.gradient_share,
        svg="",
        shading=result.shading,
        figure=result.figure,
        inside=tuple(replace(place, x_px=place.x_px * x, y_px=place.y_px * y) for place in result.inside),
        chosen=choices_said(settings, result, yardstick.process),
    )


def rungs(path: Path, settings: TraceSettings) -> list[TraceSettings]:
    """Return the settings of a sketch's ladder."""
    found = None
    if settings.method is Method.FLATS and settings.colours is None:
        found = max(1, len(find_palette(stored_picture(path).rgb).rgb) - 1)
    return rung_settings(settings, found_colours=found)


def common_colours(paths: list[Path], colours: int | None) -> list[str]:
    """Return the colours in which all of some pictures can be drawn, ground included.

    One that is missing or damaged takes nothing from the others.
    """
    pictures = []
    for path in paths:
        with contextlib.suppress(NotFoundError, DamagedError):
            pictures.append(stored_picture(path).rgb)
    found = common_palette(pictures, colours=None if colours is None else colours + 1)
    return [hex_colour(rgb) for rgb in found.rgb]


@lru_cache(maxsize=128)
def doubts(path: Path) -> list[Doubt]:
    """Return the places of a stored picture that will not trace well."""
    return find_doubts(stored_picture(path))
