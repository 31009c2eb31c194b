"""Centreline tracing: drawn lines become single strokes along their middle, with their width."""

from collections.abc import Callable
from dataclasses import replace

import cv2
import numpy as np
import shapely
from shapely.geometry import LineString

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
from zeichen.core.tracing.strokes.dashes import short_dashes
from zeichen.core.tracing.strokes.hooks import with_hooks
from zeichen.core.tracing.strokes.knots import sound_runs
from zeichen.core.tracing.strokes.left_over import drawn, with_what_is_left
from zeichen.core.tracing.strokes.meetings import Stroke, joined_strokes, tracks_into_knots
from zeichen.core.tracing.strokes.pairing import PenLine
from zeichen.core.tracing.strokes.pen_drawing import (
    changes_width,
    drawn_lines,
    outline_paths,
    stroke_path,
    width_quantiles,
)
from zeichen.core.tracing.strokes.pen_room import within_ink
from zeichen.core.tracing.strokes.skeleton import Skeleton, half_widths, skeleton_of
from zeichen.core.tracing.strokes.small_rings import enlarged_rings
from zeichen.core.tracing.strokes.stroke_ends import ended_strokes
from zeichen.core.tracing.strokes.stroke_fit import fitted_stroke
from zeichen.core.values import AnyArray, FloatArray

# Areas thicker than this many line widths are not lines.
_THICK = 1.7
# What reaches no further than this many is a spot, if it is no dash.
_SPOT = 1.6
# Strokes that explain a thick part are drawn so much wider, px.
_WIDER_PX = 1.5
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
    mask, smallest = _without_spots(ink > 0.5, settings.min_spot_px2 / factor**2)
    report(0.1)
    half = half_widths(mask)
    skeleton = skeleton_of(mask, half)
    soft = ink.astype(np.float32)
    widths = width_quantiles(soft, skeleton)
    if changes_width(widths):
        report(0.3)
        lines, areas = drawn_lines(soft, mask, half, widths)
        fit = _middle_fit(float(widths[1]), settings, factor)
        return _trace_of(
            picture, settings, level, factor, areas, [(stroke_path(line, fit), line) for line in lines]
        )
    dashes, mask, skeleton = short_dashes(mask, ink, skeleton, smallest)
    thick = _thick(mask, half, smallest, skeleton.width_px)
    report(0.3)
    strokes = _strokes(ink, skeleton)
    if thick.any():
        thick = _unexplained(thick, strokes, skeleton.width_px)
        if thick.any():
            rest = mask & ~thick
            skeleton = skeleton_of(rest, half_widths(rest), width_px=skeleton.width_px)
            ink = np.where(thick, 0.0, ink)
            strokes = _strokes(ink, skeleton)
    strokes = with_what_is_left(strokes, mask & ~thick, half, skeleton.width_px)
    # What is left may be where a line turned back at its end.
    strokes = with_hooks(strokes, ink) + dashes
    report(0.5)
    fit = _middle_fit(skeleton.width_px, settings, factor)
    drawn: list[tuple[Path, PenLine]] = []
    for number, stroke in enumerate(strokes):
        if number % 32 == 0:
            report(0.5 + 0.4 * number / len(strokes))
        path = within_ink(fitted_stroke(stroke, fit, half, ink), stroke.points, half, stroke.width)
        usual = np.full(len(stroke.points), stroke.width / 2)
        drawn.append((path, PenLine(stroke.points, usual, stroke.closed, [])))
    return _trace_of(picture, settings, level, factor, thick, drawn)


def _middle_fit(width_px: float, settings: TraceSettings, factor: int) -> FitSettings:
    """Return how closely curves follow the middle of lines of a width."""
    return FitSettings(
        tolerance_px=max(_give(width_px) * settings.tolerance_px / factor, 0.05),
        corner_deg=settings.corner_deg,
        stroke_px=width_px,
        noise_px=0.02,
    )


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


