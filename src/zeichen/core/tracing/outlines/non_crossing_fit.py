"""Fitting all outlines of a picture so that none crosses itself or another."""

from collections.abc import Callable, Iterable
from dataclasses import replace

import numpy as np
from shapely.geometry import LinearRing, LineString

from zeichen.core.fitting.curve_fit import fit_spline
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.fitting.spline import Spline
from zeichen.core.fitting.spline_geometry import same_way_round
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.meeting import meeting_segments
from zeichen.core.geometry.polygons import path_from_ring
from zeichen.core.raster.ink import Ink
from zeichen.core.tracing.corners.corner_refinement import refine_corners
from zeichen.core.tracing.outlines.self_intersections import without_loops
from zeichen.core.values import FloatArray

# Crossings are looked for on polylines this near to the curves, and mended so often; then the contour is followed
# (our own rules).
_FLATTEN_PX = 0.003
_ROUNDS = 3
# A segment further than this from one of its own points went astray (own pixels, beside the tolerance).
_ASTRAY_PX = 1.3
# And a smooth node so many times as far from where its segment begins.
_LOST = 2.5
# Loops up to this long are the fit's, not the picture's (own pixels, beside the blur).
_LONGEST_LOOP_PX = 6.0
# With more crossing outlines than this the picture is noise, and they follow it at once.
_MOST_LOOPED = 100
# Nodes further from all points than this, between two segments that follow those, are put onto them.
_LOST_PX = 3.0
# What follows the contour itself does so within this.
_FOLLOWED_PX = 0.25
# A wide tolerance is cut down to this where fits would cross.
_CLOSEST_PX = 0.05


def fit_soundly(
    loops: list[FloatArray],
    settings: FitSettings,
    *,
    step: Callable[[float], None],
    weights: list[FloatArray] | None = None,
    ink: Ink | None = None,
    safe: list[FloatArray] | None = None,
) -> tuple[list[Path], int]:
    """Return one closed path for each contour, none crossing itself or another, and how many still do.

    Segments that went astray or cross something are fitted again from their points alone. What still
    crosses then follows the contour itself, which crosses nothing, just there.

    Parameters
    ----------
    loops : list of (n, 2) float arrays, px
        Contours of one level of one picture.
    settings : FitSettings
    step : function of a share 0-1
        Called now and then; may raise to stop the work.
    weights : list of (n,) float arrays, optional
        What say each point has; see fit_chain.
    ink : Ink, optional
        With it corners are put where the ink is.
    safe : list of (n, 2) float arrays, px, optional
        The same contours in a form known to cross nothing.
    """
    splines: list[Spline] = []
    given_up: set[int] = set()
    strayed: list[list[int] | None] = []
    for number, loop in enumerate(loops):
        if number % 64 == 0:
            step(number / len(loops))
        spline = fit_spline(loop, settings, None if weights is None else weights[number])
        strayed.append(refit_outliers(spline, settings))
        splines.append(spline)
    if ink is not None:
        moved = refine_corners(
            splines,
            ink,
            pixel_px=settings.pixel_px,
            blur_px=settings.blur_px,
            tolerance_px=settings.allowed_px,
        )
        for k in moved:
            strayed[k] = refit_outliers(splines[k], settings)
    paths = [
        _held(spline, loop, settings, gone)
        for spline, loop, gone in zip(splines, loops, strayed, strict=True)
    ]
    longest = _LONGEST_LOOP_PX * settings.pixel_px + 4.0 * settings.blur_px
    for _ in range(_ROUNDS):
        bad = meeting_segments(paths, tolerance=_FLATTEN_PX)
        if bad and len(bad) <= _MOST_LOOPED:
            for number in bad:
                paths[number] = Path(without_loops(paths[number].segments, longest, closed=True))
            bad = meeting_segments(paths, tolerance=_FLATTEN_PX)
        if not bad:
            return paths, 0
        for number, segments in bad.items():
            spline = splines[number]
            if len(paths[number].segments) != spline.segments:
                continue
            spline.start_over(sorted(segments), settings.allowed_px)
            refit_outliers(spline, settings)
            paths[number] = _held(spline, loops[number], settings)
    _fit_closer(paths, loops, settings)
    sure = loops if safe is None else safe
    follow = max(_FOLLOWED_PX, 0.6 * settings.allowed_px)
    for within in (follow, 0.4 * follow, 0.0, 0.0):
        bad = meeting_segments(paths, tolerance=_FLATTEN_PX)
        if not bad:
            return paths, 0
        for number, segments in bad.items():
            paths[number] = _following_contour(paths[number], sure[number], segments, within)
    for number in _crossing_paths(paths):
        paths[number] = _polygon(loops[number])
    # Interpolated contours of one level never cross; one after the other falls back on them until nothing does.
    while safe is not None and (crossing := _crossing_paths(paths)):
        fallen = {number for number in crossing if number not in given_up}
        if not fallen:
            break
        # With as few points as will do: a simplified ring may cross where the ring itself does not.
        for within in (follow, 0.4 * follow, 0.1 * follow, 0.0):
            for number in fallen:
                paths[number] = _polygon(safe[number], within)
            if not fallen & _crossing_paths(paths):
                break
        given_up |= fallen
    return paths, count_crossings(paths)


