"""Lines of changing width drawn as single strokes along their middle, or as the outlines of what they cover."""

import math
from itertools import pairwise

import cv2
import numpy as np
import shapely
from shapely.geometry import Polygon

from zeichen.core.fitting.curve_fit import fit_chain, fit_contour, fit_open
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.tracing.strokes.medial_graph import medial_graph
from zeichen.core.tracing.strokes.pairing import PenLine, pen_lines
from zeichen.core.tracing.strokes.pen_corners import with_corners
from zeichen.core.tracing.strokes.rims import (
    directions,
    measured_runs,
    resampled,
    rim_distances,
    smoothed,
)
from zeichen.core.tracing.strokes.skeleton import Skeleton
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# A pen's width changes if between the slimmest and the widest tenth of its lines lies more than this share of it.
# Measured: pictures of pens have .38 to .86, of drawn lines of one width .00 to .07 (JPEG and blur among them), a short
# one that turned back on itself .22.
_CHANGES = 0.28
# Widths are read every so many px, on branches of so many widths, and not so near to their ends.
_EACH, _LEAST_LONG, _FROM_ENDS = 4, 2.5, 0.8
_LEAST_READ = 8
# So many times the usual width is two lines side by side, or one that came back.
_SIDE_BY_SIDE = 1.6
# Where the ink reaches further from paper than so many times the widest tenth's half, it is an area and no line.
_AREA = 3.0
# A piece no longer than so many of its greatest half widths, and that fills so much of its box's ellipse, is a dot.
_DOT_LONG, _DOT_FILLS = 3.0, 0.75
# Points of a middle err by about so much, px; turns sharper than this are corners even where no pen turned.
_NOISE_PX, _CORNER_DEG = 0.12, 60.0
# Outlines of strokes are put together from discs so many px apart, of so many corners a quarter.
_DISC_STEP_PX, _DISC_CORNERS = 2.0, 12


def width_quantiles(ink: AnyArray, skeleton: Skeleton) -> FloatArray:
    """Return the width, px, that a tenth, half and nine tenths of the lines have at most; empty if too few are seen.

    ink: (height, width) float32, how much ink each pixel holds, 0-1.
    """
    found = [np.zeros(0)]
    for branch in skeleton.branches:
        if branch.length < _LEAST_LONG * skeleton.width_px:
            continue
        points = smoothed(resampled(branch.points, branch.loop), 2.0, branch.loop)
        way = directions(points, branch.loop)
        cut = 0 if branch.loop else int(_FROM_ENDS * skeleton.width_px)
        points, way = points[cut : len(points) - cut : _EACH], way[cut : len(way) - cut : _EACH]
        if not len(points):
            continue
        across = np.stack([-way[:, 1], way[:, 0]], axis=1)
        reach = 1.6 * skeleton.width_px + 3.0
        wide = rim_distances(ink, points, across, reach) + rim_distances(ink, points, -across, reach)
        found.append(wide[np.isfinite(wide)])
    widths = np.concatenate(found)
    if len(widths):
        widths = widths[widths < _SIDE_BY_SIDE * np.median(widths)]
    return np.quantile(widths, (0.1, 0.5, 0.9)) if len(widths) >= _LEAST_READ else np.zeros(0)


def changes_width(quantiles: FloatArray) -> bool:
    """Return whether lines of these widths (see width_quantiles) are a pen's whose width changes."""
    return len(quantiles) > 0 and float(quantiles[2] - quantiles[0]) > _CHANGES * float(quantiles[1])


