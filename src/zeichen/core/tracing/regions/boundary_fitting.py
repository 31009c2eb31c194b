"""Fitting the borders of a planar map: every border once, the rims that run on through junctions as one."""

from collections.abc import Callable
from copy import deepcopy
from dataclasses import dataclass, replace

import numpy as np

from zeichen.core.fitting.conics import with_nodes_at
from zeichen.core.fitting.curve_fit import fit_open, fit_spline
from zeichen.core.fitting.fit_settings import FitSettings
from zeichen.core.fitting.spline import Spline
from zeichen.core.geometry import bezier
from zeichen.core.geometry.drawing import Path
from zeichen.core.geometry.meeting import meeting_segments
from zeichen.core.geometry.nearest import nearest_on
from zeichen.core.tracing.corners.corner_refinement import refine_corners_between
from zeichen.core.tracing.edges.localisation_noise import noise_along
from zeichen.core.tracing.edges.mixing import Seen, seen_along
from zeichen.core.tracing.edges.subpixel_edges import Edges
from zeichen.core.tracing.outlines.non_crossing_fit import following_points, outliers, refit_outliers
from zeichen.core.tracing.outlines.self_intersections import crossings, without_loops
from zeichen.core.tracing.regions import boundary_chains
from zeichen.core.tracing.regions.boundary_chains import Course
from zeichen.core.tracing.regions.junctions import Junctions, find_junctions, is_within
from zeichen.core.tracing.regions.planar_map import PlanarMap
from zeichen.core.values import AnyArray, BoolArray, FloatArray

# So often borders that cross are drawn closer to their points, and, if shapes cross even so, between the pixels.
_ROUNDS, _CRACK_ROUNDS = 5, 3
# A stair of pixels is this far off the line it stands for, px, and shorter ones are no curves.
_STAIR_PX, _LEAST_SMOOTHED = 0.5, 8
_CLOSEST_PX = 0.05
_ATTACH_ROUNDS = 8
# Loops up to this long are the fit's, not the picture's, px beside the blur.
_LONGEST_LOOP_PX = 6.0
_ATTACHED_PX = 1e-7
_SLIGHT_PX = 0.05
# Of the points this near to a junction only those that lie this much ahead of it are fitted, px.
_NEAR_END_PX = 4.0
_AHEAD_PX = 0.4
# A short border whose points are further off the straight line than this is no straight line.
_BOWED_PX = 0.8
# A border may be so many times its noise off its points: neighbouring points err together.
_NOISE_SHARE = 4.0
_BESIDE_WEDGE_PX = 1.6
# Crossings smaller than this are nobody's concern, px.
_FLATTEN_PX = 0.001


@dataclass(slots=True)
class Borders:
    """A planar map with the points on each arc's edge, which of them are good witnesses, and the fit.

    map: with junctions joined that are one place;
    inside: whether an arc has areas on both sides (the sheet's rim has not); courses: the curves.
    """

    map: PlanarMap
    edges: Edges
    points: list[FloatArray]
    witness: list[BoolArray]
    inside: BoolArray
    fit: FitSettings
    courses: list[Course]
    junctions: Junctions

    @property
    def places(self) -> FloatArray:
        """Where the junctions are, (n, 2) px."""
        return self.junctions.places

    def colours(self, arc: int, forward: bool) -> tuple[int, int]:
        """Return the colours right and left of an arc, in one of its directions."""
        k = self.map.starts[arc]
        right, left = int(self.edges.right[k]), int(self.edges.left[k])
        return (right, left) if forward else (left, right)


def fit_borders(
    planar: PlanarMap,
    edges: Edges,
    points: list[FloatArray],
    witness: list[BoolArray],
    fit: FitSettings,
    report: Callable[[float], None],
) -> Borders:
    """Return the borders of a map, each fitted once.

    Parameters
    ----------
    planar : PlanarMap
    edges : Edges
        The picture, its colours and those beside each crack.
    points : list of (n, 2) float arrays, px
        For each arc the points on its edge, one for each crack.
    witness : list of bool arrays
        Which of the points are where two plain colours meet.
    fit : FitSettings
    report : function of a share 0-1
        Called now and then; may raise to stop the work.
    """
    inside: BoolArray = (planar.right >= 0) & (planar.left >= 0)
    met = find_junctions(planar, points, witness, inside, fit)
    courses = boundary_chains.courses_of(met.map, met.leaving)
    borders = Borders(met.map, edges, points, witness, inside, fit, courses, met)
    for number, course in enumerate(courses):
        if number % 32 == 0:
            report(number / len(courses))
        course.curves = _fitted(borders, course, fit)
    _attach(borders, anew=True)
    if _nodes_where_others_end(borders):
        _attach(borders)
    _part_crossing(borders)
    return borders


