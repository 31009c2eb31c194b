"""Flat tracing: areas of one colour each, their borders shared.

The picture's few colours are found, every pixel is given one, and the borders between the areas
become a planar map. Each arc of the map is moved onto the edge it stands for and fitted once; the
shapes are then put together from the arcs, so neighbours meet without gap or overlap at any zoom.
"""

import math
from collections.abc import Callable
from itertools import pairwise

import cv2
import numpy as np

from zeichen.core.errors import InvalidInputError
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Drawing, Path, Shape
from zeichen.core.geometry.polygons import is_simple
from zeichen.core.methods import Borders, Inside, Shading
from zeichen.core.raster.colours import find_palette, hex_colour
from zeichen.core.raster.enlarged import before_enlarging
from zeichen.core.raster.picture import Picture, not_larger
from zeichen.core.raster.shading import Shaded, read_shading
from zeichen.core.tracing.edges.subpixel_edges import Edges
from zeichen.core.tracing.inside_places import InsidePlace, enclosed_only, kept_inside
from zeichen.core.tracing.regions.boundary_chains import along, ring
from zeichen.core.tracing.regions.boundary_fitting import Borders as FittedBorders
from zeichen.core.tracing.regions.boundary_fitting import course_points, draw_on_cracks, fit_borders
from zeichen.core.tracing.regions.labelling import label_pixels, regions_of, seen_as_light
from zeichen.core.tracing.regions.planar_map import PlanarMap, map_of
from zeichen.core.tracing.regions.shading import in_steps, taken_out
from zeichen.core.tracing.regions.trapping import underlaid
from zeichen.core.tracing.settings import Trace, TraceSettings
from zeichen.core.values import AnyArray, BoolArray, Bytes8Array, FloatArray, rgb_colours, value_below

# With more areas a picture is texture or noise, and tracing it takes minutes (our own rule).
_MOST_AREAS = 5_000
# Share of the sheet's rim that a colour must fill to be the ground.
_GROUND_RIM = 0.5
# Nor pixels this far from any mixture of the two colours, as a share of their contrast.
_ASIDE = 0.02
_PLAIN = 0.06
# Borders may be so many times the tolerance off their points, or so much more than it.
_GIVE, _MOST_GIVE_PX = 2.7, 0.35
# Pictures of which less changes steadily, and whose copy of so many px a side shows nothing that does, are flat. Of
# their pixels so many at most are looked at for shading: at 6 million it takes 600 MB, and nobody sees the edges of
# larger ones.
_MAYBE_SHADED, _GLANCE_PX = 0.01, 320
_MOST_SHADED_PX = 6_000_000
# Enlarged pictures had sides of so many pixels at least.
_LEAST_OWN_PX = 32


def trace_flats(picture: Picture, settings: TraceSettings, report: Callable[[float], None]) -> Trace:
    """Return the drawing of a picture's flat colours; see trace."""
    rgb, factor = _own_pixels(picture.rgb)
    shading: Shading | None = None
    palette, gradients = _palette(rgb, settings)
    if gradients > _MAYBE_SHADED or read_shading(not_larger(rgb, _GLANCE_PX)).is_shaded:
        small, fewer = _not_too_large(rgb)
        shaded = read_shading(small)
        if shaded.is_shaded:
            rgb, palette = _unshaded(shaded, settings)
            gradients, factor = shaded.share, factor * fewer
            shading = Shading.OUT if settings.shading is Shading.OUT else Shading.STEPS
    labels = label_pixels(rgb, palette, min_spot_px2=settings.min_spot_px2 / factor**2)
    ground = ground_label(labels)
    report(0.2)
    regions, count = regions_of(labels)
    if count > _MOST_AREAS:
        raise InvalidInputError(
            f"The picture falls into {count} areas, more than the {_MOST_AREAS} Zeichen draws: it is texture or "
            "noise rather than flat colour. Raise the smallest spot, or choose fewer colours."
        )
    colour_of = np.zeros(count, np.int64)
    colour_of[regions.ravel()] = labels.ravel()
    drawn, inside = _drawn(regions, colour_of, ground, settings, factor)
    if not drawn.any():
        raise InvalidInputError(
            "The picture is all ground: there is no figure to trace. Bring in a picture with a figure on a plain "
            "ground, or keep the ground."
        )
    planar = map_of(regions)
    light = seen_as_light(rgb)
    borders = _fitted_borders(light, labels, palette, planar, settings, factor, report)
    report(0.8)
    shapes, crossings = _assembled(planar, borders, drawn, colour_of, palette)
    if crossings:
        draw_on_cracks(borders)
        shapes, crossings = _assembled(planar, borders, drawn, colour_of, palette)
    scale = float(factor)
    shapes = tuple(
        Shape(shape.id, tuple(path.moved(lambda points: points * scale) for path in shape.paths), shape.fill)
        for shape in shapes
    )
    if settings.borders is Borders.UNDERLAID:
        shapes = underlaid(shapes, settings.underlay_px)
    drawing = Drawing(float(picture.width_px), float(picture.height_px), shapes)
    inner = [course for course in borders.courses if borders.inside[course.arcs[0][0]]]
    curves = [Path(course.curves * scale, closed=course.closed) for course in inner]
    boundary = [course_points(borders, course) * scale for course in inner]
    return Trace(drawing, 0, 0, crossings, gradients, tuple(curves), tuple(boundary), inside, shading)


