"""Fitting all outlines of a picture so that none crosses itself or another."""

from collections.abc import Callable, Iterable

import numpy as np
from shapely import STRtree
from shapely.geometry import LinearRing, LineString

from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.polygons import is_simple, path_from_ring, ring_points
from zeichen.core.tracing.boundary import Contours
from zeichen.core.tracing.curve_fit import FitSettings, fit_contour
from zeichen.core.values import FloatArray

# How much closer to fit, attempt by attempt, where outlines cross.
_NEARER = (1.0, 0.6, 0.4, 0.25)
_FLATTEN_PX = 0.02
_LOCAL_ROUNDS = 4


def fit_soundly(
    loops: list[FloatArray], settings: FitSettings, *, step: Callable[[float], None]
) -> tuple[list[Path], int]:
    """Return one closed path for each contour, none crossing itself or another, and how many still do.

    Where fits cross, they are done again closer and with a shorter reach: on lines hardly wider than
    the picture's blur, smoothing over the usual reach would pull both sides across each other. What
    still crosses then follows the contour itself, which crosses nothing, just there.

    Parameters
    ----------
    loops : list of (n, 2) float arrays, px
        Contours of one level of one picture.
    settings : FitSettings
    step : function of a share 0-1
        Called now and then; may raise to stop the work.
    """
    paths: list[Path] = []
    for number, loop in enumerate(loops):
        if number % 64 == 0:
            step(number / len(loops))
        paths.append(_fit(loop, settings, _NEARER[0]))
    for nearer in _NEARER[1:]:
        crossing = _crossing_paths(paths)
        if not crossing:
            return paths, 0
        for number in crossing:
            paths[number] = _fit(loops[number], settings, nearer)
    for _ in range(_LOCAL_ROUNDS):
        bad = _crossing_segments(paths)
        if not bad:
            return paths, 0
        for number, segments in bad.items():
            paths[number] = _following_contour(paths[number], loops[number], segments)
    for number in _crossing_paths(paths):
        paths[number] = _polygon(loops[number])
    return paths, count_crossings(paths)


def count_crossings(paths: Iterable[Path]) -> int:
    """Return how many paths cross themselves or another."""
    return len(_crossing_paths(list(paths)))


def _fit(loop: FloatArray, settings: FitSettings, nearer: float) -> Path:
    closer = FitSettings(
        max(settings.tolerance_px * nearer, 0.03), settings.corner_deg, max(settings.blur_px * nearer, 0.2)
    )
    path = fit_contour(loop, closer)
    return path if path.area * _loop_area(loop) > 0 else _polygon(loop)


def _polygon(loop: FloatArray) -> Path:
    return path_from_ring(np.vstack([loop, loop[:1]]))


def _crossing_paths(paths: list[Path]) -> set[int]:
    """Return which paths cross themselves or another."""
    alone = {number for number, path in enumerate(paths) if not is_simple(path, tolerance=_FLATTEN_PX)}
    rings = [ring_points(path, tolerance=_FLATTEN_PX) for path in paths]
    usable = [number for number, points in enumerate(rings) if len(points) >= 4]
    lines = [LinearRing(rings[number]) for number in usable]
    first, second = STRtree(lines).query(lines, predicate="crosses")
    return alone | {usable[k] for k in first[first != second].tolist()}


def _crossing_segments(paths: list[Path]) -> dict[int, set[int]]:
    """Return, for each path that crosses something, which of its segments do."""
    involved = sorted(_crossing_paths(paths))
    if not involved:
        return {}
    owners = [(number, k) for number in involved for k in range(len(paths[number].segments))]
    lines = [
        LineString(bezier.flatten(paths[number].segments[k : k + 1], tolerance=_FLATTEN_PX))
        for number, k in owners
    ]
    first, second = STRtree(lines).query(lines, predicate="crosses")
    met = set(first[first != second].tolist()) | {k for k, line in enumerate(lines) if not line.is_simple}
    bad: dict[int, set[int]] = {}
    for index in met:
        number, k = owners[index]
        bad.setdefault(number, set()).add(k)
    return bad


def _following_contour(path: Path, loop: FloatArray, segments: set[int]) -> Path:
    """Return the path with some segments replaced by the contour's own points between their ends."""
    rows: list[FloatArray] = []
    for k, segment in enumerate(path.segments):
        if k not in segments:
            rows.append(segment[None])
            continue
        first, last = (int(np.linalg.norm(loop - segment[end], axis=1).argmin()) for end in (0, 3))
        between = loop[np.arange(first + 1, last + (len(loop) if last <= first else 0)) % len(loop)]
        rows.append(bezier.line_segments(np.vstack([segment[:1], between, segment[3:]])))
    return Path(np.concatenate(rows))


def _loop_area(loop: FloatArray) -> float:
    return float(Contours(loop, np.array([0, len(loop)])).areas()[0])