def _without_spots(mask: AnyArray, least_px2: float) -> tuple[AnyArray, int]:
    """Return a mask without its smallest pieces, and how far the smallest that is left reaches, px."""
    outlines, order = cv2.findContours(mask.astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_SIMPLE)
    reach = [
        max(cv2.boundingRect(outline)[2:])
        for outline, (_, _, _, around) in zip(outlines, order[0] if len(outlines) else (), strict=True)
        if around < 0
    ]
    if reach and min(reach) >= least_px2:
        # A connected piece has at least as many pixels as it is long; to count them takes five times as long.
        return mask, min(reach)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    gone = stats[:, cv2.CC_STAT_AREA] < least_px2
    gone[0] = True
    if gone.all():
        raise InvalidInputError(
            "No lines are left at this level. Raise the level or lower the smallest spot."
        )
    if count > np.count_nonzero(~gone) + 1:
        mask = mask & ~gone[labels]
    return mask, int(stats[~gone][:, [cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]].max(axis=1).min())


def _thick(mask: AnyArray, half: FloatArray, smallest_px: int, width: float) -> AnyArray:
    """Return the parts of a mask that are too thick to be a line, and spots no longer than wide.

    smallest_px: how far the smallest piece of the mask reaches.
    """
    seeds = half > 0.5 * _THICK * width + 0.5
    thick = np.zeros_like(mask)
    if seeds.any():
        # Every pixel within a seed's own disc, and the rim that thinning would take for a line.
        far = cv2.distanceTransform((~seeds).astype(np.uint8), cv2.DIST_L2, 5)
        thick = mask & (far <= 0.5 * _THICK * width + 1.5)
    if smallest_px >= _SPOT * width:
        return thick
    _, labels, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    spots = stats[:, [cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]].max(axis=1) < _SPOT * width
    spots[0] = False
    return np.asarray(thick | spots[labels])


def _unexplained(thick: AnyArray, strokes: list[Stroke], width: float) -> AnyArray:
    """Return the thick parts of a mask that are not just lines lying across each other."""
    left = half_widths(thick & (drawn(strokes, thick.shape, _WIDER_PX) == 0))
    _, labels = cv2.connectedComponents(thick.astype(np.uint8), connectivity=8)
    wide = np.unique(labels[(left > 0.4 * width + 0.5) & thick])
    return np.asarray(np.isin(labels, wide[wide > 0]))


def _strokes(ink: FloatArray, skeleton: Skeleton) -> list[Stroke]:
    """Return the strokes along the true middle of the lines, ends included."""
    rings, skeleton = enlarged_rings(ink, skeleton, _strokes)
    runs, knots = sound_runs(ink, skeleton)
    tracks = tracks_into_knots(ink, runs, knots)
    strokes = ended_strokes(joined_strokes(ink, runs, knots, tracks), tracks, ink)
    return _without_echoes(strokes, skeleton.width_px) + rings


def _without_echoes(strokes: list[Stroke], width: float) -> list[Stroke]:
    """Leave out short strokes that lie within others: what thinning makes of a merging."""
    lines = [LineString(s.points if len(s.points) > 1 else np.vstack([s.points, s.points])) for s in strokes]
    tree = shapely.STRtree(lines)
    gone: set[int] = set()
    for number in sorted(range(len(strokes)), key=lambda k: lines[k].length):
        stroke = strokes[number]
        if stroke.closed or lines[number].length > 2.5 * width:
            continue
        near = tree.query(lines[number], predicate="dwithin", distance=0.4 * width)
        others = [lines[int(k)] for k in near if int(k) != number and int(k) not in gone]
        if others:
            away = shapely.distance(shapely.points(stroke.points), shapely.union_all(others))
            if away.max() < 0.4 * width:
                gone.add(number)
    return [stroke for number, stroke in enumerate(strokes) if number not in gone]


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