def _drawn(
    regions: AnyArray, colour_of: AnyArray, ground: int | None, settings: TraceSettings, factor: int
) -> tuple[BoolArray, tuple[InsidePlace, ...]]:
    """Return which areas become shapes, and the places of the ground's colour that others enclose."""
    drawn = np.ones(len(colour_of), bool)
    if ground is None or settings.keep_ground:
        return drawn, ()
    enclosed = enclosed_only(regions, colour_of == ground)
    drawn = colour_of != ground
    keeps = settings.inside is Inside.KEEP
    if settings.inside is Inside.AUTO and settings.colours is not None:
        # One more colour was asked for than the figure has beside the ground's: what it encloses counts.
        keeps = len(np.unique(colour_of[drawn])) < settings.colours
    kept, places = kept_inside(regions, enclosed, settings.turned_inside, factor, keeps=keeps)
    return drawn | kept, places


def _own_pixels(rgb: Bytes8Array) -> tuple[Bytes8Array, int]:
    """Return the picture before it was enlarged, and how many times it was."""
    found = before_enlarging(
        rgb, (factor for factor in (2, 3, 4) if min(rgb.shape[:2]) >= _LEAST_OWN_PX * factor)
    )
    if found is None:
        return rgb, 1
    return np.clip(found[0] + 0.5, 0, 255).astype(np.uint8), found[1]


def _not_too_large(rgb: Bytes8Array) -> tuple[Bytes8Array, int]:
    """Return a picture small enough to tell its shading in, and how many of its pixels a side became one."""
    fewer = math.ceil(math.sqrt(rgb.shape[0] * rgb.shape[1] / _MOST_SHADED_PX))
    if fewer <= 1:
        return rgb, 1
    height, width = rgb.shape[:2]
    padded = cv2.copyMakeBorder(rgb, 0, -height % fewer, 0, -width % fewer, cv2.BORDER_REPLICATE)
    size = (padded.shape[1] // fewer, padded.shape[0] // fewer)
    return np.asarray(cv2.resize(padded, size, interpolation=cv2.INTER_AREA)), fewer


def _unshaded(shaded: Shaded, settings: TraceSettings) -> tuple[Bytes8Array, FloatArray]:
    """Return a shaded picture in flat colours, and those."""
    chosen = _chosen_palette(shaded.rgb, settings) if settings.palette else None
    if settings.shading is Shading.OUT:
        flat, palette = taken_out(shaded, settings.tone, settings.colours, chosen)
    else:
        flat, palette = in_steps(shaded, settings.colours, chosen)
    return np.clip(flat + 0.5, 0, 255).astype(np.uint8), palette


def _palette(rgb: Bytes8Array, settings: TraceSettings) -> tuple[FloatArray, float]:
    """Return the colours to draw with (ground included) and the share of gradients."""
    if settings.palette:
        return _chosen_palette(rgb, settings), find_palette(rgb, colours=None).gradient_share
    found = find_palette(rgb, colours=None if settings.colours is None else settings.colours + 1)
    return found.rgb, found.gradient_share


def _chosen_palette(rgb: Bytes8Array, settings: TraceSettings) -> FloatArray:
    chosen = rgb_colours(settings.palette)
    # The ground keeps its own colour unless the palette has it.
    ground = _rim_colour(rgb)
    return chosen if np.abs(chosen - ground).max(axis=1).min() <= 24 else np.vstack([ground[None], chosen])


def _rim_colour(rgb: Bytes8Array) -> FloatArray:
    rim = np.concatenate([rgb[0], rgb[-1], rgb[:, 0], rgb[:, -1]])
    return np.asarray(np.median(rim, axis=0), dtype=np.float64)


def ground_label(labels: AnyArray) -> int | None:
    """Return the colour that fills most of the rim of labels (height, width), None if none does."""
    rim = np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]])
    counts = np.bincount(rim)
    best = int(counts.argmax())
    return best if counts[best] >= _GROUND_RIM * len(rim) else None


