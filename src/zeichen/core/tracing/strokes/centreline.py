"""Centreline tracing: drawn lines become single strokes along their middle, with their width."""

from collections.abc import Callable
from dataclasses import replace

import cv2
import numpy as np

from zeichen.core.errors import InvalidInputError
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.methods import Strokes
from zeichen.core.raster.enlarged import before_enlarging
from zeichen.core.raster.levels import ink_and_paper
from zeichen.core.raster.picture import Picture
from zeichen.core.tracing.outlines.solid import INK, trace_solid
from zeichen.core.tracing.settings import Trace, TraceSettings, lit_grey
from zeichen.core.tracing.strokes.corners import with_corners
from zeichen.core.tracing.strokes.medial_graph import medial_graph, skeleton_edges
from zeichen.core.tracing.strokes.pairing import PenLine, pen_lines
from zeichen.core.tracing.strokes.rims import measured_runs
from zeichen.core.tracing.strokes.shared_ink import own_stretches
from zeichen.core.tracing.strokes.stroke_paths import outline_paths, stroke_path
from zeichen.core.tracing.strokes.uncovered_ink import dashes, with_uncovered
from zeichen.core.tracing.strokes.widths import half_widths, no_lines, widths_of
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# A line's middle may be off by so many times the tolerance, or times its width in px if that is more.
_GIVE, _GIVE_OF_WIDTH = 1.7, 0.1


def trace_centreline(picture: Picture, settings: TraceSettings, report: Callable[[float], None]) -> Trace:
    """Return the drawing of a picture's lines as strokes; see trace."""
    grey = lit_grey(picture, settings)
    ink_level, paper_level = ink_and_paper(grey)
    middle = (ink_level + paper_level) / 2
    level = int(middle) if settings.level is None else settings.level
    values, factor = before_enlarging(grey, (2, 3, 4)) or (grey, 1)
    # The chosen level is half-way between ink and paper: where it is not the middle, lines get fatter or thinner.
    contrast = max(1.0, float(paper_level - ink_level))
    ink = _share_of_ink(values, level + 0.5, -contrast if settings.invert else contrast)
    mask = _without_spots(ink > 0.5, settings.min_spot_px2 / factor**2)
    report(0.1)
    lines, areas, width_px = _lines(ink, mask, report)
    fit = FitSettings(
        tolerance_px=max(_give(width_px) * settings.tolerance_px / factor, 0.05),
        corner_deg=settings.corner_deg,
    )
    drawn: list[tuple[Path, PenLine]] = []
    for number, line in enumerate(lines):
        if number % 32 == 0:
            report(0.5 + 0.4 * number / len(lines))
        drawn.append((stroke_path(line, fit), line))
    return _trace_of(picture, settings, level, factor, areas, drawn)


def _lines(
    ink: FloatArray, mask: BoolArray, report: Callable[[float], None]
) -> tuple[list[PenLine], BoolArray, float]:
    """Return the lines of a picture, the pixels of what is none, and how wide lines usually are, px.

    ink: (height, width), how much ink each pixel holds, 0-1; mask: its pixels.
    """
    half = half_widths(mask)
    edges, places = skeleton_edges(mask)
    widths = widths_of(ink, edges, half)
    areas = no_lines(mask, half, widths)
    lines: list[PenLine] = []
    rest = mask & ~areas
    ink = np.where(areas, 0.0, ink) if areas.any() else ink
    if widths.pen_px is not None:
        lines, rest = dashes(ink, rest, widths.pen_px)
    if not np.array_equal(rest, mask):
        mask = rest
        half = half_widths(mask)
        edges, places = skeleton_edges(mask)
    report(0.3)
    edges, meetings = medial_graph(edges, places, half, widths.pen_px)
    runs = measured_runs(ink, edges, meetings, half)
    if widths.pen_px is not None:
        runs, meetings = own_stretches(runs, meetings, widths.pen_px)
    report(0.4)
    more = pen_lines(ink, runs, meetings, even=widths.pen_px is not None)
    lines += [with_corners(ink, line) for line in more]
    if widths.pen_px is not None:
        lines = with_uncovered(ink, mask, lines, widths.pen_px)
    return lines, areas, widths.usual_px