def course_points(borders: Borders, course: Course) -> FloatArray:
    """Return the points along a course, (n, 2), px."""
    return np.concatenate([_run(borders.points, arc, forward) for arc, forward in course.arcs])


def _run(arrays: list[AnyArray], arc: int, forward: bool) -> AnyArray:
    return arrays[arc] if forward else arrays[arc][::-1]


def _fitted(borders: Borders, course: Course, fit: FitSettings) -> FloatArray:
    planar, places = borders.map, borders.places
    arc = course.arcs[0][0]
    if not borders.inside[arc]:
        corners = planar.corners(arc)
        if not course.closed:
            corners = np.vstack([places[planar.start[arc]], corners[1:-1], places[planar.end[arc]]])
        return bezier.line_segments(_bends(corners))
    if is_within(planar, arc):
        return bezier.line_segments(places[[planar.start[arc], planar.end[arc]]])
    points = course_points(borders, course)
    witness = np.concatenate([_run(borders.witness, k, forward) for k, forward in course.arcs])
    inner = [places[j] for j in boundary_chains.inner_junctions(course, planar) if j >= 0]
    ends = [] if course.closed else [places[j] for j in boundary_chains.ends_of(course, planar)]
    near = np.full(len(points), np.inf)
    for place in inner + ends:
        near = np.minimum(near, np.linalg.norm(points - place, axis=1))
    touched = boundary_chains.inner_junctions(course, planar)
    touched += [] if course.closed else list(boundary_chains.ends_of(course, planar))
    far = (near > 0.5) & ~_in_wedges(borders, touched, points, witness)
    if not course.closed:
        far &= ~_behind_ends(borders, course, points, ends)
    # No witness is believed near a junction; elsewhere a tip may be what makes a point doubtful.
    good = far & (witness | (near > 2.0 * fit.quiet_px))
    kept = points[good] if good.sum() >= 3 else points[far]
    if not course.closed and len(kept) < 3 <= len(points) and _off_chord(points, ends) > _BOWED_PX:
        # Doubtful witnesses are better than none where the border plainly bends.
        kept = points
    if len(kept) > 8:
        fit = _with_noise(kept, course.closed, fit)
    seen = seen_along(
        borders.edges,
        [borders.colours(k, forward) for k, forward in course.arcs],
        [borders.points[k] for k, _ in course.arcs],
    )
    if course.closed:
        kept = kept if len(kept) >= 6 else points
        return _settled(course, fit_spline(kept, fit), fit, seen)
    if len(kept) < 3:
        return bezier.line_segments(np.vstack(ends))
    return _settled(course, fit_open(np.vstack([ends[0], kept, ends[1]]), fit), fit, seen)


def _in_wedges(borders: Borders, touched: list[int], points: FloatArray, witness: BoolArray) -> BoolArray:
    """Return which points lie beside the last part of a wedge, which no pixel shows by itself."""
    hidden = np.zeros(len(points), bool)
    for junction in touched:
        last = borders.junctions.wedges.get(junction)
        if last is None:
            continue
        step = borders.places[junction] - last
        size = max(float(np.linalg.norm(step)), 1e-9)
        along = (points - last) @ step / size
        beside = np.hypot(*nearest_on(points, last[None], (last + step)[None])[0].T) < _BESIDE_WEDGE_PX
        hidden |= beside & ((along > 0.3) | ~witness)
    return hidden


def _off_chord(points: FloatArray, ends: list[FloatArray]) -> float:
    """Return how far points lie off the straight line between two ends."""
    return float(np.hypot(*nearest_on(points, ends[0][None], ends[1][None])[0].T).max())


