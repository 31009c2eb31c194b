"""Fitting all outlines of a picture so that none crosses itself or another."""

from collections.abc import Callable, Iterable

import numpy as np
from shapely import STRtree
from shapely.geometry import LinearRing

from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.polygons import is_simple, path_from_ring, ring_points
from zeichen.core.tracing.boundary import Contours
from zeichen.core.tracing.curve_fit import FitSettings, fit_contour
from zeichen.core.values import FloatArray

# How much closer to fit, attempt by attempt, where outlines cross.
_NEARER = (1.0, 0.6, 0.4, 0.25, 0.12)
_FLATTEN_PX = 0.02


def fit_soundly(
    loops: list[FloatArray], settings: FitSettings, *, step: Callable[[float], None]
) -> list[Path]:
    """Return one closed path for each contour, none crossing itself or another.

    Where a fit crosses, it is done again closer and with a shorter reach: on lines hardly wider than
    the picture's blur, smoothing over the usual reach would pull both sides across each other. The
    contour's own polygon, which crosses nothing, is the last resort.

    Parameters
    ----------
    loops : list of (n, 2) float arrays, px
        Contours of one level of one picture.
    settings : FitSettings
    step : function of a share 0-1
        Called now and then; may raise to stop the work.
    """
    attempts = [0] * len(loops)
    paths: list[Path] = []
    for number, loop in enumerate(loops):
        if number % 64 == 0:
            step(number / len(loops))
        attempt, path = _simple_path(loop, settings, 0)
        attempts[number] = attempt
        paths.append(path)
    for _ in _NEARER:
        crossing = _crossing_paths(paths)
        if not crossing:
            break
        for number in crossing:
            attempts[number], paths[number] = _simple_path(loops[number], settings, attempts[number] + 1)
    return paths


def count_crossings(paths: Iterable[Path]) -> int:
    """Return how many paths cross themselves or another."""
    listed = list(paths)
    alone = {number for number, path in enumerate(listed) if not is_simple(path, tolerance=_FLATTEN_PX)}
    return len(alone | _crossing_paths(listed))


def _simple_path(loop: FloatArray, settings: FitSettings, attempt: int) -> tuple[int, Path]:
    """Return the first fit from an attempt on that does not cross itself, and which attempt that was."""
    for number in range(attempt, len(_NEARER)):
        nearer = _NEARER[number]
        closer = FitSettings(
            max(settings.tolerance_px * nearer, 0.03),
            settings.corner_deg,
            max(settings.blur_px * nearer, 0.2),
        )
        path = fit_contour(loop, closer)
        if path.area * _loop_area(loop) > 0 and is_simple(path, tolerance=_FLATTEN_PX):
            return number, path
    return len(_NEARER), path_from_ring(np.vstack([loop, loop[:1]]))


def _crossing_paths(paths: list[Path]) -> set[int]:
    rings = [ring_points(path, tolerance=_FLATTEN_PX) for path in paths]
    usable = [number for number, points in enumerate(rings) if len(points) >= 4]
    lines = [LinearRing(rings[number]) for number in usable]
    first, second = STRtree(lines).query(lines, predicate="crosses")
    pairs = {usable[k] for k in first[first != second].tolist()}
    return pairs


def _loop_area(loop: FloatArray) -> float:
    return float(Contours(loop, np.array([0, len(loop)])).areas()[0])