def _fitted_borders(
    light: FloatArray,
    labels: AnyArray,
    palette: FloatArray,
    planar: PlanarMap,
    settings: TraceSettings,
    factor: int,
    report: Callable[[float], None],
) -> FittedBorders:
    colours = seen_as_light(palette)
    points, right, left = _crossings(light, labels, colours, planar)
    inside = (planar.right >= 0) & (planar.left >= 0)
    edges = Edges(light, labels, colours, planar.starts, planar.start < 0, right, left)
    inner = np.repeat(inside, np.diff(planar.starts))
    blur = edges.estimate_blur(points)[0] if inner.any() else 0.0
    moved, left_over = edges.settled(points, blur, rounds=3)
    points = np.where(inner[:, None], moved, points)
    # Where a third colour or a tip is near, the profile of a plain edge does not fit and the point is no witness.
    plain = left_over < max(_PLAIN, 3.0 * value_below(left_over[inner], 0.5) if inner.any() else 0.0)
    aside = _beside_mixtures(light, colours, planar, right, left)
    plain &= aside < max(_ASIDE, 4.0 * value_below(aside[inner], 0.5) if inner.any() else 0.0)
    tolerance = settings.tolerance_px / factor
    fit = FitSettings(
        # Borders between pale colours err more than ink on paper, but however coarse a drawing may be by no more.
        tolerance_px=max(min(_GIVE * tolerance, tolerance + _MOST_GIVE_PX), 0.05),
        corner_deg=settings.corner_deg,
        blur_px=blur,
        noise_px=edges.noise(points),
    )
    report(0.3)
    own = [points[a:b] for a, b in pairwise(planar.starts)]
    witness = [plain[a:b] for a, b in pairwise(planar.starts)]
    return fit_borders(planar, edges, own, witness, fit, lambda share: report(0.3 + 0.5 * share))


def _both_sides(planar: PlanarMap) -> tuple[AnyArray, AnyArray, AnyArray, AnyArray]:
    """Return row and column of the pixels right and left of each crack; on the sheet's rim one lies outside."""
    x, y = planar.at[:, 0], planar.at[:, 1]
    return (
        y + np.array([0, 0, -1, -1])[planar.direction],
        x + np.array([0, -1, -1, 0])[planar.direction],
        y + np.array([-1, 0, 0, -1])[planar.direction],
        x + np.array([0, 0, -1, -1])[planar.direction],
    )


def _beside_mixtures(
    light: FloatArray, colours: FloatArray, planar: PlanarMap, right: AnyArray, left: AnyArray
) -> FloatArray:
    """Return how far each crack's two pixels are from any mixture of its two colours, as a share of the contrast."""
    towards = colours[right] - colours[left]
    size = np.maximum(np.sqrt((towards**2).sum(axis=1)), 1e-9)
    direction = towards / size[:, None]
    height, width = light.shape[:2]
    furthest = np.zeros(len(right))
    rows = _both_sides(planar)
    for row, column in (rows[:2], rows[2:]):
        off = light[np.clip(row, 0, height - 1), np.clip(column, 0, width - 1)] - colours[left]
        off = off - direction * (off * direction).sum(axis=1)[:, None]
        furthest = np.maximum(furthest, np.sqrt((off**2).sum(axis=1)) / size)
    return furthest


