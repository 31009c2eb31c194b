"""What workers do for tickets and packs: from stored drawings and settings to files."""

import base64
from dataclasses import dataclass, fields
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from pydantic import TypeAdapter, ValidationError

from zeichen.core.errors import InvalidInputError, ZeichenError
from zeichen.core.formats.picture import write_png
from zeichen.core.formats.render import render_drawing
from zeichen.core.formats.svg_reading import read_svg
from zeichen.core.geometry.placement import at_true_size
from zeichen.core.making import apparel, carve, laser, relief
from zeichen.core.making.product import Product
from zeichen.core.packing import Listing, PackItem, make_pack
from zeichen.core.values import require_number
from zeichen.jobs.tasks import Step
from zeichen.standins.laser import LaserMachine, rehearse
from zeichen.store.files import read_stored

Settings = laser.LaserSettings | carve.CarveSettings | relief.ReliefSettings | apparel.ApparelSettings
_SETTINGS: dict[str, type[Any]] = {
    "laser": laser.LaserSettings,
    "carve": carve.CarveSettings,
    "relief": relief.ReliefSettings,
    "apparel": apparel.ApparelSettings,
}
_PREVIEW_PX = 900
# The print file is 5400 px high; a sixth of it is plenty for the screen.
_APPAREL_SHRINK = 6


@dataclass(frozen=True, slots=True)
class SolidPart:
    """One coloured solid for the screen: float32 positions and uint32 triangles, little-endian, base64."""

    name: str
    colour: str
    positions: str
    triangles: str


@dataclass(frozen=True, slots=True)
class SolidData:
    """The parts of a relief, mm, all with one origin."""

    parts: list[SolidPart]


def product_settings(process: str, values: dict[str, Any]) -> Settings:
    """Return the settings of a process from loose values.

    Raises
    ------
    InvalidInputError
        If the process or a setting is unknown, or a value does not fit.

    Examples
    --------
    >>> product_settings("laser", {"cut": "none", "spacing_mm": 0.2}).spacing_mm
    0.2
    """
    kind = _SETTINGS.get(process)
    if kind is None:
        raise InvalidInputError(f"There is no process {process}. Use {', '.join(_SETTINGS)}.")
    known = [item.name for item in fields(kind)]
    unknown = set(values) - set(known)
    if unknown:
        raise InvalidInputError(
            f"There is no setting {', '.join(sorted(unknown))} for {process}. The settings are: {', '.join(known)}."
        )
    try:
        chosen: Settings = TypeAdapter(kind).validate_python(values)
    except ValidationError as error:
        first = error.errors()[0]
        cause = first.get("ctx", {}).get("error")
        if isinstance(cause, ZeichenError):
            raise cause from error
        name = " ".join(str(part) for part in first["loc"]).replace("_", " ")
        raise InvalidInputError(f"{name.capitalize()}: {first['msg']}.") from error
    return chosen


def require_order(process: str, width_mm: float, values: dict[str, Any]) -> None:
    """Raise InvalidInputError if an order could not be made of any drawing: what can be said before any work."""
    require_number(
        width_mm, "Width", above=0, most=10_000, unit="mm", advice="Enter the finished width of the figure."
    )
    product_settings(process, values)


def make_product(
    path: Path,
    process: str,
    width_mm: float,
    title: str,
    values: dict[str, Any],
    blank_mm: tuple[float, float] | None,
    step: Step,
) -> tuple[Product, dict[str, Any], bytes]:
    """Return the files of a ticket, its rehearsal and a picture of it (PNG)."""
    settings = product_settings(process, values)
    drawing = read_svg(read_stored(path)).shown()
    step(0.1)
    if isinstance(settings, laser.LaserSettings):
        product = laser.make_laser(drawing, settings, width_mm=width_mm, title=title, blank_mm=blank_mm)
        step(0.5)
        rehearsal, preview = _rehearse_laser(product, settings)
        rehearsal["page_mm"] = blank_mm
    elif isinstance(settings, apparel.ApparelSettings):
        product = apparel.make_apparel(drawing, settings, width_mm=width_mm)
        rehearsal, preview = {}, _shrunk(product.files[0].data)
    else:
        if isinstance(settings, carve.CarveSettings):
            product = carve.make_carve(drawing, settings, width_mm=width_mm)
        else:
            product = relief.make_relief(drawing, settings, width_mm=width_mm, title=title)
        placed = at_true_size(drawing, width_mm=width_mm)
        rehearsal, preview = {}, write_png(render_drawing(placed, width_px=_PREVIEW_PX))
    step(1.0)
    return product, rehearsal, preview


def relief_mesh(path: Path, width_mm: float, values: dict[str, Any]) -> SolidData:
    """Return the parts of a relief for the screen."""
    settings = product_settings("relief", values)
    assert isinstance(settings, relief.ReliefSettings)
    parts = relief.relief_parts(read_svg(read_stored(path)).shown(), settings, width_mm=width_mm)
    return SolidData(
        [
            SolidPart(
                part.name,
                part.colour,
                base64.b64encode(part.mesh.vertices_mm.astype("<f4").tobytes()).decode(),
                base64.b64encode(part.mesh.triangles.astype("<u4").tobytes()).decode(),
            )
            for part in parts
        ]
    )


def pack_drawings(items: list[tuple[str, Path]], listing: Listing, width_mm: float, step: Step) -> bytes:
    """Return the ZIP of a pack."""
    parts = []
    for number, (name, path) in enumerate(items):
        step(0.3 * number / max(len(items), 1))
        parts.append(PackItem(name, read_svg(read_stored(path)).shown(), width_mm))
    data = make_pack(parts, listing)
    step(1.0)
    return data


def _rehearse_laser(product: Product, settings: laser.LaserSettings) -> tuple[dict[str, Any], bytes]:
    machine = LaserMachine(acceleration_mm_s2=settings.acceleration_mm_s2)
    run = rehearse(product.files[1].data.decode(), machine)
    operations = [
        {"name": name or "travel", "seconds": seconds} for name, seconds in run.operations if seconds > 0.05
    ]
    figures = {
        "seconds": run.seconds,
        "bounds_mm": run.bounds_mm,
        "burned_mm": run.burned_mm,
        "travel_mm": run.travel_mm,
        "operations": operations,
        "picture_bounds_mm": run.picture_bounds_mm,
        "bed_mm": (machine.bed_width_mm, machine.bed_height_mm),
        "engraves_first": run.engraves_first,
        "inner_first": run.inner_first,
        "warnings": list(run.warnings),
    }
    return figures, write_png(np.ascontiguousarray(cv2.cvtColor(run.picture, cv2.COLOR_GRAY2RGB)))


def _shrunk(png: bytes) -> bytes:
    full = cv2.imdecode(np.frombuffer(png, np.uint8), cv2.IMREAD_UNCHANGED)
    assert full is not None, "the PNG was written a moment ago"
    size = (full.shape[1] // _APPAREL_SHRINK, full.shape[0] // _APPAREL_SHRINK)
    small = cv2.resize(full, size, interpolation=cv2.INTER_AREA)
    return write_png(np.asarray(cv2.cvtColor(small, cv2.COLOR_BGRA2RGBA), dtype=np.uint8))