def _fit_closer(paths: list[Path], loops: list[FloatArray], settings: FitSettings) -> None:
    """Fit crossing paths again with less and less tolerance: the contours themselves cross nothing."""
    tolerance = settings.tolerance_px
    while tolerance > _CLOSEST_PX and (crossing := _crossing_paths(paths)):
        if len(crossing) > _MOST_LOOPED:
            return
        tolerance = max(tolerance / 2, _CLOSEST_PX)
        closer = replace(settings, tolerance_px=tolerance)
        for number in crossing:
            spline = fit_spline(loops[number], closer)
            refit_outliers(spline, closer)
            paths[number] = _held(spline, loops[number], closer)


def refit_outliers(spline: Spline, settings: FitSettings, *, keep_corners: bool = False) -> list[int] | None:
    """Fit the segments of a spline again that went astray from their points; returns which still are, if known."""
    for _ in range(2):
        gone = outliers(spline, settings)
        if gone:
            spline.start_over(gone, settings.allowed_px, keep_corners=keep_corners)
        if not spline.smooth_spikes(settings.pixel_px) and not gone:
            return gone
    return None


def outliers(spline: Spline, settings: FitSettings) -> list[int]:
    """Return the segments that are further from their own points than blur and tolerance explain."""
    limit = _ASTRAY_PX * settings.pixel_px + settings.blur_px + settings.allowed_px
    return spline.outliers(limit, _LOST * limit)


def _held(spline: Spline, loop: FloatArray, settings: FitSettings, gone: list[int] | None = None) -> Path:
    """Return the spline's path, what is still astray (found here unless given) following the contour."""
    path = Path(spline.curves())
    if gone is None:
        gone = outliers(spline, settings)
    if gone:
        path = _following_contour(path, loop, set(gone), max(_FOLLOWED_PX, 0.6 * settings.allowed_px))
    return _sound(path, loop)


def count_crossings(paths: Iterable[Path]) -> int:
    """Return how many paths cross themselves or another."""
    return len(_crossing_paths(list(paths)))


def _sound(path: Path, loop: FloatArray) -> Path:
    """Return the path, or the contour itself where it came out inside out."""
    return path if same_way_round(path.segments, loop) else _polygon(loop)


def _polygon(loop: FloatArray, within: float = _FOLLOWED_PX) -> Path:
    ring = np.asarray(LinearRing(loop).simplify(within).coords)
    return path_from_ring(ring if len(ring) >= 4 else np.vstack([loop, loop[:1]]))


def _crossing_paths(paths: list[Path]) -> set[int]:
    """Return which paths cross themselves or another."""
    return set(meeting_segments(paths, tolerance=_FLATTEN_PX))


def _following_contour(
    path: Path, loop: FloatArray, segments: set[int], within: float = _FOLLOWED_PX
) -> Path:
    """Return the path with some segments replaced by the contour's own points between their ends."""
    twice = np.vstack([loop, loop])
    return Path(following_points(path.segments, twice, segments, turns=len(loop), within=within))


def following_points(
    curve: FloatArray,
    points: FloatArray,
    segments: set[int],
    *,
    turns: int = 0,
    within: float = _FOLLOWED_PX,
) -> FloatArray:
    """Return a curve with some segments replaced by measured points between their ends.

    Parameters
    ----------
    curve : (n, 4, 2) float array
    points : (m, 2) float array
        In the curve's order; for a closed one twice over, with `turns` points in each round.
    segments : set of int
    within : float
        How far from the points a straight line may cut them short.
    """
    rows: list[FloatArray] = []
    for k, segment in enumerate(curve):
        if k not in segments:
            rows.append(segment[None])
            continue
        once = points[: turns or len(points)]
        away = [np.linalg.norm(once - segment[end], axis=1) for end in (0, 3)]
        first, last = (int(each.argmin()) for each in away)
        # A node that both its segments left behind is lost itself.
        beside = [(k - 1) % len(curve), (k + 1) % len(curve)] if turns else [k - 1, k + 1]
        lost = [b in segments and each.min() > _LOST_PX for b, each in zip(beside, away, strict=True)]
        begin = once[first] if lost[0] else segment[0]
        end = once[last] if lost[1] else segment[3]
        count = (last - first) % turns if turns else last - first
        # A short segment whose ends lie beside one point, or the wrong way round, does not go round the loop.
        span = float(np.linalg.norm(np.diff(segment, axis=0), axis=1).sum())
        if count > 3.0 * span + 8.0:
            count = 0
        between = points[first + 1 : first + max(count, 1)]
        if any(lost) and not len(between) and (begin == end).all():
            continue
        run = np.vstack([begin, between, end])
        rows.append(bezier.line_segments(np.asarray(LineString(run).simplify(within).coords)))
    if not rows:
        # All of it lost at one place: the points alone are left, or the way between the ends.
        left = np.vstack([points[:turns], points[:1]]) if turns else np.vstack([curve[:1, 0], curve[-1:, 3]])
        return bezier.line_segments(left)
    return np.concatenate(rows)