def _behind_ends(borders: Borders, course: Course, points: FloatArray, ends: list[FloatArray]) -> BoolArray:
    """Return which points near an end of a course lie on the far side of the junction there."""
    behind = np.zeros(len(points), bool)
    (first, forward), (last, onward) = course.arcs[0], course.arcs[-1]
    for place, key in ((ends[0], (first, 0 if forward else 1)), (ends[1], (last, 1 if onward else 0))):
        if key in borders.junctions.leaving:
            off = points - place
            near = np.abs(off).max(axis=1) < _NEAR_END_PX
            behind |= near & (off @ borders.junctions.leaving[key].direction < _AHEAD_PX)
    return behind


def _with_noise(points: FloatArray, closed: bool, fit: FitSettings) -> FitSettings:
    """Return the settings with the noise of these points: pale borders are noisier than strong ones."""
    noise = noise_along(points, closed=closed)
    return replace(
        fit, noise_px=max(fit.noise_px, noise), tolerance_px=max(fit.tolerance_px, _NOISE_SHARE * noise)
    )


def _attach(borders: Borders, *, anew: bool = False) -> None:
    """Cut every course where others end on it, and let those end exactly there.

    A course that must move its end more than a little is fitted anew, or moves only its last few pixels.
    """
    planar, places = borders.map, borders.places
    # Moving an end moves what others end on a little less each time.
    for number in range(_ATTACH_ROUNDS):
        furthest = 0.0
        for course in borders.courses:
            inner = [j for j in boundary_chains.inner_junctions(course, planar) if j >= 0]
            count = float(len(course.curves))
            if not inner:
                course.breaks = np.array([0.0, count])
                continue
            lengths = _lengths_at(borders, course, len(inner))
            found = boundary_chains.nearest_places(
                course.curves, places[inner], lengths, closed=course.closed
            )
            found = np.maximum.accumulate(found)
            for junction, u in zip(inner, found, strict=True):
                places[junction] = _point_at(course.curves, u)
            if course.closed:
                course.breaks = np.append(found, found[0] + count) if len(found) else np.array([0.0, count])
            else:
                course.breaks = np.concatenate([[0.0], found, [count]])
        for course in borders.courses:
            if course.closed:
                continue
            ends = [places[junction] for junction in boundary_chains.ends_of(course, planar)]
            off = max(
                float(np.abs(course.curves[0, 0] - ends[0]).max()),
                float(np.abs(course.curves[-1, 3] - ends[1]).max()),
            )
            furthest = max(furthest, off)
            if off > _SLIGHT_PX and anew and number == 0:
                course.curves = _fitted(borders, course, borders.fit)
            for end, place in enumerate(ends):
                if off > 0.0:
                    course.curves = boundary_chains.with_end_at(course.curves, end, place)
        if furthest < _ATTACHED_PX:
            return


def _nodes_where_others_end(borders: Borders) -> bool:
    """Let courses have their nodes where others end on them, as far as that saves others; returns whether any do.

    There they are cut anyway.
    """
    changed = False
    for course in borders.courses:
        inner = [j for j in boundary_chains.inner_junctions(course, borders.map) if j >= 0]
        spline = course.spline
        if not inner or spline is None:
            continue
        places = borders.places[inner]
        if spline.exact:
            course.curves = with_nodes_at(spline.curves(), places)
            changed = True
            continue
        lengths = _lengths_at(borders, course, len(inner))
        found = (
            boundary_chains.nearest_places(spline.curves(), places, lengths, closed=course.closed)
            % spline.segments
        )
        cut = sorted((u for u in found.tolist() if u % 1.0 and not spline.line[int(u)]), reverse=True)
        if not cut:
            continue
        fewer = deepcopy(spline)
        for number, u in enumerate(cut):
            k = int(u)
            # What is left of a curve that was cut further on already.
            end = cut[number - 1] - k if number and int(cut[number - 1]) == k else 1.0
            fewer.pin_node_at(k, (u - k) / end)
        wanted = fewer.segments
        fewer.thin(course.allowed_px)
        if fewer.segments < wanted and not outliers(fewer, borders.fit):
            course.spline, course.curves = fewer, fewer.curves()
            changed = True
    return changed


def _lengths_at(borders: Borders, course: Course, inner: int) -> FloatArray:
    """Return how far along a course its inner junctions are about, px."""
    lengths = np.cumsum([_length(borders.points[arc]) for arc, _ in course.arcs])
    return np.append(0.0, lengths)[:inner] if course.closed else lengths[:-1]