def _crossings(
    rgb: FloatArray, labels: AnyArray, palette: FloatArray, planar: PlanarMap
) -> tuple[FloatArray, AnyArray, AnyArray]:
    """Return where each crack's two pixels say the edge runs between them, and their colours."""
    height, width = labels.shape
    row, column, other_row, other_column = _both_sides(planar)
    in_right = (row >= 0) & (row < height) & (column >= 0) & (column < width)
    in_left = (other_row >= 0) & (other_row < height) & (other_column >= 0) & (other_column < width)
    r, c = np.clip(row, 0, height - 1), np.clip(column, 0, width - 1)
    rr, cc = np.clip(other_row, 0, height - 1), np.clip(other_column, 0, width - 1)
    right, left = labels[r, c].astype(np.int64), labels[rr, cc].astype(np.int64)
    towards = palette[right] - palette[left]
    square = np.maximum((towards**2).sum(axis=1), 1e-9)
    share_right = ((rgb[r, c] - palette[left]) * towards).sum(axis=1) / square
    share_left = ((rgb[rr, cc] - palette[left]) * towards).sum(axis=1) / square
    gap = share_right - share_left
    t = np.where(gap > 0.05, (0.5 - share_left) / np.where(gap > 0.05, gap, 1.0), 0.5)
    t = np.where(in_right & in_left, np.clip(t, 0.02, 0.98), 0.5)[:, None]
    near = np.stack([other_column + 0.5, other_row + 0.5], axis=1)
    far = np.stack([column + 0.5, row + 0.5], axis=1)
    return near + t * (far - near), right, left


def _assembled(
    planar: PlanarMap, borders: FittedBorders, drawn: AnyArray, colour_of: AnyArray, palette: FloatArray
) -> tuple[tuple[Shape, ...], int]:
    """Return a shape for each drawn area, put together from the arcs around it, and how many cross themselves."""
    where = along(borders.courses)
    rings: dict[int, list[FloatArray]] = {}
    leaving: dict[tuple[int, int, int], tuple[int, bool]] = {}
    for k in range(len(planar)):
        first, last = planar.starts[k], planar.starts[k + 1] - 1
        for region, forward in ((int(planar.right[k]), True), (int(planar.left[k]), False)):
            if region < 0 or not drawn[region]:
                continue
            if planar.start[k] < 0:
                rings.setdefault(region, []).append(ring([(k, forward)], borders.courses, where))
            else:
                junction = int(planar.start[k] if forward else planar.end[k])
                direction = int(planar.direction[first] if forward else (planar.direction[last] + 2) % 4)
                leaving[region, junction, direction] = (k, forward)
    left = dict(leaving)
    while left:
        key = next(iter(left))
        region = key[0]
        runs: list[tuple[int, bool]] = []
        while key in left:
            k, forward = left.pop(key)
            runs.append((k, forward))
            junction = int(planar.end[k] if forward else planar.start[k])
            direction = int(
                planar.direction[planar.starts[k + 1] - 1]
                if forward
                else (planar.direction[planar.starts[k]] + 2) % 4
            )
            # With the area on the right. Where it touches itself its rim goes on by the leftmost way: as two rings
            # that meet there, for one would touch itself.
            turns = [(region, junction, (direction + turn) % 4) for turn in (3, 0, 1)]
            key = next(turn for turn in turns if turn in leaving)
        rings.setdefault(region, []).append(ring(runs, borders.courses, where))
    shapes: list[Shape] = []
    crossings = 0
    for region in sorted(rings, key=lambda r: -sum(bezier.signed_area(run) for run in rings[r])):
        # An arc so short that its fit has no length leaves nothing to draw.
        paths = sorted((Path(run) for run in rings[region] if len(run)), key=lambda path: -path.area)
        if not paths:
            continue
        crossings += sum(not is_simple(path, tolerance=0.02) for path in paths)
        fill = hex_colour(palette[colour_of[region]])
        shapes.append(Shape(f"s{len(shapes) + 1}", tuple(paths), fill))
    return tuple(shapes), crossings