def drawn_lines(
    ink: AnyArray, mask: BoolArray, half: FloatArray, quantiles: FloatArray
) -> tuple[list[PenLine], BoolArray]:
    """Return the lines of a picture and the pixels of what is none: dots and areas.

    ink: see width_quantiles. mask, half: (height, width), the ink's pixels, and how far each is from paper, px.
    """
    areas = _areas(mask, half, quantiles) | _dots(mask, half)
    lines = mask & ~areas
    if areas.any():
        half = np.where(lines, cv2.distanceTransform(lines.astype(np.uint8), cv2.DIST_L2, 5), 0.0)
    edges, meetings = medial_graph(lines, half)
    ink = np.where(areas, np.float32(0.0), ink)
    runs = measured_runs(ink, edges, meetings, half)
    return [with_corners(ink, line) for line in pen_lines(runs, meetings)], areas


def _areas(mask: BoolArray, half: FloatArray, quantiles: FloatArray) -> BoolArray:
    thick = _AREA * 0.5 * float(quantiles[2])
    seeds = half > thick
    if not seeds.any():
        return np.zeros_like(mask)
    # All that lies within the discs, and the rim that thinning would take for a line.
    far = cv2.distanceTransform((~seeds).astype(np.uint8), cv2.DIST_L2, 5)
    return np.asarray(mask & (far <= thick + 1.5))


def _dots(mask: BoolArray, half: FloatArray) -> BoolArray:
    """Return the pieces that are as wide as long."""
    count, numbers, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    dots = np.zeros(count, bool)
    for k in range(1, count):
        x, y, wide, high, area = (int(v) for v in stats[k])
        if max(wide, high) > _DOT_LONG * float(half.max()) or area < _DOT_FILLS * math.pi / 4 * wide * high:
            continue
        here = numbers[y : y + high, x : x + wide] == k
        dots[k] = max(wide, high) < _DOT_LONG * float(half[y : y + high, x : x + wide][here].max())
    return np.asarray(dots[numbers])


def stroke_path(line: PenLine, fit: FitSettings) -> Path:
    """Return the path along a line's middle, each part between two corners fitted alone."""
    fit = FitSettings(fit.tolerance_px, max(fit.corner_deg, _CORNER_DEG), noise_px=_NOISE_PX)
    points = line.points
    points = points[np.append(True, np.hypot(*np.diff(points, axis=0).T) > 1e-6)]
    corners = sorted({int(np.hypot(*(points - place).T).argmin()) for place in line.corners})
    if line.closed:
        if not corners and len(points) >= 8:
            return Path(fit_chain(points, fit).curves())
        first = corners[0] if corners else 0
        points = np.vstack([points[first:], points[: first + 1]])
        corners = [k - first for k in corners]
    cuts = [0, *(k for k in corners if 0 < k < len(points) - 1), len(points) - 1]
    parts = [_part(points[a : b + 1], fit) for a, b in pairwise(cuts)]
    return Path(np.concatenate(parts), closed=line.closed)


def _part(points: FloatArray, fit: FitSettings) -> FloatArray:
    if len(points) < 4:
        return bezier.line_segments(points[[0, -1]])
    return fit_open(points, fit).curves()


def outline_paths(line: PenLine, fit: FitSettings) -> tuple[Path, ...]:
    """Return the outlines of what a round pen of changing width covers along a line, the outer one first."""
    step = max(1, int(_DISC_STEP_PX))
    keep = np.unique(np.append(np.arange(0, len(line.points), step), len(line.points) - 1))
    discs = shapely.buffer(shapely.points(line.points[keep]), line.half[keep], quad_segs=_DISC_CORNERS)
    following = np.roll(discs, -1) if line.closed else discs[1:]
    first = discs if line.closed else discs[:-1]
    hulls = shapely.convex_hull(shapely.union(first, following)) if len(first) else discs
    covered = shapely.union_all(hulls)
    polygons = [covered] if isinstance(covered, Polygon) else list(covered.geoms)
    largest = max(polygons, key=lambda polygon: polygon.area)
    rings = [largest.exterior, *largest.interiors]
    return tuple(
        fit_contour(resampled(np.asarray(ring.coords)[:-1], closed=True), fit)
        for ring in rings
        if ring.length > 8.0
    )
