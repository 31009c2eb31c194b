"""Drawn lines as single strokes along their middle, or as the outlines of what they cover."""

from itertools import pairwise

import numpy as np
import shapely
from shapely.geometry import Polygon

from zeichen.core.fitting.curve_fit import fit_contour, fit_open, fit_spline
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.tracing.strokes.pairing import PenLine
from zeichen.core.tracing.strokes.rims import resampled
from zeichen.core.values import FloatArray

# Points of a middle err by about so much, px (measured on straight lines); turns sharper than this are corners even
# where no pen turned.
_NOISE_PX, _CORNER_DEG = 0.04, 60.0
# Outlines of strokes are put together from discs so many px apart, of so many corners a quarter.
_DISC_STEP_PX, _DISC_CORNERS = 2.0, 12


def stroke_path(line: PenLine, fit: FitSettings) -> Path:
    """Return the path along a line's middle, each part between two corners fitted alone."""
    fit = FitSettings(fit.tolerance_px, max(fit.corner_deg, _CORNER_DEG), noise_px=_NOISE_PX)
    points = line.points
    points = points[np.append(True, np.hypot(*np.diff(points, axis=0).T) > 1e-6)]
    corners = sorted({int(np.hypot(*(points - place).T).argmin()) for place in line.corners})
    if line.closed:
        if not corners and len(points) >= 8:
            return Path(fit_spline(points, fit).curves())
        first = corners[0] if corners else 0
        points = np.vstack([points[first:], points[: first + 1]])
        corners = [k - first for k in corners]
    cuts = [0, *(k for k in corners if 0 < k < len(points) - 1), len(points) - 1]
    parts = [_part(points[a : b + 1], fit) for a, b in pairwise(cuts)]
    return Path(np.concatenate(parts), closed=line.closed)


def _part(points: FloatArray, fit: FitSettings) -> FloatArray:
    if len(points) < 4:
        return bezier.line_segments(points[[0, -1]])
    return fit_open(points, fit, down_weighted=False).curves()


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
