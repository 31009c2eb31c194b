"""Solid tracing: dark areas of a picture become filled shapes with holes."""

from collections.abc import Callable

import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry import Polygon

from zeichen.core.errors import InvalidInputError
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.methods import Figure, Inside
from zeichen.core.raster.levels import ink_and_paper, level_off_tones
from zeichen.core.raster.picture import Picture
from zeichen.core.tracing.edges.marching_squares import find_contours
from zeichen.core.tracing.edges.subpixel_edges import settle
from zeichen.core.tracing.inside_places import InsidePlace
from zeichen.core.tracing.outlines.non_crossing_fit import count_crossings, fit_soundly
from zeichen.core.tracing.outlines.whole_figure import figure_grey, wants_whole
from zeichen.core.tracing.settings import Trace, TraceSettings, lit_grey
from zeichen.core.tracing.symmetry.repeated_outlines import draw_repeated_alike
from zeichen.core.values import FloatArray

INK = "#24272b"
# More separate outlines than this are a texture, not a figure; fitting them all would take minutes.
_MOST_OUTLINES = 40_000
# Nor is it a figure if so many points of its outlines fall on a pixel.
_MOST_EDGE = 0.6
# With more outlines than this nobody looks for equal ones.
_MOST_COMPARED = 150
# Nor do equal outlines differ by more than this, in the picture's own pixels.
_ALIKE_PX = 0.5
# What is fitted and drawn alike stays within the tolerance as a whole: the fit itself has a little less.
_CLOSER = 0.7


def trace_solid(picture: Picture, settings: TraceSettings, report: Callable[[float], None]) -> Trace:
    """Return the drawing of a picture's dark areas; see trace."""
    whole = settings.figure is Figure.WHOLE
    if settings.figure is Figure.AUTO and settings.level is None and not settings.even_light:
        whole = wants_whole(picture)
    inside: tuple[InsidePlace, ...] = ()
    if whole:
        grey, inside = figure_grey(
            picture.rgb, keeps_inside=settings.inside is Inside.KEEP, turned=settings.turned_inside
        )
        ink, paper, level = 0, 255, 127
    else:
        grey = lit_grey(picture, settings)
        ink, paper = ink_and_paper(grey)
        level = level_off_tones(grey, ink, paper) if settings.level is None else settings.level
    invert = settings.invert and not whole
    contours = find_contours(grey, level=level, invert=invert)
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
    if len(kept) > _MOST_OUTLINES or len(contours.points) > _MOST_EDGE * grey.size:
        raise InvalidInputError(
            f"The picture has {len(kept)} separate outlines, {len(contours.points)} px long: it is texture or noise "
            "rather than a figure. Use a plainer picture, or blur this one."
        )
    report(0.2)
    if invert:
        ink, paper = paper, ink
    edge = settle(grey, contours, ink=ink, paper=paper, level=level + 0.5)
    loops = [edge.contours[int(k)] for k in kept]
    settings_fit = FitSettings(
        tolerance_px=_CLOSER * settings.tolerance_px,
        corner_deg=settings.corner_deg,
        pixel_px=edge.pixel_px,
        blur_px=edge.blur_px,
        noise_px=edge.noise_px,
        aligned=True,
    )
    paths, crossings = fit_soundly(
        loops,
        settings_fit,
        step=lambda share: report(0.2 + 0.5 * share),
        weights=[
            edge.stands_for[edge.contours.starts[k] : edge.contours.starts[k + 1]] for k in kept.tolist()
        ],
        ink=edge.ink,
        safe=[contours[int(k)] for k in kept],
    )
    if crossings == 0 and len(paths) <= _MOST_COMPARED:
        # However coarse the curves may be, equal parts are as alike as the picture shows them.
        near = max(min(settings.tolerance_px, _ALIKE_PX * edge.pixel_px), 4.0 * edge.noise_px)
        alike = draw_repeated_alike(paths, loops, tolerance_px=near, noise_px=edge.noise_px)
        if (
            any(one is not other for one, other in zip(alike, paths, strict=True))
            and count_crossings(alike) == 0
        ):
            paths = alike
    report(0.7)
    shapes = nested_shapes(paths, loops, areas[kept])
    drawing = Drawing(float(picture.width_px), float(picture.height_px), shapes)
    report(1.0)
    return Trace(
        drawing,
        level,
        len(areas) - len(kept),
        crossings,
        curves=tuple(paths),
        boundary=tuple(loops),
        inside=inside,
        figure=Figure.WHOLE if whole else Figure.DARK,
    )


def nested_shapes(paths: list[Path], loops: list[FloatArray], areas: FloatArray) -> tuple[Shape, ...]:
    """Return one shape for each outer path, with the holes that lie directly in it."""
    outers = np.nonzero(areas > 0)[0]
    holes = np.nonzero(areas < 0)[0]
    owner: dict[int, list[int]] = {int(k): [] for k in outers}
    if len(outers) == 1:
        # There is nothing else for them to lie in.
        owner[int(outers[0])] = holes.tolist()
    elif len(holes):
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
