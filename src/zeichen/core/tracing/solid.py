"""Solid tracing: dark areas of a picture become filled shapes with holes."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry import Polygon

from zeichen.core.errors import InvalidInputError, NotYetError
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.raster.levels import edge_level
from zeichen.core.raster.picture import Picture
from zeichen.core.tracing.boundary import find_contours
from zeichen.core.tracing.curve_fit import FitSettings
from zeichen.core.tracing.deviation import Deviation, measure_deviation
from zeichen.core.tracing.sound_fit import fit_soundly
from zeichen.core.values import FloatArray, require_number

INK = "#24272b"
# More separate outlines than this are a texture, not a figure; fitting them all would take minutes.
_MOST_OUTLINES = 40_000


class Method(StrEnum):
    """The three ways of tracing."""

    SOLID = "solid"
    FLATS = "flats"
    CENTRELINE = "centreline"


@dataclass(frozen=True, slots=True)
class TraceSettings:
    """What the maker chooses. Lengths in picture pixels.

    level: grey up to this is dark, 0-255; None finds it.
    min_spot_px2: areas (dark or light) smaller than this are dropped.
    tolerance_px: how far curves may leave the picture's boundary.
    corner_deg: turns sharper than this stay corners.
    invert: trace light on dark.
    """

    method: Method = Method.SOLID
    level: int | None = None
    min_spot_px2: float = 16.0
    tolerance_px: float = 0.25
    corner_deg: float = 32.0
    invert: bool = False

    def __post_init__(self) -> None:
        if self.level is not None:
            require_number(self.level, "Level", least=0, most=255, advice="0 is black, 255 is white.")
        require_number(self.min_spot_px2, "Smallest spot", least=0, most=1e7, unit="px²")
        FitSettings(tolerance_px=self.tolerance_px, corner_deg=self.corner_deg)


@dataclass(frozen=True, slots=True)
class Trace:
    """A finished trace and what was measured on the way."""

    drawing: Drawing
    level: int
    dropped_spots: int
    deviation: Deviation
    self_crossings: int


def trace(picture: Picture, settings: TraceSettings, *, step: Callable[[float], None] | None = None) -> Trace:
    """Return the drawing of a picture.

    Parameters
    ----------
    picture : Picture
    settings : TraceSettings
    step : function of a share 0-1, optional
        Called now and then with how much is done; may raise to stop the work.

    Raises
    ------
    InvalidInputError
        If the picture has one tone only, nothing is left at this level, or there are more than
        40,000 outlines.
    NotYetError
        For the methods that are not built yet.
    """
    if settings.method is not Method.SOLID:
        raise NotYetError(
            f"Tracing by {settings.method.value} is not built yet. Use the method solid for now."
        )
    report = step or (lambda share: None)
    report(0.0)
    grey = picture.grey()
    auto = edge_level(grey)
    level = auto if settings.level is None else settings.level
    contours = find_contours(grey, level=level, invert=settings.invert)
    areas = contours.areas()
    kept = np.nonzero(np.abs(areas) >= max(settings.min_spot_px2, 1e-6))[0]
    if len(kept) == 0:
        raise InvalidInputError(
            f"Nothing dark is left at level {level}"
            + (
                f": all {len(areas)} spots are smaller than {settings.min_spot_px2:g} px²."
                if len(areas)
                else "."
            )
            + " Raise the level or lower the smallest spot."
        )
    if len(kept) > _MOST_OUTLINES:
        raise InvalidInputError(
            f"The picture has {len(kept)} separate outlines, more than the {_MOST_OUTLINES} Zeichen fits: it is "
            "texture or noise rather than a figure. Raise the smallest spot, or use a plainer picture."
        )
    report(0.2)
    loops = [contours[int(k)] for k in kept]
    settings_fit = FitSettings(tolerance_px=settings.tolerance_px, corner_deg=settings.corner_deg)
    paths, crossings = fit_soundly(loops, settings_fit, step=lambda share: report(0.2 + 0.5 * share))
    report(0.7)
    shapes = _nest(paths, loops, areas[kept])
    drawing = Drawing(float(picture.width_px), float(picture.height_px), shapes)
    deviation = measure_deviation(paths, loops)
    report(1.0)
    return Trace(drawing, level, len(areas) - len(kept), deviation, crossings)


def warm_up() -> None:
    """Load the compiled kernels, so that the first real picture does not wait for them."""
    rgb = np.full((24, 24, 3), 255, dtype=np.uint8)
    rgb[6:18, 6:18] = 0
    trace(Picture(rgb), TraceSettings())


def _nest(paths: list[Path], loops: list[FloatArray], areas: FloatArray) -> tuple[Shape, ...]:
    """Return one shape for each outer path, with the holes that lie directly in it."""
    outers = np.nonzero(areas > 0)[0]
    holes = np.nonzero(areas < 0)[0]
    owner: dict[int, list[int]] = {int(k): [] for k in outers}
    if len(holes):
        polygons = [Polygon(loops[int(k)]) for k in outers]
        tree = STRtree(polygons)
        inside, around = tree.query(shapely.points([loops[int(h)][0] for h in holes]), predicate="within")
        best: dict[int, int] = {}
        for hole, polygon in zip(inside.tolist(), around.tolist(), strict=True):
            if hole not in best or polygons[polygon].area < polygons[best[hole]].area:
                best[hole] = polygon
        for hole, polygon in best.items():
            owner[int(outers[polygon])].append(int(holes[hole]))
    ordered = sorted(owner, key=lambda k: -areas[k])
    return tuple(
        Shape(f"s{number}", (paths[outer], *(paths[h] for h in sorted(owner[outer]))), INK)
        for number, outer in enumerate(ordered, 1)
    )