def _trace_of(
    picture: Picture,
    settings: TraceSettings,
    level: int,
    factor: int,
    areas: AnyArray,
    drawn: list[tuple[Path, PenLine]],
) -> Trace:
    """Return the trace of lines, each a path and what was measured, in own pixels, and of areas that are no lines."""
    scale = float(factor)

    def moved(path: Path) -> Path:
        return path.moved(lambda points: points * scale)

    if settings.strokes is Strokes.OUTLINED:
        fit = FitSettings(max(settings.tolerance_px / factor, 0.05), settings.corner_deg, noise_px=0.05)
        outlines = [outline_paths(line, fit) for _, line in drawn]
        shapes = [Shape("", tuple(moved(path) for path in paths), INK) for paths in outlines if paths]
    else:
        shapes = _short_way(
            [Shape("", (moved(path),), INK, stroke_width=line.width_px * scale) for path, line in drawn]
        )
    shapes = [replace(shape, id=f"s{k}") for k, shape in enumerate(shapes, 1)]
    shapes += _filled(picture, areas, factor, settings, len(shapes))
    if not shapes:
        raise InvalidInputError(
            f"No lines are left at level {level}. Raise the level or lower the smallest spot, or trace it as solid."
        )
    drawing = Drawing(float(picture.width_px), float(picture.height_px), tuple(shapes))
    middles_px = tuple(line.points * scale for _, line in drawn)
    return Trace(drawing, level, 0, 0, 0.0, tuple(moved(path) for path, _ in drawn), middles_px)


def _give(width_px: float) -> float:
    """Return how many times the tolerance the middle of a line may be off: wide lines bear more."""
    return max(_GIVE, _GIVE_OF_WIDTH * width_px)


def _share_of_ink(values: AnyArray, level: float, contrast: float) -> FloatArray:
    """Return how much ink each pixel holds, one half at a level; with a negative contrast light is ink."""
    if values.dtype == np.uint8:
        # Once for every grey there is.
        return np.asarray(cv2.LUT(values, _share_of_ink(np.arange(256.0), level, contrast)))
    return np.asarray(np.clip(0.5 + (level - values) / contrast, 0.0, 1.0))


def _without_spots(mask: BoolArray, least_px2: float) -> BoolArray:
    """Return a mask without its smallest pieces."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    gone = stats[:, cv2.CC_STAT_AREA] < least_px2
    gone[0] = True
    if gone.all():
        raise InvalidInputError(
            "No lines are left at this level. Raise the level or lower the smallest spot."
        )
    return mask & ~gone[labels] if count > np.count_nonzero(~gone) + 1 else mask


def _short_way(shapes: list[Shape]) -> list[Shape]:
    """Return strokes in an order that travels little between them, turned round where that helps."""
    left = list(range(len(shapes)))
    ends = np.array([[s.paths[0].segments[0, 0], s.paths[0].segments[-1, 3]] for s in shapes]).reshape(
        -1, 2, 2
    )
    at = np.zeros(2)
    out: list[Shape] = []
    while left:
        gaps = np.linalg.norm(ends[left] - at, axis=2)
        k, side = np.unravel_index(int(gaps.argmin()), gaps.shape)
        number = left.pop(int(k))
        shape = shapes[number]
        path = shape.paths[0]
        if side == 1 and not path.closed:
            shape = replace(shape, paths=(Path(bezier.reverse(path.segments), closed=False),))
        out.append(shape)
        at = shape.paths[0].segments[-1, 3]
    return out


def _filled(
    picture: Picture, thick: AnyArray, factor: int, settings: TraceSettings, taken: int
) -> list[Shape]:
    """Return the outlines of areas too thick to be lines."""
    if not thick.any():
        return []
    large = np.kron(thick.astype(np.uint8), np.ones((factor, factor), np.uint8))
    large = cv2.dilate(large, np.ones((2 * factor + 1, 2 * factor + 1), np.uint8))
    rgb = picture.rgb.copy()
    rgb[large == 0] = 0 if settings.invert else 255
    try:
        solid = trace_solid(Picture(rgb), settings, lambda share: None)
    except InvalidInputError:
        return []
    return [replace(shape, id=f"f{taken + k}") for k, shape in enumerate(solid.drawing.shapes, 1)]