def _length(points: FloatArray) -> float:
    return float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum()) + 1.0


def _point_at(curves: FloatArray, u: float) -> FloatArray:
    k = min(int(u), len(curves) - 1) if u <= len(curves) else int(u) % len(curves)
    return np.asarray(
        bezier.evaluate(curves[k : k + 1], np.array([u - int(u) if u > len(curves) else u - k]))
    ).reshape(2)


def _part_crossing(borders: Borders) -> None:
    """Cut tiny loops, fit borders that still cross closer, and let them follow their own points in the end."""
    closer = borders.fit
    for number in range(_ROUNDS):
        bad = _crossing(borders)
        if bad:
            _untangle(borders, sorted(bad))
            _attach(borders)
            bad = _crossing(borders)
        if not bad:
            return
        closer = replace(closer, tolerance_px=max(closer.tolerance_px / 2, _CLOSEST_PX))
        for c, segments in bad.items():
            course = borders.courses[c]
            if not borders.inside[course.arcs[0][0]]:
                continue
            if number < 2:
                course.curves = _fitted(borders, course, closer)
            else:
                points = course_points(borders, course)
                turns = len(points) if course.closed else 0
                twice = np.vstack([points, points]) if turns else points
                course.curves = following_points(course.curves, twice, segments, turns=turns)
        _attach(borders)


def draw_on_cracks(borders: Borders) -> None:
    """Draw what still crosses between the pixels: for shapes that would cross themselves.

    Where many borders meet in one place they may cross within a pixel and no shape does.
    """
    for number in range(_CRACK_ROUNDS):
        bad = _crossing(borders)
        if not bad:
            return
        for c in bad:
            if borders.inside[borders.courses[c].arcs[0][0]]:
                borders.courses[c].curves = _on_cracks(borders, borders.courses[c], smooth=number == 0)
        _attach(borders)


def _on_cracks(borders: Borders, course: Course, *, smooth: bool) -> FloatArray:
    """Return a course from the middle of each crack between pixels to the next one's: no two such lines cross.

    smooth: a curve along those; junctions it only ends at stay where they are then. All others go back to the pixels'
    corners.
    """
    planar = borders.map
    inner = set(boundary_chains.inner_junctions(course, planar))
    line: list[FloatArray] = []
    for arc, forward in course.arcs:
        corners = planar.corners(arc)
        middles = (corners[:-1] + corners[1:]) / 2
        if planar.start[arc] >= 0:
            ends = [corners[0], corners[-1]]
            for end, junction in enumerate((int(planar.start[arc]), int(planar.end[arc]))):
                if junction in inner or not smooth:
                    borders.places[junction] = ends[end]
                else:
                    ends[end] = borders.places[junction]
            middles = np.vstack([ends[0], middles, ends[1]])
        else:
            middles = np.vstack([middles, middles[:1]])
        line.append(middles if forward else middles[::-1])
    points = np.vstack(line)
    apart = np.append(True, np.any(np.diff(points, axis=0) != 0.0, axis=1))
    if smooth and len(points) >= _LEAST_SMOOTHED:
        loose = replace(
            borders.fit, tolerance_px=max(borders.fit.tolerance_px, _STAIR_PX), noise_px=_STAIR_PX / 2
        )
        if course.closed:
            return fit_spline(points[apart][:-1], loose).curves()
        return fit_open(points[apart], loose).curves()
    return bezier.line_segments(_bends(points[apart]))


def _untangle(borders: Borders, bad: list[int]) -> None:
    """Cut the loops of crossing courses, and let those that cross near the junction they share end where they cross."""
    longest = _LONGEST_LOOP_PX + 4.0 * borders.fit.blur_px
    for c in bad:
        course = borders.courses[c]
        if borders.inside[course.arcs[0][0]]:
            course.curves = without_loops(course.curves, longest, closed=course.closed)
    for one, other in _meeting_pairs(borders, bad):
        found = crossings(one.curves, other.curves)
        shared = _shared_junctions(borders, one, other)
        for junction in shared:
            # The crossing furthest from the junction, but near it.
            places = np.array([_point_at(one.curves, u) for u, _ in found]).reshape(-1, 2)
            away = np.linalg.norm(places - borders.places[junction], axis=1)
            near = np.nonzero((away < longest) & (away > 1e-6))[0]
            if len(near) == 0:
                continue
            pick = near[int(away[near].argmax())]
            for course, u in ((one, found[pick, 0]), (other, found[pick, 1])):
                _end_at(borders, course, junction, float(u))
            borders.places[junction] = places[pick]
            break


def _meeting_pairs(borders: Borders, bad: list[int]) -> list[tuple[Course, Course]]:
    """Return the pairs of some inner courses that have a junction in common."""
    at: dict[int, set[int]] = {}
    for c in bad:
        course = borders.courses[c]
        if borders.inside[course.arcs[0][0]]:
            ends = () if course.closed else boundary_chains.ends_of(course, borders.map)
            for junction in (*ends, *boundary_chains.inner_junctions(course, borders.map)):
                at.setdefault(junction, set()).add(c)
    pairs = {(c, d) for here in at.values() for c in here for d in here if c > d}
    return [(borders.courses[c], borders.courses[d]) for c, d in sorted(pairs)]


def _shared_junctions(borders: Borders, one: Course, other: Course) -> list[int]:
    """Return the junctions two courses share at which at least one of them ends."""
    planar = borders.map
    ends = [
        set() if course.closed else set(boundary_chains.ends_of(course, planar)) for course in (one, other)
    ]
    passes = [set(boundary_chains.inner_junctions(course, planar)) for course in (one, other)]
    return sorted(((ends[0] | passes[0]) & (ends[1] | passes[1])) - (passes[0] & passes[1]))


def _end_at(borders: Borders, course: Course, junction: int, u: float) -> None:
    """Cut an open course that ends at a junction back to a place on it."""
    if course.closed:
        return
    start, end = boundary_chains.ends_of(course, borders.map)
    count = float(len(course.curves))
    if junction == start and u < count / 2 and u > 0:
        course.curves = bezier.piece(course.curves, u, count)
    elif junction == end and count / 2 <= u < count:
        course.curves = bezier.piece(course.curves, 0.0, u)


def _crossing(borders: Borders) -> dict[int, set[int]]:
    """Return, for each course with a part that crosses something, which of its segments do."""
    planar = borders.map
    pieces: list[Path] = []
    owner: list[tuple[int, int]] = []
    for c, course in enumerate(borders.courses):
        for k, (arc, forward) in enumerate(course.arcs):
            first, last = float(course.breaks[k]), float(course.breaks[k + 1])
            curves = bezier.piece(course.curves, first, last)
            if not len(curves) or is_within(planar, arc):
                continue
            ends = (planar.start[arc], planar.end[arc]) if forward else (planar.end[arc], planar.start[arc])
            if ends[0] >= 0:
                # Exactly the same place for all that meet there.
                curves = curves.copy()
                curves[0, 0], curves[-1, 3] = borders.places[ends[0]], borders.places[ends[1]]
            pieces.append(Path(curves, closed=False))
            owner.append((c, int(np.floor(first))))
    bad: dict[int, set[int]] = {}
    for number, segments in meeting_segments(pieces, tolerance=_FLATTEN_PX).items():
        c, first = owner[number]
        count = len(borders.courses[c].curves)
        bad.setdefault(c, set()).update((first + k) % count for k in segments)
    return bad


def _settled(course: Course, spline: Spline, fit: FitSettings, seen: Seen) -> FloatArray:
    """Return the curves of a course's spline with its corners where the colours are."""
    course.spline, course.allowed_px = None, fit.allowed_px
    refit_outliers(spline, fit)
    if refine_corners_between(spline, seen, blur_px=fit.blur_px, tolerance_px=fit.allowed_px):
        refit_outliers(spline, fit, keep_corners=True)
    curves = spline.curves()
    gone = set(outliers(spline, fit))
    if not gone:
        course.spline = spline
        return curves
    turns = len(spline.points) if spline.closed else 0
    points = np.vstack([spline.points, spline.points]) if turns else spline.points
    return following_points(curves, points, gone, turns=turns)


def _bends(corners: FloatArray) -> FloatArray:
    """Return the polyline without points in the middle of straight runs."""
    step = np.diff(corners, axis=0)
    turn = step[:-1, 0] * step[1:, 1] - step[:-1, 1] * step[1:, 0]
    keep = np.concatenate([[True], np.abs(turn) > 1e-9, [True]])
    return np.asarray(corners[keep])
